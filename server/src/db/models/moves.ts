import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type NonAttribute,
  type Sequelize,
} from 'sequelize';
import {
  bind,
  id,
  text,
  textOrNone,
  int,
  ref,
  refOrNone,
  time,
  timeOrNone,
  json,
  jsonOrNone,
  flag,
  longText,
  longTextOrNone,
} from './define.ts';
import type { WayIn } from '@treenail/core';
import type { Errand, MoveStep, PlanContent } from '../../contract/index.ts';

/* Moves. */

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

/**
 * A course on its way from one instance to another: what it begins with, where it goes, how far it is. What was decided
 * of it stands in its plans, what was brought in its deliveries.
 */
export class Move extends Model<InferAttributes<Move>, InferCreationAttributes<Move>> {
  declare id: CreationOptional<number>;
  declare courseId: number;
  /** The kept copy that it begins with; `null` while that is fetched. */
  declare copyId: CreationOptional<number | null>;
  declare destinationId: number;
  declare createdBy: number;
  declare createdAt: Date;
  /** Course and destination while the move is not delivered: there is one such move at a time. */
  declare openKey: string | null;
  /** Nothing more is done for it, and it is not delivered. */
  declare calledOffAt: CreationOptional<Date | null>;
  /** Out of the list, unless asked for. */
  declare putAwayAt: CreationOptional<Date | null>;
  /** What it restores or gives of its copy; `null` of a move like any other. */
  declare errand: CreationOptional<Errand | null>;

  /* There where the move was read whole: see `WholeMove`. */
  declare steps?: NonAttribute<MoveStepRow[]>;
  declare plans?: NonAttribute<MovePlan[]>;
  declare deliveries?: NonAttribute<Delivery[]>;
}

/** A move with its steps, and with its plans and its deliveries, the earliest first (`services/move-rows.ts`). */
export type WholeMove = Move & Required<Pick<Move, 'steps' | 'plans' | 'deliveries'>>;

/** The plan that counts: the newest. */
export function planOf(move: WholeMove): MovePlan {
  const plan = move.plans.at(-1);
  if (!plan) throw new RangeError(`move ${move.id} has no plan`);
  return plan;
}

/** Whether all that was decided is in the working copy. */
export function isCurrent(move: WholeMove): boolean {
  const { workedVersion, tidyVersion } = planOf(move);
  return workedVersion === tidyVersion;
}

/** The delivery that was asked for last and is not taken back, with the package that is sent by it. */
export function deliveryOf(move: WholeMove): { delivery: Delivery; built: Built | null } | null {
  const delivery = move.deliveries.findLast((d) => d.takenBackAt === null);
  if (!delivery) return null;
  const plan = move.plans.find((p) => p.version === delivery.planVersion);
  return { delivery, built: delivery.built ?? plan?.built ?? null };
}

/** Whether what was sent by a delivery is at the destination. */
export function stands(delivery: Delivery): boolean {
  return delivery.deliveredAt !== null && delivery.takenBackAt === null;
}

/** Whether what stood there before can come again only from the copy that was kept of it. */
export function needsItsCopy({ way, brought }: Delivery): boolean {
  return way === 'in place of' || brought === null || brought.overwrote;
}

/** Whether anything of it is at the destination. */
export function isDelivered(move: WholeMove): boolean {
  return move.deliveries.some(stands);
}

/** Whether all is at the destination that was to go: nothing further is being made ready. */
export function isBrought(move: WholeMove): boolean {
  const { version } = planOf(move);
  return move.deliveries.some((d) => stands(d) && d.planVersion === version);
}

export function isDone(move: WholeMove, step: MoveStep): boolean {
  return move.steps.some((s) => s.step === step && s.state === 'done');
}

/** `ahead`: something is known of it, and it is not done; `open`: gone past, though something of it is left to decide. */
export type StepRowState = 'ahead' | 'open' | 'done';

/** How far a step of a move is; there is a row once something is to be said of it. */
export class MoveStepRow extends Model<InferAttributes<MoveStepRow>, InferCreationAttributes<MoveStepRow>> {
  declare moveId: number;
  declare step: MoveStep;
  declare state: StepRowState;
  /** One line for the spine. */
  declare result: string;
  /** Who decided it; `null` where Treenail went on by itself. */
  declare decidedBy: CreationOptional<number | null>;
  declare changedAt: Date;
}

/**
 * What is decided of a move. It can be changed until it is accepted, and stays then as it is: opened again, it is
 * followed by another version.
 */
export class MovePlan extends Model<InferAttributes<MovePlan>, InferCreationAttributes<MovePlan>> {
  declare id: CreationOptional<number>;
  declare moveId: number;
  declare version: number;
  /** Target of the format it is carried in: the one that keeps the most, or the one that a person chose. */
  declare carriedAs: CreationOptional<string | null>;
  declare formChosen: CreationOptional<boolean>;
  /** How often something was decided, and which of these the working copy has in it. */
  declare tidyVersion: CreationOptional<number>;
  declare workedVersion: CreationOptional<number>;
  declare acceptedAt: CreationOptional<Date | null>;
  declare acceptedBy: CreationOptional<number | null>;
  /** What was decided when it was accepted; `null` before, and of plans from before it was kept. */
  declare accepted: CreationOptional<PlanContent | null>;
  /** The package that was built of it. */
  declare built: CreationOptional<Built | null>;
  /** Of a part that goes where others went before. */
  declare further: CreationOptional<Further | null>;
}

/** How a move stood when a further part of it was begun, so that it stands there again if that is called off. */
export interface Further {
  /** Its own: one that was called off is not gone on with. */
  key: string;
  copyId: number | null;
  steps: { step: MoveStep; state: StepRowState; result: string; decidedBy: number | null }[];
}

/** What came by a delivery. */
export interface Brought {
  /** The destination's own names of what was not there before. */
  held: string[];
  /** How much learners had done in the course when it had come. */
  work: number;
  /** Whether anything that was there was overwritten by it. */
  overwrote: boolean;
}

/** A package that was sent, or is on its way, into a course of the destination. */
export class Delivery extends Model<InferAttributes<Delivery>, InferCreationAttributes<Delivery>> {
  declare id: CreationOptional<number>;
  declare moveId: number;
  declare planVersion: number;
  /** Key of its job: the same request is the same delivery. */
  declare requestKey: string;
  /** Title, section and term that were asked for. */
  declare asked: unknown;
  declare askedBy: number | null;
  declare askedAt: Date;
  declare shell: CreationOptional<Shell | null>;
  declare deliveredAt: CreationOptional<Date | null>;
  /** How it goes into a course that was there; `null` of one that goes into a new shell. */
  declare way: CreationOptional<WayIn | null>;
  /** The kept copy of what stood in that course before. */
  declare beforeCopyId: CreationOptional<number | null>;
  declare brought: CreationOptional<Brought | null>;
  /** The package that is sent, where it is another than was built of the plan. */
  declare built: CreationOptional<Built | null>;
  declare takenBackAt: CreationOptional<Date | null>;
}

export const DOCUMENT_KINDS = [
  'look',
  'links',
  'findings',
  'dates',
  'redate',
  'texts',
  'selection',
  'along',
  'supplies',
  'working',
  'forecast',
  'further',
  'sent',
  'into',
  'theirs',
  'settled',
  'log',
  'arrived',
  'pages',
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

/** What a person decided on findings of a move. */
export class DecisionRow extends Model<InferAttributes<DecisionRow>, InferCreationAttributes<DecisionRow>> {
  declare id: CreationOptional<number>;
  declare moveId: number;
  declare matchKind: string;
  declare matchGroupKey: string | null;
  declare matchKey: string | null;
  declare mend: string;
  declare params: unknown;
  declare reason: string;
  declare decidedBy: number | null;
  declare decidedAt: Date;
}

/** A file that was made of things of a kept copy, to be given to somebody. */
export class GivenFile extends Model<InferAttributes<GivenFile>, InferCreationAttributes<GivenFile>> {
  declare id: CreationOptional<number>;
  declare requestKey: string;
  declare copyId: number;
  /** Identifiers of what was asked for. */
  declare items: string[];
  /** What it is, in words. */
  declare words: string;
  declare target: string;
  /** `null` while it is being made. */
  declare built: CreationOptional<Built | null>;
  /** What the format could not hold: a sentence each. */
  declare losses: CreationOptional<string[] | null>;
  declare givenBy: number | null;
  declare givenAt: Date;
}

export function bindMoves(sequelize: Sequelize): void {
  bind(sequelize, Move, 'moves', {
    id,
    courseId: ref,
    copyId: refOrNone,
    destinationId: ref,
    createdBy: ref,
    createdAt: time,
    openKey: textOrNone,
    calledOffAt: timeOrNone,
    putAwayAt: timeOrNone,
    errand: jsonOrNone,
  });
  bind(sequelize, MoveStepRow, 'move_steps', {
    moveId: { ...ref, primaryKey: true },
    step: { ...text, primaryKey: true },
    state: text,
    result: longText,
    decidedBy: refOrNone,
    changedAt: time,
  });
  bind(sequelize, MovePlan, 'move_plans', {
    id,
    moveId: ref,
    version: ref,
    carriedAs: textOrNone,
    formChosen: { ...flag, defaultValue: false },
    tidyVersion: int,
    workedVersion: int,
    acceptedAt: timeOrNone,
    acceptedBy: refOrNone,
    accepted: jsonOrNone,
    built: jsonOrNone,
    further: jsonOrNone,
  });
  bind(sequelize, Delivery, 'deliveries', {
    id,
    moveId: ref,
    planVersion: ref,
    requestKey: text,
    asked: json,
    askedBy: refOrNone,
    askedAt: time,
    shell: jsonOrNone,
    deliveredAt: timeOrNone,
    way: textOrNone,
    beforeCopyId: refOrNone,
    brought: jsonOrNone,
    built: jsonOrNone,
    takenBackAt: timeOrNone,
  });
  bind(sequelize, GivenFile, 'given_files', {
    id,
    requestKey: text,
    copyId: ref,
    items: json,
    words: text,
    target: text,
    built: jsonOrNone,
    losses: jsonOrNone,
    givenBy: refOrNone,
    givenAt: time,
  });
  Move.hasMany(MoveStepRow, { as: 'steps', foreignKey: 'moveId' });
  Move.hasMany(MovePlan, { as: 'plans', foreignKey: 'moveId' });
  Move.hasMany(Delivery, { as: 'deliveries', foreignKey: 'moveId' });
  bind(sequelize, MoveDocument, 'move_documents', {
    moveId: { ...ref, primaryKey: true },
    kind: { ...text, primaryKey: true },
    content: json,
    writtenAt: time,
  });
  bind(sequelize, DecisionRow, 'decisions', {
    id,
    moveId: ref,
    matchKind: text,
    matchGroupKey: longTextOrNone,
    matchKey: longTextOrNone,
    mend: text,
    params: json,
    reason: text,
    decidedBy: refOrNone,
    decidedAt: time,
  });
}
