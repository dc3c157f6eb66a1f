import { AS_IT_WAS, type Along, type Decision, type Moment } from '@treenail/core';
import * as z from 'zod';
import { DecisionRow } from '../db/models/index.ts';
import { documentIfAny } from './documents.ts';

/** What people decided on findings of a move, the earliest first. */
export async function decisionsOf(moveId: number): Promise<Decision[]> {
  const rows = await DecisionRow.findAll({ where: { moveId }, order: [['id', 'ASC']] });
  return rows.map((row) => ({
    id: String(row.id),
    match: { kind: row.matchKind, groupKey: row.matchGroupKey, key: row.matchKey },
    mend: row.mend,
    params: z.record(z.string(), z.string()).parse(row.params),
    reason: row.reason,
  }));
}

/** From when on what goes can be seen; `null` where at once. */
export async function hiddenUntilOf(moveId: number): Promise<Moment | null> {
  return (await documentIfAny(moveId, 'selection'))?.hiddenUntil ?? null;
}

/** How what goes is to arrive. */
export async function alongOf(moveId: number): Promise<Along> {
  return (await documentIfAny(moveId, 'along')) ?? AS_IT_WAS;
}

/** Identifiers of items that a person leaves out. */
export async function leftOutOf(moveId: number): Promise<string[]> {
  return (await documentIfAny(moveId, 'selection'))?.leftOut ?? [];
}
