import { Problem } from '@treenail/core';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type ModelAttributes,
  type ModelStatic,
  type Sequelize,
} from 'sequelize';
import type { ExportFormId, Health, JobKind, JobState, MailChoice, Role } from '../contract/index.ts';

/* Class fields are declared only: real ones would hide Sequelize's getters. */

export class User extends Model<InferAttributes<User>, InferCreationAttributes<User>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare email: string;
  declare role: Role;
  declare passwordHash: string;
  declare mail: CreationOptional<MailChoice | null>;
}

export class Session extends Model<InferAttributes<Session>, InferCreationAttributes<Session>> {
  declare tokenHash: string;
  declare userId: number;
  declare expiresAt: Date;
}

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
}

export class CourseRow extends Model<InferAttributes<CourseRow>, InferCreationAttributes<CourseRow>> {
  declare id: CreationOptional<number>;
  declare instanceId: number;
  declare remoteId: string;
  declare code: string;
  declare section: string;
  declare term: string;
  declare title: string;
  declare owner: string;
  declare size: number;
  declare changedAt: Date;
  declare parts: CreationOptional<number | null>;
}

/** What came of the files of a shared repository that the texts of a copy link to. */
export interface LinkedFiles {
  /** By the address that pages have for it. */
  came: { address: string; sha256: string; size: number }[];
  missing: { address: string; why: string }[];
  /** Package paths of texts that could not be read for links. */
  unread: string[];
}

export class Copy extends Model<InferAttributes<Copy>, InferCreationAttributes<Copy>> {
  declare id: CreationOptional<number>;
  declare courseId: number | null;
  declare fileName: string;
  declare code: string;
  declare section: string;
  declare term: string;
  declare title: string;
  declare instanceName: string;
  declare format: string;
  declare size: number;
  declare sha256: string;
  declare items: number;
  declare keptAt: Date;
  /** What the copy was made by: the same source never makes two. */
  declare sourceKey: string;
  declare form: CreationOptional<ExportFormId>;
  /** Only chosen parts of the course. */
  declare partial: CreationOptional<boolean>;
  /** With what belongs to students. */
  declare personal: CreationOptional<boolean>;
  /** How many things the platform counted in the course when it was kept; `null` where it does not count them. */
  declare counted: CreationOptional<number | null>;
  /** How many of them were read: the items that stand in the outline. */
  declare shown: CreationOptional<number | null>;
  /** What packages of this form are known to lack, in words. */
  declare lacks: CreationOptional<string[] | null>;
  /** Files that its texts only link to; `null` where they were not asked for. */
  declare linked: CreationOptional<LinkedFiles | null>;
  /** The row stays when the bytes are removed, so that moves and reports can say what there was. */
  declare removedAt: CreationOptional<Date | null>;
  declare removedWhy: CreationOptional<string | null>;
  /** When its bytes were found to be no more what they were. */
  declare damagedAt: CreationOptional<Date | null>;
}

export interface Built {
  fileName: string;
  format: string;
  size: number;
  sha256: string;
}

export interface Shell {
  id: string;
  title: string;
  url: string;
}

export class Move extends Model<InferAttributes<Move>, InferCreationAttributes<Move>> {
  declare id: CreationOptional<number>;
  declare courseId: number;
  declare destinationId: number;
  declare createdBy: number;
  declare createdAt: Date;
  /** Course and destination while the move is not delivered: there is one such move at a time. */
  declare openKey: string | null;
  /** Target of the format it is carried in: the one that keeps the most, or the one that a person chose. */
  declare carriedAs: CreationOptional<string | null>;
  declare formChosen: CreationOptional<boolean>;
  /** Nothing more is done for it, and it is not delivered. */
  declare calledOffAt: CreationOptional<Date | null>;
  /** Out of the list, unless asked for. */
  declare putAwayAt: CreationOptional<Date | null>;
  /** Findings that nobody has decided on; `null` before it was looked. */
  declare openFindings: CreationOptional<number | null>;
  declare copyId: CreationOptional<number | null>;
  declare acceptedAt: CreationOptional<Date | null>;
  declare built: CreationOptional<Built | null>;
  declare shell: CreationOptional<Shell | null>;
  declare deliveredAt: CreationOptional<Date | null>;
  /** One line of result for each finished step, for the spine. */
  declare results: Record<string, string>;
  /** How often something was decided, and which of these the working copy has in it. */
  declare tidyVersion: CreationOptional<number>;
  declare workedVersion: CreationOptional<number>;
}

export const DOCUMENT_KINDS = [
  'look',
  'links',
  'findings',
  'texts',
  'selection',
  'supplies',
  'working',
  'forecast',
  'log',
  'arrived',
  'comparison',
  'report',
] as const;
export type DocumentKind = (typeof DOCUMENT_KINDS)[number];

export class MoveDocument extends Model<InferAttributes<MoveDocument>, InferCreationAttributes<MoveDocument>> {
  declare moveId: number;
  declare kind: DocumentKind;
  declare content: unknown;
  declare writtenAt: Date;
}

export class Job extends Model<InferAttributes<Job>, InferCreationAttributes<Job>> {
  declare id: CreationOptional<number>;
  declare kind: JobKind;
  declare requestKey: string;
  declare moveId: number | null;
  declare courseId: CreationOptional<number | null>;
  declare askedBy: CreationOptional<number | null>;
  declare course: string;
  declare input: unknown;
  declare state: JobState;
  declare words: string;
  declare ahead: CreationOptional<number | null>;
  declare done: CreationOptional<number>;
  declare total: CreationOptional<number>;
  declare unit: CreationOptional<string>;
  /** Tries since it last got on. */
  declare attempts: CreationOptional<number>;
  /** Since when it does not get on; `null` while it does. */
  declare troubledSince: CreationOptional<Date | null>;
  /** How often a worker that had it went silent. */
  declare lost: CreationOptional<number>;
  /** A person has called it off; its worker lets go of it. */
  declare callOff: CreationOptional<boolean>;
  /** What was asked for by one act of a person: told of by one mail. */
  declare batch: CreationOptional<string | null>;
  declare leasedBy: CreationOptional<string | null>;
  declare leaseUntil: CreationOptional<Date | null>;
  declare runAfter: Date;
  declare problem: CreationOptional<Problem | null>;
  declare createdAt: Date;
  declare changedAt: Date;
  declare finishedAt: CreationOptional<Date | null>;
  declare seenAt: CreationOptional<Date | null>;
}

/** Titles of the items and questions of the newest copy of each course: what the finder looks through. */
export class KeptItem extends Model<InferAttributes<KeptItem>, InferCreationAttributes<KeptItem>> {
  declare id: CreationOptional<number>;
  declare copyId: number;
  /** Identifier of the item; of a question, that of the quiz or bank that it is in. */
  declare item: string;
  declare kind: string;
  declare title: string;
}

/** Worker processes, and when each was heard of last. */
export class WorkerRow extends Model<InferAttributes<WorkerRow>, InferCreationAttributes<WorkerRow>> {
  declare name: string;
  declare seenAt: Date;
}

export class JobStep extends Model<InferAttributes<JobStep>, InferCreationAttributes<JobStep>> {
  declare jobId: number;
  declare name: string;
  declare result: unknown;
  declare finishedAt: Date;
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

/** Settings of the house: the naming rule, the term calendar. */
export class House extends Model<InferAttributes<House>, InferCreationAttributes<House>> {
  declare name: string;
  declare value: unknown;
}

export class SavedFilter extends Model<InferAttributes<SavedFilter>, InferCreationAttributes<SavedFilter>> {
  declare id: CreationOptional<number>;
  declare userId: number;
  declare name: string;
  declare filter: unknown;
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

/** What a person decided on findings of a move. */
export class DecisionRow extends Model<InferAttributes<DecisionRow>, InferCreationAttributes<DecisionRow>> {
  declare id: CreationOptional<number>;
  declare moveId: number;
  declare matchKind: string;
  declare matchLike: string | null;
  declare matchKey: string | null;
  declare mend: string;
  declare params: unknown;
  declare reason: string;
  declare decidedBy: number | null;
  declare decidedAt: Date;
}

/** A decision under a name, for any course. */
export class MendRule extends Model<InferAttributes<MendRule>, InferCreationAttributes<MendRule>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare content: unknown;
  declare madeBy: number | null;
  declare madeAt: Date;
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

export class AuditEntry extends Model<InferAttributes<AuditEntry>, InferCreationAttributes<AuditEntry>> {
  declare id: CreationOptional<number>;
  declare at: Date;
  declare userId: number | null;
  declare act: string;
  declare subject: string;
  declare detail: unknown;
}

const id = { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true };
const text = { type: DataTypes.STRING, allowNull: false };
const textOrNone = { type: DataTypes.STRING, allowNull: true };
const number = { type: DataTypes.BIGINT, allowNull: false, defaultValue: 0 };
const int = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 };
const ref = { type: DataTypes.INTEGER, allowNull: false };
const refOrNone = { type: DataTypes.INTEGER, allowNull: true };
const time = { type: DataTypes.DATE(3), allowNull: false };
const timeOrNone = { type: DataTypes.DATE(3), allowNull: true };
const json = { type: DataTypes.JSON, allowNull: false };
const jsonOrNone = { type: DataTypes.JSON, allowNull: true };
const flag = { type: DataTypes.BOOLEAN, allowNull: false };

/** Binds the models to a connection. The tables themselves are made by the migrations. */
export function bindModels(sequelize: Sequelize): void {
  const bind = <M extends Model>(model: ModelStatic<M>, tableName: string, attributes: ModelAttributes<M>) =>
    // Each model gets attribute objects of its own: Sequelize writes the column's name into them.
    model.init(
      Object.fromEntries(
        Object.entries(attributes).map(([name, a]) => [name, { ...(a as object) }]),
      ) as ModelAttributes<M>,
      { sequelize, tableName, timestamps: false, underscored: true },
    );
  bind(User, 'users', { id, name: text, email: text, role: text, passwordHash: text, mail: jsonOrNone });
  bind(Session, 'sessions', { tokenHash: { ...text, primaryKey: true }, userId: ref, expiresAt: time });
  bind(Instance, 'instances', {
    id,
    name: text,
    platform: text,
    baseUrl: text,
    credential: { type: DataTypes.BLOB, allowNull: false },
    gives: flag,
    takes: flag,
    listedAt: timeOrNone,
    trouble: textOrNone,
    health: jsonOrNone,
    cutOff: timeOrNone,
    cutOffWhy: textOrNone,
    pausedAt: timeOrNone,
    patienceMinutes: refOrNone,
  });
  bind(CourseRow, 'courses', {
    id,
    instanceId: ref,
    remoteId: text,
    code: text,
    section: text,
    term: text,
    title: text,
    owner: text,
    size: number,
    changedAt: time,
    parts: refOrNone,
  });
  bind(Copy, 'copies', {
    id,
    courseId: refOrNone,
    fileName: text,
    code: text,
    section: text,
    term: text,
    title: text,
    instanceName: text,
    format: text,
    size: number,
    sha256: text,
    items: int,
    keptAt: time,
    sourceKey: text,
    form: { ...text, defaultValue: 'standard' },
    partial: { ...flag, defaultValue: false },
    personal: { ...flag, defaultValue: false },
    counted: refOrNone,
    shown: refOrNone,
    lacks: jsonOrNone,
    linked: jsonOrNone,
    removedAt: timeOrNone,
    removedWhy: textOrNone,
    damagedAt: timeOrNone,
  });
  bind(Move, 'moves', {
    id,
    courseId: ref,
    destinationId: ref,
    createdBy: ref,
    createdAt: time,
    openKey: textOrNone,
    carriedAs: textOrNone,
    formChosen: { ...flag, defaultValue: false },
    calledOffAt: timeOrNone,
    putAwayAt: timeOrNone,
    openFindings: refOrNone,
    copyId: refOrNone,
    acceptedAt: timeOrNone,
    built: jsonOrNone,
    shell: jsonOrNone,
    deliveredAt: timeOrNone,
    results: json,
    tidyVersion: int,
    workedVersion: int,
  });
  bind(MoveDocument, 'move_documents', {
    moveId: { ...ref, primaryKey: true },
    kind: { ...text, primaryKey: true },
    content: json,
    writtenAt: time,
  });
  bind(Job, 'jobs', {
    id,
    kind: text,
    requestKey: text,
    moveId: refOrNone,
    courseId: refOrNone,
    askedBy: refOrNone,
    course: text,
    input: json,
    state: text,
    words: text,
    ahead: refOrNone,
    done: number,
    total: number,
    unit: { ...text, defaultValue: '' },
    attempts: int,
    troubledSince: timeOrNone,
    lost: int,
    callOff: { ...flag, defaultValue: false },
    batch: textOrNone,
    leasedBy: textOrNone,
    leaseUntil: timeOrNone,
    runAfter: time,
    problem: jsonOrNone,
    createdAt: time,
    changedAt: time,
    finishedAt: timeOrNone,
    seenAt: timeOrNone,
  });
  bind(KeptItem, 'kept_items', { id, copyId: ref, item: text, kind: text, title: text });
  bind(WorkerRow, 'workers', { name: { ...text, primaryKey: true }, seenAt: time });
  bind(JobStep, 'job_steps', {
    jobId: { ...ref, primaryKey: true },
    name: { ...text, primaryKey: true },
    result: json,
    finishedAt: time,
  });
  bind(ProfileVersion, 'profiles', {
    id,
    instanceId: ref,
    version: ref,
    content: json,
    changedBy: refOrNone,
    changedAt: time,
    note: text,
  });
  bind(House, 'house', { name: { ...text, primaryKey: true }, value: json });
  bind(SavedFilter, 'saved_filters', { id, userId: ref, name: text, filter: json });
  bind(DescriptionVersion, 'descriptions', {
    id,
    archive: text,
    version: ref,
    text: { type: DataTypes.TEXT, allowNull: false },
    inUse: flag,
    note: text,
    changedBy: refOrNone,
    changedAt: time,
  });
  bind(DecisionRow, 'decisions', {
    id,
    moveId: ref,
    matchKind: text,
    matchLike: { type: DataTypes.TEXT, allowNull: true },
    matchKey: { type: DataTypes.TEXT, allowNull: true },
    mend: text,
    params: json,
    reason: text,
    decidedBy: refOrNone,
    decidedAt: time,
  });
  bind(MendRule, 'mend_rules', { id, name: text, content: json, madeBy: refOrNone, madeAt: time });
  bind(OutsideAnswerRow, 'outside_answers', {
    addressHash: { ...text, primaryKey: true },
    address: { type: DataTypes.TEXT, allowNull: false },
    state: text,
    movedTo: { type: DataTypes.TEXT, allowNull: true },
    words: text,
    askedAt: time,
  });
  bind(AuditEntry, 'audit', { id, at: time, userId: refOrNone, act: text, subject: text, detail: json });
}
