import { Comparison, Course, Forecast, Refusal, TransferReport, problem } from '@treenail/core';
import * as z from 'zod';
import { DeliverAnswer, LookAnswer } from '../api/contract.ts';
import { MoveDocument, type DocumentKind } from '../db/models.ts';

const SCHEMAS = {
  look: LookAnswer,
  forecast: Forecast,
  log: DeliverAnswer,
  arrived: Course,
  comparison: Comparison,
  report: TransferReport,
} satisfies Record<DocumentKind, z.ZodType>;

export type DocumentOf<K extends DocumentKind> = z.infer<(typeof SCHEMAS)[K]>;

export async function writeDocument<K extends DocumentKind>(
  moveId: number,
  kind: K,
  content: DocumentOf<K>,
): Promise<void> {
  await MoveDocument.upsert({ moveId, kind, content, writtenAt: new Date() });
}

/** The log so far: empty before the platform has begun. */
export async function readLog(moveId: number): Promise<DocumentOf<'log'>> {
  const row = await MoveDocument.findOne({ where: { moveId, kind: 'log' } });
  return row ? DeliverAnswer.parse(row.content) : { log: [] };
}

/** @throws Refusal `not-yet` where the step that writes it is not done */
export async function readDocument<K extends DocumentKind>(moveId: number, kind: K): Promise<DocumentOf<K>> {
  const row = await MoveDocument.findOne({ where: { moveId, kind } });
  if (!row)
    throw new Refusal(problem('not-yet', 'This step of the move is not done yet.', 'Wait for the step before it.'));
  return SCHEMAS[kind].parse(row.content) as DocumentOf<K>;
}
