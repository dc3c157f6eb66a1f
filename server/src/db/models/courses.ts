import {
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { ExportFormId } from '../../contract/index.ts';
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
  jsonOrNone,
  flag,
} from './define.ts';

/* The register of courses, and what is kept of them. */

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

/** Titles of the items and questions of the newest copy of each course: what the finder looks through. */
export class KeptItem extends Model<InferAttributes<KeptItem>, InferCreationAttributes<KeptItem>> {
  declare id: CreationOptional<number>;
  declare copyId: number;
  /** Identifier of the item; of a question, that of the quiz or bank that it is in. */
  declare item: string;
  declare kind: string;
  declare title: string;
}

export function bindCourses(sequelize: Sequelize): void {
  bind(sequelize, CourseRow, 'courses', {
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
  bind(sequelize, Copy, 'copies', {
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
  bind(sequelize, KeptItem, 'kept_items', { id, copyId: ref, item: text, kind: text, title: text });
}
