import { declaredLosses, profileOn } from '../fit/index.ts';
import { FORMATS, targetById, type Target } from '../formats/index.ts';
import type { Course } from '../model/index.ts';
import { explain } from '../report/index.ts';
import { usage } from './call.ts';

/** What a course that was reshaped is written as, where nobody says: what it came as. @throws Refusal `usage` */
export function targetFor({ origin }: Course, to: string): Target {
  if (to !== '') return targetById(to).target;
  const own = FORMATS.find((f) => f.id === origin.format)?.targets.find((t) => t.version === origin.version);
  if (!own) throw usage(`What it came as, ${origin.format} ${origin.version}, is not written here: give --to.`);
  return own;
}

/** What a target does not hold whole of a course, in words. */
export function lossesOf(
  course: Course,
  target: Target,
): { item: string; kind: string; outcome: string; why: string }[] {
  return declaredLosses(course, profileOn(course, target)).map((line) => {
    const { title, kind, outcome } = line;
    return { item: title, kind, outcome, why: explain(line) };
  });
}
