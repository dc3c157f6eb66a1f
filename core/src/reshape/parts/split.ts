import type { Package } from '../../container/index.ts';
import type { CourseLink } from '../../inspect/index.ts';
import { escapeXml } from '../../markup/index.ts';
import { walkOutline, type Course, type OutlineNode } from '../../model/index.ts';
import { applyChanges, type Applied, type ApplyOptions, type Surveyed } from '../apply.ts';
import { ChangeSet } from '../changes.ts';
import { needsOf, selectionOf, type Selection } from '../select.ts';
import { checkSplit, partsOfItems, placesLeftOut, placesOf, type SplitPlan } from './plan.ts';
import { reweighed, type Reweighed } from './weights.ts';

type Dangling = Selection['dangling'][number];
/** What becomes of what leads over the cut. */
export type CutFate = 'leads nowhere' | 'leads to the other course' | 'only its words are left';

/** One part of a course that is split, before anything is written. */
export interface Part {
  title: string;
  term: SplitPlan['parts'][number]['term'];
  /** Identifiers of items that are in it. */
  items: ReadonlySet<string>;
  /** Of items and places of the outline that are not. */
  out: { items: ReadonlySet<string>; nodes: ReadonlySet<string> };
  /** Items that are in another part too, and why: they were put into all, or something here needs them. */
  shared: { item: string; title: string; why: string }[];
  /** What leads, or hangs, over the cut, and what becomes of that. */
  dangling: (Dangling & { becomes: CutFate })[];
  /** Addresses of items that are in another part, where that is known, and whether only words are left of other links. */
  over: { addresses: ReadonlyMap<string, string>; words: boolean };
  weights: Reweighed[];
  /** Points of its grade columns, or of what bears points where it has none. */
  points: number;
}

/** What becomes of a course that is split: every item in one part, or shared. @throws Refusal as `checkSplit` */
export function splitOf(course: Course, links: readonly CourseLink[], plan: SplitPlan): Part[] {
  checkSplit(course, plan);
  const told = partsOfItems(course, plan);
  const titles = new Map(course.items.map((i) => [i.id, i.title]));
  const where = placesOf(course, plan);
  const known = new Set(course.items.map((item) => item.id));
  const needs = new Map(course.items.map((item) => [item.id, needsOf(item, course, known).items]));
  const inPart = plan.parts.map((_, n) => {
    const own = new Set<string>();
    for (const [id, part] of told) {
      if (part === 'all' || part === n || (part instanceof Set && part.has(n))) own.add(id);
    }
    return own;
  });
  followColumns(course, told, inPart);
  // What stands in no place and is told nowhere goes where it is needed; what nobody needs goes into all.
  const neededBy = inPart.map((own) => closure(own, needs));
  for (const [id, part] of told) {
    if (part !== null || inPart.some((own) => own.has(id))) continue;
    if (neededBy.every((needed) => !needed.has(id))) for (const own of inPart) own.add(id);
  }
  const inPartWithNeeds = inPart.map((own) => closure(own, needs));
  return plan.parts.map(({ title, term }, n) => {
    const items = inPartWithNeeds[n] ?? new Set<string>();
    const out = new Set(course.items.flatMap(({ id }) => (items.has(id) ? [] : [id])));
    const elsewhere = (id: string) => inPartWithNeeds.some((other, i) => i !== n && other.has(id));
    const shared = [...items].filter(elsewhere).map((id) => {
      const why = inPart[n]?.has(id) ? 'goes into all' : `needed by “${titles.get(byWhom(id, items, needs)) ?? ''}”`;
      return { item: id, title: titles.get(id) ?? id, why };
    });
    const addresses = new Map(
      [...out].flatMap((id) => {
        const has = plan.parts.find((other, i) => other.address !== undefined && inPartWithNeeds[i]?.has(id));
        return has?.address ? [[id, has.address]] : [];
      }),
    );
    const words = plan.cutLinks === 'words';
    const fate = ({ is, to }: Dangling): CutFate => {
      if (is === 'condition') return 'leads nowhere';
      return addresses.has(to) ? 'leads to the other course' : words ? 'only its words are left' : 'leads nowhere';
    };
    const left = { items: course.items.filter((i) => items.has(i.id)) };
    return {
      title,
      term,
      items,
      out: { items: out, nodes: placesLeftOut(course.outline, where, n) },
      shared,
      dangling: selectionOf(course, out, links).dangling.map((one) => ({ ...one, becomes: fate(one) })),
      over: { addresses, words },
      weights: reweighed(left),
      points: pointsOf(left),
    };
  });
}

/** A grade column goes with what it grades. */
function followColumns(course: Course, told: ReturnType<typeof partsOfItems>, inPart: readonly Set<string>[]): void {
  for (const { id, kind, settings } of course.items) {
    const graded = settings.gradesItem;
    if (kind !== 'column' || graded === undefined || told.get(id) !== null) continue;
    for (const own of inPart) if (own.has(graded)) own.add(id);
  }
}

/** Items, and all that they need. */
function closure(own: ReadonlySet<string>, needs: ReadonlyMap<string, ReadonlySet<string>>): Set<string> {
  const found = new Set(own);
  const queue = [...own];
  for (let id = queue.pop(); id !== undefined; id = queue.pop()) {
    for (const needed of needs.get(id) ?? []) {
      if (found.has(needed)) continue;
      found.add(needed);
      queue.push(needed);
    }
  }
  return found;
}

function byWhom(id: string, items: ReadonlySet<string>, needs: ReadonlyMap<string, ReadonlySet<string>>): string {
  for (const item of items) if (needs.get(item)?.has(id)) return item;
  return '';
}

function pointsOf({ items }: Pick<Course, 'items'>): number {
  const columns = items.filter((i) => i.kind === 'column');
  const bear = columns.length > 0 ? columns : items;
  return bear.reduce((sum, { settings }) => sum + (settings.points ?? 0), 0);
}

/**
 * A part as a course of its own, and the package in which its files are. The course that it is taken from stays as it is, and
 * its package is read on: to close that of a part would close it for the others.
 */
export async function partAsCourse(
  pkg: Package,
  before: Surveyed,
  { title, term, out, weights, over }: Part,
  options: ApplyOptions,
): Promise<Applied> {
  const changes = new ChangeSet();
  for (const id of out.items) changes.leftOut.items.add(id);
  for (const id of out.nodes) changes.leftOut.nodes.add(id);
  for (const { item, will } of weights) {
    changes.change(item, (one) => ({ ...one, settings: { ...one.settings, weight: will } }));
  }
  ownPlaces(before.course, out.nodes, changes);
  cutLinks(before.links, out.items, over, changes);
  const applied = await applyChanges(pkg, before, changes, options);
  const { identity } = applied.course;
  const named = identity && term ? { identity: { ...identity, term: term.name } } : {};
  return { ...applied, course: { ...applied.course, ...named, title } };
}

/** Links over the cut lead to the other course, or only their words are left, or they stay as they are. */
function cutLinks(
  links: readonly CourseLink[],
  out: ReadonlySet<string>,
  { addresses, words }: Part['over'],
  changes: ChangeSet,
): void {
  for (const { item, part, file, to, use, at, element } of links) {
    if (item === null || to === null || out.has(item) || !out.has(to) || use !== 'anchor') continue;
    const address = addresses.get(to);
    if (address !== undefined) changes.cut({ item, part, file }, [{ ...at, text: escapeXml(address) }]);
    else if (words && element?.close)
      changes.cut({ item, part, file }, [
        { ...element.open, text: '' },
        { ...element.close, text: '' },
      ]);
  }
}

/**
 * What is set of an item in its first place stands with the item. Where that place is in another part, what is set of the
 * first that is here takes its place.
 */
function ownPlaces({ outline }: Course, out: ReadonlySet<string>, changes: ChangeSet): void {
  const first = new Map<string, OutlineNode>();
  const here = new Set<string>();
  for (const { node } of walkOutline(outline)) {
    const { item } = node;
    if (item === undefined) continue;
    const begins = first.get(item) ?? node;
    first.set(item, begins);
    if (out.has(node.id) || here.has(item)) continue;
    here.add(item);
    const { settings } = node;
    if (begins === node || settings === undefined) continue;
    changes.change(item, (one) => ({ ...one, settings: { ...one.settings, ...settings } }));
    changes.changePlace(node.id, () => ({}));
  }
}
