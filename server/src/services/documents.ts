import {
  Along,
  Comparison,
  Course,
  CourseLink,
  Finding,
  Forecast,
  KnownDate,
  Moment,
  Note,
  RedatePlan,
  Refusal,
  Settled,
  TransferReport,
  problem,
} from '@treenail/core';
import type { Transaction } from 'sequelize';
import * as z from 'zod';
import { DeliverAnswer, FurtherState, Into, LookAnswer } from '../contract/index.ts';
import { MoveDocument, type DocumentKind } from '../db/models/index.ts';

const SCHEMAS = {
  look: LookAnswer.omit({ mended: true }),
  links: z.object({ links: z.array(CourseLink) }),
  findings: z.object({ findings: z.array(Finding) }),
  /** The blob that holds the texts to be searched. */
  /** Dates in texts and in calendar files; those of settings are in the course. */
  dates: z.object({ written: z.array(Finding), calendars: z.array(KnownDate), notes: z.array(Note) }),
  redate: RedatePlan,
  texts: z.object({ sha256: z.string() }),
  selection: z.object({ leftOut: z.array(z.string()), hiddenUntil: Moment.nullable().default(null) }),
  /** How what goes is to arrive. */
  along: Along,
  /** Blobs of files that are copied in, by the address that pages have for them. */
  supplies: z.object({ files: z.record(z.string(), z.string()) }),
  working: z.object({
    course: Course,
    mended: z.array(z.string()),
    failed: z.array(z.object({ key: z.string(), decision: z.string(), why: z.string() })),
  }),
  forecast: Forecast,
  /** How the course stands beside what went before. */
  further: FurtherState,
  /** All that was delivered so far: as it went, as it was at its source, and what was foretold of it. */
  sent: z.object({
    course: Course,
    source: Course,
    forecast: Forecast,
    /** Kept copies that items went from, by the items' identifiers. */
    from: z.record(z.string(), z.number()).default({}),
  }),
  /** The course that it goes into, as it was looked at last before. */
  into: Into,
  /** The course as a delivery brings it, where something was decided of what meets its like there; `version` is its plan's. */
  settled: z.object({
    version: z.number().int(),
    course: Course,
    settled: Settled,
    /** Identifiers of items there that are taken out for ours. */
    taken: z.array(z.string()),
    /** Titles of theirs that ours take the place of, and of ours that are not sent. */
    replaced: z.array(z.string()),
    unsent: z.array(z.string()),
  }),
  /** What became of what stood there before, where it went beside that. */
  theirs: z.object({ says: z.string() }),
  log: DeliverAnswer,
  arrived: Course,
  /** Texts of arrived pages, by the identifiers of their items. */
  pages: z.object({ pages: z.record(z.string(), z.string()) }),
  comparison: Comparison,
  report: TransferReport,
} satisfies Record<DocumentKind, z.ZodType>;

export type DocumentOf<K extends DocumentKind> = z.infer<(typeof SCHEMAS)[K]>;

export async function writeDocument<K extends DocumentKind>(
  moveId: number,
  kind: K,
  content: DocumentOf<K>,
  transaction?: Transaction,
): Promise<void> {
  const row = { moveId, kind, content, writtenAt: new Date() };
  await MoveDocument.upsert(row, transaction ? { transaction } : {});
}

/** The log so far: empty before the platform has begun. */
export async function readLog(moveId: number): Promise<DocumentOf<'log'>> {
  const row = await MoveDocument.findOne({ where: { moveId, kind: 'log' } });
  return row ? DeliverAnswer.parse(row.content) : { log: [] };
}

/** `null` where the step that writes it is not done, or was before there was such a document. */
export async function documentIfAny<K extends DocumentKind>(moveId: number, kind: K): Promise<DocumentOf<K> | null> {
  const row = await MoveDocument.findOne({ where: { moveId, kind } });
  return row ? (SCHEMAS[kind].parse(row.content) as DocumentOf<K>) : null;
}

/** @throws Refusal `not-yet` where the step that writes it is not done */
export async function readDocument<K extends DocumentKind>(
  moveId: number,
  kind: K,
  transaction?: Transaction,
): Promise<DocumentOf<K>> {
  const row = await MoveDocument.findOne({ where: { moveId, kind }, ...(transaction ? { transaction } : {}) });
  if (!row) throw new Refusal(problem('not-yet', 'This step of the move is not done yet.'));
  return SCHEMAS[kind].parse(row.content) as DocumentOf<K>;
}
