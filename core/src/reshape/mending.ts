import type { Package } from '../container/index.ts';
import type { CourseLink, Finding } from '../inspect/index.ts';
import type { Course, Item } from '../model/index.ts';
import type { Splice } from '../markup/index.ts';
import { ChangeSet, itemsById, placeOf, textAt, type ItemsById } from './changes.ts';
import { paramsFor, type Decision } from './decisions.ts';
import { mendKind, type Workbench } from './mends/index.ts';

/** A finding and what was decided of it. */
export interface Asked {
  finding: Finding;
  decision: Pick<Decision, 'id' | 'mend' | 'params'>;
}

/** What mends were asked for and what came of it. */
export interface Mended {
  /** Keys of findings that are mended. */
  mended: Set<string>;
  failed: { key: string; decision: string; why: string }[];
}

/** What was fetched to be copied in, or given by a person: the path it gets and its bytes, by address. */
export type Supplies = ReadonlyMap<string, { path: string; bytes: Uint8Array }>;

/** Lets mends say what they want changed, and gathers it. All of them see the course as it was found. */
export class Mending implements Workbench, Mended {
  readonly course: Course;
  readonly items: ItemsById;
  readonly links: readonly CourseLink[];
  readonly changes = new ChangeSet();
  readonly mended = new Set<string>();
  readonly failed: Mended['failed'] = [];
  private readonly pkg: Package;
  private readonly supplies: Supplies;
  /** The decision that each finding was mended by. */
  private readonly decisionOf = new Map<string, string>();
  /** What the mend that speaks now wants cut; taken over only if all of it can be. */
  private pending: { finding: Finding; splice: Splice }[] = [];
  private sources = new Map<string, string>();

  constructor(pkg: Package, course: Course, links: readonly CourseLink[], supplies: Supplies = new Map()) {
    this.pkg = pkg;
    this.course = course;
    this.links = links;
    this.supplies = supplies;
    this.items = itemsById(course);
  }

  cut(finding: Finding, start: number, end: number, text: string): void {
    this.pending.push({ finding, splice: { start, end, text } });
  }

  source(finding: Finding): string | null {
    return this.sources.get(placeOf(finding)) ?? null;
  }

  change(item: string, change: (item: Item) => Item): void {
    this.changes.change(item, change);
  }

  changePlace(node: string, change: (settings: Item['settings']) => Item['settings']): void {
    this.changes.changePlace(node, change);
  }

  leaveOut(what: { item: string } | { node: string } | { file: string }): void {
    const { items, nodes, files } = this.changes.leftOut;
    if ('item' in what) items.add(what.item);
    else if ('node' in what) nodes.add(what.node);
    else files.add(what.file);
  }

  rename(file: string, to: string): string | null {
    if (to === file) return null;
    const { renamed } = this.changes;
    if (this.pkg.entries.has(to) || [...renamed.values()].includes(to)) return `there is a file ${to} already`;
    renamed.set(file, to);
    return null;
  }

  merge(file: string, into: string): void {
    this.changes.merged.set(file, into);
    this.changes.leftOut.files.add(file);
  }

  remake(file: string, finding: Finding): void {
    this.changes.remade.set(file, finding.key);
  }

  supplied(address: string): string | null {
    const { supplied } = this.changes;
    const before = supplied.get(address);
    if (before) return before.path;
    const found = this.supplies.get(address);
    if (!found) return null;
    const path = this.free(found.path);
    supplied.set(address, { path, bytes: found.bytes });
    return path;
  }

  /** A path that nothing of the package and nothing else that was supplied has. */
  private free(path: string): string {
    const taken = new Set([...this.changes.supplied.values()].map((file) => file.path));
    const [, stem = path, ending = ''] = /^(.*?)(\.[^./]*)?$/.exec(path) ?? [];
    let free = path;
    for (let n = 2; this.pkg.entries.has(free) || taken.has(free); n++) free = `${stem}-${n}${ending}`;
    return free;
  }

  stripPeople(): void {
    this.changes.withoutPeople = true;
    for (const path of this.course.personal?.files ?? []) this.changes.leftOut.files.add(path);
  }

  /** Mends of items and files go first: a text that is left out needs no mending. */
  async mend(mends: readonly Asked[], leftOut: readonly string[] = []): Promise<void> {
    for (const one of mends) if (one.finding.spot === null) this.apply(one);
    for (const item of leftOut) this.leaveOut({ item });
    await this.mendTexts(mends.filter(({ finding }) => finding.spot !== null));
  }

  /** Mends text by text, so that no more than one is held. */
  async mendTexts(mends: readonly Asked[]): Promise<void> {
    const byPlace = new Map<string, Asked[]>();
    for (const one of mends) {
      const { item, key } = one.finding;
      if (item !== null && this.changes.leftOut.items.has(item)) {
        this.mended.add(key);
        continue;
      }
      const list = byPlace.get(placeOf(one.finding));
      if (list) list.push(one);
      else byPlace.set(placeOf(one.finding), [one]);
    }
    for (const [place, list] of byPlace) {
      const [first] = list;
      if (!first) continue;
      const source = await textAt(this.pkg, this.items, first.finding);
      this.sources = new Map(source === null ? [] : [[place, source]]);
      for (const one of list) this.apply(one);
    }
  }

  private apply({ finding, decision }: Asked): void {
    this.pending = [];
    const kind = mendKind(decision.mend);
    const why = kind ? kind.apply(finding, paramsFor(finding, decision), this) : `there is no mend ${decision.mend}`;
    const refused = why ?? this.take();
    this.decisionOf.set(finding.key, decision.id);
    if (refused === null) this.mended.add(finding.key);
    else this.refuse(finding.key, refused);
  }

  /** What was mended turns out not to be. */
  refuse(key: string, why: string): void {
    this.mended.delete(key);
    this.failed.push({ key, decision: this.decisionOf.get(key) ?? '', why });
  }

  private take(): string | null {
    const [first] = this.pending;
    if (!first) return null;
    const taken = this.changes.cut(
      first.finding,
      this.pending.map((p) => p.splice),
    );
    return taken ? null : 'another mend changes the same place';
  }
}
