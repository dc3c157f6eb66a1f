import type { Problem } from '@treenail/core';
import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { JobKind, JobState } from '../../contract/index.ts';
import {
  bind,
  id,
  text,
  textOrNone,
  number,
  int,
  ref,
  refOrNone,
  time,
  timeOrNone,
  json,
  jsonOrNone,
  flag,
} from './define.ts';

/* Jobs, their steps, and the workers that do them. */

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

export class JobStep extends Model<InferAttributes<JobStep>, InferCreationAttributes<JobStep>> {
  declare jobId: number;
  declare name: string;
  declare result: unknown;
  declare finishedAt: Date;
}

/** Worker processes, and when each was heard of last. */
export class WorkerRow extends Model<InferAttributes<WorkerRow>, InferCreationAttributes<WorkerRow>> {
  declare name: string;
  declare seenAt: Date;
}

export function bindJobs(sequelize: Sequelize): void {
  bind(sequelize, Job, 'jobs', {
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
  bind(sequelize, JobStep, 'job_steps', {
    jobId: { ...ref, primaryKey: true },
    name: { ...text, primaryKey: true },
    result: json,
    finishedAt: time,
  });
  bind(sequelize, WorkerRow, 'workers', { name: { ...text, primaryKey: true }, seenAt: time });
}
