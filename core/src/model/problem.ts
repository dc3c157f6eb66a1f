import * as z from 'zod';
import { actOf, type ProblemCode } from './codes.ts';

/**
 * Something that a person must know or can act on: what is wrong, where, and what to do.
 * `code` is stable and listed in `codes.ts` and docs/problems.md; the sentences may change.
 */
export const Problem = z.object({
  code: z.string(),
  message: z.string(),
  /** What the person can do about it. */
  action: z.string(),
  /** Path inside the package. */
  file: z.string().optional(),
  /** Identifier or title of the item concerned. */
  item: z.string().optional(),
  /** 1-based line in `file`. */
  line: z.number().int().optional(),
});
export type Problem = z.infer<typeof Problem>;

/** A remark on input that was read all the same. */
export const Note = Problem.extend({ weight: z.enum(['remark', 'warning']) });
export type Note = z.infer<typeof Note>;

/** Thrown where input is refused as a whole; `problem` is what the person is told. */
export class Refusal extends Error {
  override readonly name = 'Refusal';
  readonly problem: Problem;

  constructor(problem: Problem, options?: ErrorOptions) {
    super(problem.message, options);
    this.problem = problem;
  }
}

/** Optional places of a problem; undefined ones are left out, so that problems compare and serialise plainly. */
export interface Place {
  file?: string | undefined;
  item?: string | undefined;
  line?: number | undefined;
}

function placed(place: Place): Pick<Problem, 'file' | 'item' | 'line'> {
  return {
    ...(place.file === undefined ? {} : { file: place.file }),
    ...(place.item === undefined ? {} : { item: place.item }),
    ...(place.line === undefined ? {} : { line: place.line }),
  };
}

/** What a person is told under a code. What to do stands in the catalogue; `act` is given where it hangs on the case. */
export function problem(code: ProblemCode, message: string, place: Place = {}, act: string = actOf(code)): Problem {
  return { code, message, action: act, ...placed(place) };
}

export function warning(code: ProblemCode, message: string, place: Place = {}, act: string = actOf(code)): Note {
  return { ...problem(code, message, place, act), weight: 'warning' };
}

export function remark(code: ProblemCode, message: string, place: Place = {}, act: string = actOf(code)): Note {
  return { ...problem(code, message, place, act), weight: 'remark' };
}
