import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
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
  longTextOrNone,
} from './define.ts';

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

export function bindMoves(sequelize: Sequelize): void {
  bind(sequelize, Move, 'moves', {
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
    matchLike: longTextOrNone,
    matchKey: longTextOrNone,
    mend: text,
    params: json,
    reason: text,
    decidedBy: refOrNone,
    decidedAt: time,
  });
}
