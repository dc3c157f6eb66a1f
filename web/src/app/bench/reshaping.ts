import {
  DATE_IN_WORDS,
  Refusal,
  doublesOf,
  joined,
  lookInto,
  partAsCourse,
  portableEngine,
  problem,
  proposeSplits,
  splitOf,
  termsOfDates,
  walkOutline,
  type JoinPlan,
  type Looked,
  type SplitPlan,
  type WorkingCopy,
} from '@treenail/core';
import type { RedateData } from '../redate/redate-view';
import { current, mended, opened, packing, say, written } from './at-work';
import type { Common, Converted, Cuts, Decided, HouseCalendar, PartAnswer, Source } from './messages';
import { knownDates, today } from './open-dates';
import { blobOf, inBlob } from './source-bytes';

/* What is open with other dates, cut in parts, or made one with another. */

export async function dates(house: HouseCalendar, decided: Decided): Promise<RedateData> {
  const { pkg, whole } = current();
  const looked = await whole;
  const { course } = looked;
  const known = await knownDates(pkg, looked, decided.leftOut);
  const [from, to] = termsOfDates(known.dates, house);
  const folders = [...walkOutline(course.outline)].flatMap(({ node: { id, title, children } }) =>
    children.length > 0 ? [{ id, title }] : [],
  );
  return { ...known, ...house, folders, today: today(), from, to };
}

export async function cuts({ terms, zone }: HouseCalendar, decided: Decided): Promise<Cuts> {
  const { course } = await mended(decided);
  return { course, proposals: proposeSplits(course, { terms, zone }) };
}

export async function parts(plan: SplitPlan, decided: Decided): Promise<PartAnswer[]> {
  const { course, links } = await mended(decided);
  return splitOf(course, links, plan).map(({ title, items, shared, dangling, weights, points }) => ({
    title,
    items: [...items],
    shared,
    dangling,
    weights,
    points,
  }));
}

export async function split(plan: SplitPlan, target: string, decided: Decided): Promise<Converted[]> {
  const copy = await mended(decided);
  const made: Converted[] = [];
  for (const part of splitOf(copy.course, copy.links, plan)) {
    const one = await partAsCourse(copy.pkg, copy, part, { engine: portableEngine, scratch: inBlob });
    const file = await written(one, target, part.title);
    made.push({ ...file, losses: [...(made.length === 0 ? undated(copy) : []), ...file.losses] });
  }
  return made;
}

/** What is to be joined with what is open. */
let joining: Looked | null = null;

export async function doubles(source: Source, described: readonly string[], decided: Decided): Promise<Common> {
  const { course } = await mended(decided);
  const read = await opened(source, await blobOf(source, packing), described);
  joining = await lookInto(read, {
    engine: portableEngine,
    onProgress: ({ done, total }) => say({ progress: done, total }),
  });
  const { title, items } = joining.course;
  return { title, items: items.length, doubles: doublesOf(course, joining.course) };
}

export async function join(plan: JoinPlan, target: string, decided: Decided): Promise<Converted> {
  if (!joining) throw new Refusal(problem('nothing-open', 'No package is open.'));
  const copy = await mended(decided);
  const whole = await joined(copy, joining, plan, { engine: portableEngine, scratch: inBlob });
  const made = await written(whole, target, plan.title);
  const notTaken = whole.notTaken.map((what) => ({
    title: joining?.course.title ?? '',
    why: `not taken of it: ${what}`,
  }));
  return { ...made, losses: [...notTaken, ...undated(copy), ...made.losses] };
}

/** Dates in texts that could not be written. */
export function undated({ failed }: WorkingCopy): Converted['losses'] {
  return failed
    .filter(({ key }) => key.startsWith(`${DATE_IN_WORDS}|`))
    .map(({ key, why }) => ({ title: key.split('|').at(3) ?? key, why: `the date in the text is as it was: ${why}` }));
}
