import type { CodeDefinition } from './code-definition.ts';
import { OF_FILES } from './file-codes.ts';
import { NOTED } from './note-codes.ts';
import { OF_WORK } from './work-codes.ts';

/**
 * Every code that Treenail gives to what it refuses, or notes: when, what to do about it, and its status. A code is stable.
 * The sentence that names what it speaks of, and what to do where that hangs on the case, stand where it is given.
 * `docs/problems.md` is this list.
 */

export const CODES = { 'Refusals of files': OF_FILES, Notes: NOTED, 'Refusals at work': OF_WORK };

export type ProblemCode = keyof typeof OF_FILES | keyof typeof NOTED | keyof typeof OF_WORK;

const ALL: Readonly<Record<ProblemCode, CodeDefinition>> = { ...OF_FILES, ...NOTED, ...OF_WORK };

/** What a person can do about what bears the code. */
export function actOf(code: ProblemCode): string {
  return ALL[code].act;
}

/** The HTTP status that goes with a code; of one that an older Treenail gave, or another program, that of a refusal. */
export function statusOf(code: string): number {
  return (Object.hasOwn(ALL, code) ? ALL[code as ProblemCode].status : undefined) ?? 422;
}
