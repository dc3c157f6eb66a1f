import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { QuietHours } from '@treenail/core';
import type { Health } from '../../contract/index.ts';
import {
  bind,
  id,
  text,
  textOrNone,
  ref,
  refOrNone,
  time,
  timeOrNone,
  json,
  jsonOrNone,
  flag,
  longText,
  longTextOrNone,
  bytes,
} from './define.ts';

/* Connected instances, and what the house knows of platforms and archives. */

export class Instance extends Model<InferAttributes<Instance>, InferCreationAttributes<Instance>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare platform: string;
  declare baseUrl: string;
  declare credential: Buffer;
  declare gives: boolean;
  declare takes: boolean;
  declare listedAt: CreationOptional<Date | null>;
  declare trouble: CreationOptional<string | null>;
  declare health: CreationOptional<Health | null>;
  declare cutOff: CreationOptional<Date | null>;
  declare cutOffWhy: CreationOptional<string | null>;
  /** While it is paused, no job asks it for anything. */
  declare pausedAt: CreationOptional<Date | null>;
  /** How long a job waits for it while it does not answer; the house's patience where nothing is set. */
  declare patienceMinutes: CreationOptional<number | null>;
  /** Hours in which it is little used, by the clock of the house. */
  declare quiet: CreationOptional<QuietHours | null>;
}

/** What an instance can hold, as it was set at some time: the highest version counts. */
export class ProfileVersion extends Model<InferAttributes<ProfileVersion>, InferCreationAttributes<ProfileVersion>> {
  declare id: CreationOptional<number>;
  declare instanceId: number;
  declare version: number;
  declare content: unknown;
  declare changedBy: number | null;
  declare changedAt: Date;
  declare note: string;
}

/** One version of an archive's description; the newest counts. */
export class DescriptionVersion extends Model<
  InferAttributes<DescriptionVersion>,
  InferCreationAttributes<DescriptionVersion>
> {
  declare id: CreationOptional<number>;
  declare archive: string;
  declare version: number;
  declare text: string;
  declare inUse: boolean;
  declare note: string;
  declare changedBy: number | null;
  declare changedAt: Date;
}

/** What an outside address answered when it was asked last. */
export class OutsideAnswerRow extends Model<
  InferAttributes<OutsideAnswerRow>,
  InferCreationAttributes<OutsideAnswerRow>
> {
  declare addressHash: string;
  declare address: string;
  declare state: string;
  declare movedTo: string | null;
  declare words: string;
  declare askedAt: Date;
}

export function bindPlatforms(sequelize: Sequelize): void {
  bind(sequelize, Instance, 'instances', {
    id,
    name: text,
    platform: text,
    baseUrl: text,
    credential: bytes,
    gives: flag,
    takes: flag,
    listedAt: timeOrNone,
    trouble: textOrNone,
    health: jsonOrNone,
    cutOff: timeOrNone,
    cutOffWhy: textOrNone,
    pausedAt: timeOrNone,
    patienceMinutes: refOrNone,
    quiet: jsonOrNone,
  });
  bind(sequelize, ProfileVersion, 'profiles', {
    id,
    instanceId: ref,
    version: ref,
    content: json,
    changedBy: refOrNone,
    changedAt: time,
    note: text,
  });
  bind(sequelize, DescriptionVersion, 'descriptions', {
    id,
    archive: text,
    version: ref,
    text: longText,
    inUse: flag,
    note: text,
    changedBy: refOrNone,
    changedAt: time,
  });
  bind(sequelize, OutsideAnswerRow, 'outside_answers', {
    addressHash: { ...text, primaryKey: true },
    address: longText,
    state: text,
    movedTo: longTextOrNone,
    words: text,
    askedAt: time,
  });
}
