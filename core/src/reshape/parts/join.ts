import * as z from 'zod';
import { portableEngine, type Package } from '../../container/index.ts';
import { readable, survey } from '../../inspect/index.ts';
import {
  Refusal,
  SETTINGS,
  SETTING_LABELS,
  definitionOf,
  isOneFile,
  kindOf,
  problem,
  sameSetting,
  walkOutline,
  type Course,
  type Item,
  type OutlineNode,
  type SettingName,
  type Settings,
} from '../../model/index.ts';
import { applyChanges, type Applied, type ApplyOptions, type Surveyed } from '../apply.ts';
import { addressesIn, called, freeName } from '../calling.ts';
import { ChangeSet } from '../changes.ts';
import { reweighed, type Reweighed } from './weights.ts';

/** Which of two that are one stays. */
export const KeepOf = z.enum(['first', 'second', 'both']);
export type KeepOf = z.infer<typeof KeepOf>;

/** How two courses become one. */
export const JoinPlan = z.object({
  title: z.string().trim().min(1).max(300),
  /** What stays of doubles, where nothing is said of one. */
  doubles: KeepOf,
  /** What stays of a double, by the identifier that its item has in the second course. */
  of: z.record(z.string(), KeepOf),
  /** Folders of one title become one, or stay as they are, the second course's after the first's. */
  folders: z.enum(['joined', 'apart']),
});
export type JoinPlan = z.infer<typeof JoinPlan>;

/** An item of the second course that the first has too. */
export interface Double {
  first: string;
  second: string;
  title: string;
  kind: Item['kind'];
  by: 'identifier' | 'substance' | 'title';
  /** Whether both say the same. */
  same: boolean;
}

/**
 * What both courses have: by the identifier, else by title and substance. Each item is in one double at most.
 * @param loosely also what has only its substance, or only its kind and title in common
 */
export function doublesOf(first: Course, second: Course, loosely = false): Double[] {
  const byId = new Map(first.items.map((item) => [item.id, item]));
  const bySubstance = new Map<string, Item>();
  for (const item of first.items) {
    const key = substanceOf(item);
    if (key !== null && !bySubstance.has(key)) bySubstance.set(key, item);
  }
  const taken = new Set<string>();
  const found: Double[] = [];
  const take = (own: Item, other: Item, by: Double['by']) => {
    taken.add(own.id);
    const same = substanceOf(own) === substanceOf(other) && settingsAlike(own, other);
    found.push({ first: own.id, second: other.id, title: other.title, kind: other.kind, by, same });
  };
  const rest = second.items.filter((item) => {
    const own = byId.get(item.id);
    if (own?.kind !== item.kind) return true;
    take(own, item, 'identifier');
    return false;
  });
  const unknown = rest.filter((item) => {
    const key = substanceOf(item);
    const own = key === null ? undefined : bySubstance.get(key);
    if (!own || taken.has(own.id)) return true;
    take(own, item, 'substance');
    return false;
  });
  if (!loosely) return found;
  const alike = (by: 'substance' | 'title', nameOf: (item: Item) => string | null) => {
    const named = new Map<string, Item[]>();
    for (const item of first.items) {
      const name = nameOf(item);
      const list = name === null ? undefined : named.get(name);
      if (list) list.push(item);
      else if (name !== null) named.set(name, [item]);
    }
    return (item: Item) => {
      const name = nameOf(item);
      const own = name === null ? undefined : named.get(name)?.find((i) => !taken.has(i.id));
      if (own) take(own, item, by);
      return !own;
    };
  };
  unknown.filter(alike('substance', printOf)).filter(alike('title', titleOf));
  return found;
}

function titleOf({ kind, title }: Item): string | null {
  const called = title.trim().toLowerCase();
  return called === '' ? null : `${kind} ${called}`;
}

function printOf(item: Item): string | null {
  const print = item.fingerprint ?? kindOf(item).fingerprint(item, readable);
  return print.trim() === '' ? null : `${item.kind} ${print}`;
}

/** What an item says, by which it is known again; `null` where it says too little for that. */
function substanceOf(item: Item): string | null {
  const print = printOf(item);
  return print === null ? null : JSON.stringify([item.title.trim(), print]);
}

const asRead = (html: string) => readable({ format: 'html', text: html });

function settingsAlike(one: Item, other: Item): boolean {
  const said = ({ settings }: Item) =>
    SETTINGS.filter((name) => settings[name] !== undefined && !isReference(name)).map((name) => [
      name,
      definitionOf(name).comparable(settings[name], asRead),
    ]);
  return JSON.stringify(said(one)) === JSON.stringify(said(other));
}

/** Settings that name other items or files: those are called otherwise in another course, and the same for all that. */
function isReference(name: SettingName): boolean {
  const { renamed, files } = definitionOf(name);
  return renamed !== undefined || files || name === 'leads';
}

export interface Joined extends Applied {
  doubles: Double[];
  weights: Reweighed[];
  /** What is set of the second course or its places and is not in the whole, since the first's is kept: a few words each. */
  notTaken: string[];
}

/**
 * Two courses as one. Neither is touched. What bears one identifier or one path and is not the same is called otherwise in the
 * second, and everything in it that speaks of it follows.
 * @throws Refusal `join-itself`
 */
export async function joined(
  first: Surveyed & { pkg: Package },
  second: Surveyed & { pkg: Package },
  plan: JoinPlan,
  options: ApplyOptions,
): Promise<Joined> {
  const doubles = doublesOf(first.course, second.course);
  const stays = (double: Double) => plan.of[double.second] ?? plan.doubles;
  const isWhole = doubles.length === first.course.items.length && doubles.length === second.course.items.length;
  if (isWhole && doubles.every((d) => d.same) && doubles.every((d) => stays(d) !== 'both')) {
    throw new Refusal(
      problem('join-itself', `“${second.course.title}” has nothing that “${first.course.title}” has not.`),
    );
  }
  const [mine, theirs] = [new ChangeSet(), new ChangeSet()];
  const calls = { mine: new Map<string, string>(), theirs: new Map<string, string>() };
  for (const double of doubles) {
    const keep = stays(double);
    if (keep === 'first') {
      theirs.leftOut.items.add(double.second);
      calls.theirs.set(double.second, double.first);
    } else if (keep === 'second') mine.leftOut.items.add(double.first);
  }
  keepApart(first.course, second.course, mine, theirs, calls.theirs);
  for (const double of doubles) {
    if (stays(double) === 'second') calls.mine.set(double.first, calls.theirs.get(double.second) ?? double.second);
  }
  pathsApart(first.course, second.course, theirs);
  for (const double of doubles) leadOver(double, stays(double), first.course, second.course, mine, theirs);
  addressesIn(first.links, calls.mine, mine);
  addressesIn(second.links, calls.theirs, theirs);
  const one = await applyChanges(first.pkg, first, mine, options);
  const other = await applyChanges(second.pkg, second, theirs, options);
  // Where what does not stay stood, the other stands, unless it has a place of its own.
  const renamedOne = called(
    {
      ...one.course,
      outline: outlineWithout(
        first.course.outline,
        mine.leftOut.items,
        placedIn(second.course, calls.theirs),
        calls.mine,
      ),
    },
    calls.mine,
  );
  const renamedOther = called(
    {
      ...other.course,
      outline: outlineWithout(
        second.course.outline,
        theirs.leftOut.items,
        placedIn(first.course, calls.mine),
        calls.theirs,
      ),
    },
    calls.theirs,
  );
  const files = new Map([...renamedOther.files, ...renamedOne.files].map((file) => [file.path, file]));
  const kept = new Keeping();
  const settings = kept.settings(renamedOne.settings ?? {}, renamedOther.settings ?? {}, 'the course');
  const together: Course = {
    ...renamedOne,
    title: plan.title,
    metadata: kept.metadata(renamedOne, renamedOther),
    ...(Object.keys(settings).length > 0 ? { settings } : {}),
    outline: outlineOf(renamedOne.outline, renamedOther.outline, plan.folders, kept),
    items: [...renamedOne.items, ...renamedOther.items],
    files: [...files.values()],
    ...peopleOf(renamedOne, renamedOther),
  };
  const weights = reweighed(together);
  const weighed = new Map(weights.map(({ item, will }) => [item, will]));
  const items = together.items.map((item) => {
    const weight = weighed.get(item.id);
    return weight === undefined ? item : { ...item, settings: { ...item.settings, weight } };
  });
  // Of the second only what the course has: its manifest is not that of both.
  const theirFiles = new Set(renamedOther.files.map((file) => file.path).filter((path) => !one.pkg.entries.has(path)));
  const pkg = one.pkg.overlaid(other.pkg, { removed: new Set(), renamed: new Map(), only: theirFiles });
  const { engine = portableEngine } = options;
  const surveyed = await survey(pkg, { ...together, items }, { engine });
  return {
    course: surveyed.course,
    links: surveyed.links,
    pkg,
    refused: [...one.refused, ...other.refused],
    doubles,
    weights,
    notTaken: [...kept.notTaken, ...placesGone(second.course, theirs), ...placesGone(first.course, mine)],
  };
}

/** Items of the second that bear an identifier of the first, and are another, are called otherwise. */
function keepApart(
  first: Course,
  second: Course,
  mine: ChangeSet,
  theirs: ChangeSet,
  calls: Map<string, string>,
): void {
  const taken = new Set(first.items.flatMap(({ id }) => (mine.leftOut.items.has(id) ? [] : [id])));
  for (const { id } of second.items) {
    if (theirs.leftOut.items.has(id)) continue;
    const free = freeName(id, taken);
    if (free !== id) calls.set(id, free);
    taken.add(free);
  }
}

/** Files of the second that lie where another of the first does get another path; the same file is held once. */
function pathsApart(first: Course, second: Course, theirs: ChangeSet): void {
  const byPath = new Map(first.files.map((file) => [file.path, file]));
  const taken = new Set([...byPath.keys(), ...second.files.map((file) => file.path)]);
  for (const { path, sha256 } of second.files) {
    const own = byPath.get(path);
    if (!own || (own.sha256 !== undefined && own.sha256 === sha256)) continue;
    const [, stem = path, ending = ''] = /^(.*?)(\.[^./]*)?$/.exec(path) ?? [];
    let free = path;
    for (let n = 2; taken.has(free); n++) free = `${stem}-${n}${ending}`;
    taken.add(free);
    theirs.renamed.set(path, free);
  }
}

/** What led to the page or file of a double that does not stay leads to the one that does. */
function leadOver(
  double: Double,
  keep: KeepOf,
  first: Course,
  second: Course,
  mine: ChangeSet,
  theirs: ChangeSet,
): void {
  const [own, other] = [
    first.items.find((i) => i.id === double.first),
    second.items.find((i) => i.id === double.second),
  ];
  if (!own || !other || !isOneFile(own) || !isOneFile(other) || keep === 'both') return;
  const theirPath = theirs.renamed.get(other.file) ?? other.file;
  if (own.file === theirPath) return;
  const [changes, path, into] =
    keep === 'first' ? ([theirs, other.file, own.file] as const) : ([mine, own.file, theirPath] as const);
  changes.merged.set(path, into);
  changes.leftOut.files.add(path);
}

/** Items that stand in the outline of a course, as they will be called. */
function placedIn({ outline }: Course, calls: ReadonlyMap<string, string>): Set<string> {
  return new Set(
    [...walkOutline(outline)].flatMap(({ node: { item } }) => (item === undefined ? [] : [calls.get(item) ?? item])),
  );
}

/** An outline without the places of what does not stay, where what takes its place has one in the other course. */
function outlineWithout(
  nodes: readonly OutlineNode[],
  gone: ReadonlySet<string>,
  placed: ReadonlySet<string>,
  calls: ReadonlyMap<string, string>,
): OutlineNode[] {
  return nodes.flatMap((node) => {
    const children = outlineWithout(node.children, gone, placed, calls);
    const { item } = node;
    if (item === undefined) return node.children.length > 0 && children.length === 0 ? [] : [{ ...node, children }];
    const goes = gone.has(item) && placed.has(calls.get(item) ?? item);
    return goes ? children : [{ ...node, children }];
  });
}

/** Both outlines as one, with identifiers of their own. */
function outlineOf(
  first: readonly OutlineNode[],
  second: readonly OutlineNode[],
  folders: JoinPlan['folders'],
  kept: Keeping,
): OutlineNode[] {
  const taken = new Set([...walkOutline(first)].map(({ node }) => node.id));
  const apart = (nodes: readonly OutlineNode[]): OutlineNode[] =>
    nodes.map((node) => {
      const id = freeName(node.id, taken);
      taken.add(id);
      return { ...node, id, children: apart(node.children) };
    });
  const theirs = apart(second);
  return folders === 'apart' ? [...first, ...theirs] : joinedFolders(first, theirs, kept);
}

const isFolder = (node: OutlineNode) => node.item === undefined && node.heading !== true;

function joinedFolders(first: readonly OutlineNode[], second: readonly OutlineNode[], kept: Keeping): OutlineNode[] {
  const left = [...second];
  const together = first.map((node) => {
    const at = isFolder(node)
      ? left.findIndex((other) => isFolder(other) && other.title.trim() === node.title.trim())
      : -1;
    const [same] = at < 0 ? [] : left.splice(at, 1);
    if (!same) return node;
    const settings = kept.settings(node.settings ?? {}, same.settings ?? {}, `the folder “${node.title}”`);
    const set = Object.keys(settings).length > 0 ? { settings } : {};
    return { ...node, ...set, children: joinedFolders(node.children, same.children, kept) };
  });
  return [...together, ...left];
}

/** Takes of the second what the first has not, and tells what of it is another and so is not taken. */
class Keeping {
  readonly notTaken: string[] = [];

  settings(first: Settings, second: Settings, of: string): Settings {
    const ledger = [...(first.unread ?? []), ...(second.unread ?? [])];
    for (const name of SETTINGS) {
      const [own, other] = [first[name], second[name]];
      if (name === 'unread' || own === undefined || other === undefined) continue;
      if (!sameSetting(name, own, other, asRead)) this.notTaken.push(`${SETTING_LABELS[name]} of ${of}`);
    }
    return { ...second, ...first, ...(ledger.length > 0 ? { unread: ledger } : {}) };
  }

  metadata({ metadata: first }: Course, { metadata: second }: Course): Course['metadata'] {
    for (const name of ['description', 'rights', 'language', 'catalogEntry'] as const) {
      const [own, other] = [first[name], second[name]];
      if (own !== undefined && other !== undefined && own !== other)
        this.notTaken.push(`${METADATA[name]} of the course`);
    }
    return { ...second, ...first, keywords: [...new Set([...first.keywords, ...second.keywords])] };
  }
}

const METADATA = {
  description: 'description',
  rights: 'rights',
  language: 'language',
  catalogEntry: 'catalogue entry',
};

/** Further places of doubles that do not stay, where something is set of them. */
function placesGone({ outline }: Course, { leftOut }: ChangeSet): string[] {
  return [...walkOutline(outline)].flatMap(({ node: { item, title, settings } }) =>
    item !== undefined && leftOut.items.has(item) && settings !== undefined && Object.keys(settings).length > 0
      ? [`what is set of a further place of “${title}”`]
      : [],
  );
}

function peopleOf({ personal: one }: Course, { personal: other }: Course): Pick<Course, 'personal'> {
  if (!one || !other) return one || other ? { personal: one ?? other } : {};
  const sum = (of: 'people' | 'submissions' | 'grades' | 'posts') => one[of] + other[of];
  return {
    personal: {
      people: sum('people'),
      submissions: sum('submissions'),
      grades: sum('grades'),
      posts: sum('posts'),
      files: [...new Set([...one.files, ...other.files])],
    },
  };
}
