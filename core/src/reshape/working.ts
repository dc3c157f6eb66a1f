import {
  inMemory,
  openPackage,
  portableEngine,
  ZipWriter,
  type Engine,
  type Package,
  type Scratch,
} from '../container/index.ts';
import { encodePath } from '../formats/references.ts';
import { STYLE_PART, survey, withoutMarks, type CourseLink, type Finding, type Kept } from '../inspect/index.ts';
import { decodeText, escapeXml, splice, type Splice } from '../markup/index.ts';
import {
  KIND_LABELS,
  PAGE_PART,
  Refusal,
  SETTING_LABELS,
  mapParts,
  mapTexts,
  mediaTypeOf,
  relativePath,
  textsOf,
  type Course,
  type CourseFile,
  type Item,
  type SettingName,
} from '../model/index.ts';
import { LEAVE, decided, paramsFor, type Decision } from './decisions.ts';
import { mendKind, type Workbench } from './mends/index.ts';
import { leaveOutOf } from './select.ts';

export interface Surveyed {
  course: Course;
  links: readonly CourseLink[];
}

export interface WorkingOptions {
  engine?: Engine;
  /** Identifiers of items that a person leaves out. */
  leftOut?: readonly string[];
  /** What was fetched to be copied in: the path it gets and its bytes, by address. */
  supplies?: ReadonlyMap<string, { path: string; bytes: Uint8Array }>;
  /** Where what is new is written; in memory where nothing is given. */
  scratch?: () => Promise<Scratch>;
}

export interface WorkingCopy {
  /** Surveyed anew where something changed. `origin.untouched` is false once anything did. */
  course: Course;
  links: CourseLink[];
  /** The package in which the course's files are to be found. */
  pkg: Package;
  /** Keys of findings that are mended. */
  mended: string[];
  /** What could not be done, and why. */
  failed: { key: string; decision: string; why: string }[];
}

/**
 * The course and its package as the decisions make them. The package they came from is neither changed nor copied: what
 * is new lies beside it.
 */
export async function workingCopy(
  pkg: Package,
  { course, links }: Surveyed,
  findings: readonly Finding[],
  decisions: readonly Decision[],
  options: WorkingOptions = {},
): Promise<WorkingCopy> {
  const chosen = decided(findings, decisions);
  const asked = findings.flatMap((finding) => {
    const decision = chosen.get(finding.key);
    return decision && decision.mend !== LEAVE ? [{ finding, decision }] : [];
  });
  const bench = new Bench(pkg, course, links, options);
  // What speaks of items and files goes first: a text that is left out needs no mending.
  for (const { finding, decision } of asked) if (finding.spot === null) bench.apply(finding, decision);
  for (const id of options.leftOut ?? []) bench.leaveOut({ item: id });
  await bench.mendTexts(asked.filter(({ finding }) => finding.spot !== null));
  return bench.finish();
}

/** What one mend would do, for a person to look at before it is done. */
export interface BeforeAfter {
  before: string;
  after: string;
  /** Where `before` and `after` begin in the text; `null` where they are words. */
  line: number | null;
  /** Why it can't be done. */
  why: string | null;
}

/** Tries one mend by itself. */
export function beforeAfter(
  pkg: Package,
  { course, links }: Surveyed,
  finding: Finding,
  decision: Pick<Decision, 'mend' | 'params'>,
  options: WorkingOptions = {},
): Promise<BeforeAfter> {
  return new Bench(pkg, course, links, options).trial(finding, decision);
}

/** Pieces of a text that change, in a place that one text of the course has. */
interface Cuts {
  item: string | null;
  part: string;
  file: string | null;
  splices: Splice[];
}

const placeOf = (at: { item: string | null; part: string; file: string | null }) =>
  at.item === null ? `file ${at.file ?? ''}` : `item ${at.item} ${at.part}`;

class Bench implements Workbench {
  readonly items: ReadonlyMap<string, Item>;
  readonly course: Course;
  readonly links: readonly CourseLink[];
  private readonly pkg: Package;
  private readonly options: WorkingOptions;
  private readonly engine: Engine;
  private readonly changes = new Map<string, ((item: Item) => Item)[]>();
  private readonly out = { items: new Set<string>(), nodes: new Set<string>(), files: new Set<string>() };
  private readonly renames = new Map<string, string>();
  private readonly merges = new Map<string, string>();
  /** Files that are made anew, with the finding that asked for it. */
  private readonly remakes = new Map<string, string>();
  private readonly used = new Map<string, { path: string; bytes: Uint8Array }>();
  private readonly cuts = new Map<string, Cuts>();
  /** What the mend that speaks now wants cut; taken over only if all of it can be. */
  private pending: { finding: Finding; splice: Splice }[] = [];
  private sources = new Map<string, string>();
  private readonly mended = new Set<string>();
  /** The decision that each finding was mended by. */
  private readonly asked = new Map<string, string>();
  private readonly failed: WorkingCopy['failed'] = [];
  private withoutPeople = false;

  constructor(pkg: Package, course: Course, links: readonly CourseLink[], options: WorkingOptions) {
    this.pkg = pkg;
    this.course = course;
    this.links = links;
    this.options = options;
    this.engine = options.engine ?? portableEngine;
    this.items = new Map(course.items.map((i) => [i.id, i]));
  }

  cut(finding: Finding, start: number, end: number, text: string): void {
    this.pending.push({ finding, splice: { start, end, text } });
  }

  source(finding: Finding): string | null {
    return this.sources.get(placeOf(finding)) ?? null;
  }

  change(item: string, change: (item: Item) => Item): void {
    const list = this.changes.get(item);
    if (list) list.push(change);
    else this.changes.set(item, [change]);
  }

  leaveOut(what: { item: string } | { node: string } | { file: string }): void {
    if ('item' in what) this.out.items.add(what.item);
    else if ('node' in what) this.out.nodes.add(what.node);
    else this.out.files.add(what.file);
  }

  rename(file: string, to: string): string | null {
    const taken = this.pkg.entries.has(to) || [...this.renames.values()].includes(to);
    if (to !== file && taken) return `there is a file ${to} already`;
    if (to !== file) this.renames.set(file, to);
    return null;
  }

  merge(file: string, into: string): void {
    this.merges.set(file, into);
    this.out.files.add(file);
  }

  remake(file: string, finding: Finding): void {
    this.remakes.set(file, finding.key);
  }

  supplied(address: string): string | null {
    const before = this.used.get(address);
    if (before) return before.path;
    const found = this.options.supplies?.get(address);
    if (!found) return null;
    const path = this.free(found.path);
    this.used.set(address, { path, bytes: found.bytes });
    return path;
  }

  /** A path that nothing of the package and nothing else that was supplied has. */
  private free(path: string): string {
    const taken = new Set([...this.used.values()].map((u) => u.path));
    const [, stem = path, ending = ''] = /^(.*?)(\.[^./]*)?$/.exec(path) ?? [];
    let free = path;
    for (let n = 2; this.pkg.entries.has(free) || taken.has(free); n++) free = `${stem}-${n}${ending}`;
    return free;
  }

  stripPeople(): void {
    this.withoutPeople = true;
    for (const path of this.course.personal?.files ?? []) this.out.files.add(path);
  }

  async trial(finding: Finding, decision: Pick<Decision, 'mend' | 'params'>): Promise<BeforeAfter> {
    await this.mendTexts([{ finding, decision: { ...decision, id: '', reason: '', match: NOTHING } }]);
    const [failure] = this.failed;
    if (failure) return { before: finding.evidence, after: '', line: null, why: failure.why };
    const [cuts] = this.cuts.values();
    const source = cuts ? await this.read(cuts) : null;
    if (!cuts || source === null)
      return { before: finding.evidence, after: this.words(finding), line: null, why: null };
    const start = Math.max(0, Math.min(...cuts.splices.map((c) => c.start)) - AROUND);
    const end = Math.min(source.length, Math.max(...cuts.splices.map((c) => c.end)) + AROUND);
    const moved = cuts.splices.map((c) => ({ ...c, start: c.start - start, end: c.end - start }));
    const before = source.slice(start, end);
    return { before, after: splice(before, moved), line: source.slice(0, start).split('\n').length, why: null };
  }

  /** What becomes of an item or a file, in words. */
  private words(finding: Finding): string {
    const { item, file } = finding;
    if (this.withoutPeople) return 'none of them';
    if (this.out.nodes.size > 0 || (item !== null && this.out.items.has(item))) return 'left out';
    if (file !== null && this.merges.has(file)) return this.merges.get(file) ?? '';
    if (file !== null && this.out.files.has(file)) return 'left out';
    if (file !== null && this.renames.has(file)) return this.renames.get(file) ?? '';
    if (file !== null && this.remakes.has(file)) return `${file}, without author and place`;
    const before = item === null ? undefined : this.items.get(item);
    if (!before) return '';
    const after = this.itemAfter(before, undefined);
    if (after.kind !== before.kind) return `${KIND_LABELS[after.kind]} “${after.title}”`;
    if (after.title !== before.title) return `“${after.title}”`;
    if ('questions' in after && 'questions' in before && after.questions.length !== before.questions.length) {
      return `${after.questions.length} questions in place of ${before.questions.length}`;
    }
    const names = Object.keys({ ...before.settings, ...after.settings }) as SettingName[];
    const changed = names.filter((n) => JSON.stringify(before.settings[n]) !== JSON.stringify(after.settings[n]));
    const said = (name: SettingName) => {
      const value = after.settings[name];
      return `${SETTING_LABELS[name]}: ${value === undefined ? 'not set' : JSON.stringify(value)}`;
    };
    return changed.map(said).join(', ');
  }

  apply(finding: Finding, decision: Decision): void {
    this.pending = [];
    const kind = mendKind(decision.mend);
    const why = kind ? kind.apply(finding, paramsFor(finding, decision), this) : `there is no mend ${decision.mend}`;
    const refused = why ?? this.take();
    this.asked.set(finding.key, decision.id);
    if (refused === null) this.mended.add(finding.key);
    else this.refuse(finding.key, refused);
  }

  private refuse(key: string, why: string): void {
    this.mended.delete(key);
    this.failed.push({ key, decision: this.asked.get(key) ?? '', why });
  }

  /** Takes over what is pending, unless another mend changes the same place. */
  private take(): string | null {
    const [first] = this.pending;
    if (!first) return null;
    const cuts = this.cutsOf(first.finding);
    const clash = this.pending.some(({ splice: a }) => cuts.splices.some((b) => overlap(a, b)));
    if (clash) return 'another mend changes the same place';
    cuts.splices.push(...this.pending.map((p) => p.splice));
    return null;
  }

  private cutsOf(at: { item: string | null; part: string; file: string | null }): Cuts {
    const place = placeOf(at);
    let cuts = this.cuts.get(place);
    if (!cuts) this.cuts.set(place, (cuts = { item: at.item, part: at.part, file: at.file, splices: [] }));
    return cuts;
  }

  /** Mends text by text, so that no more than one is held. */
  async mendTexts(asked: readonly { finding: Finding; decision: Decision }[]): Promise<void> {
    const byPlace = new Map<string, { finding: Finding; decision: Decision }[]>();
    for (const one of asked) {
      if (one.finding.item !== null && this.out.items.has(one.finding.item)) {
        this.mended.add(one.finding.key);
        continue;
      }
      const list = byPlace.get(placeOf(one.finding));
      if (list) list.push(one);
      else byPlace.set(placeOf(one.finding), [one]);
    }
    for (const [place, list] of byPlace) {
      const [first] = list;
      if (!first) continue;
      const source = await this.read(first.finding);
      this.sources = new Map(source === null ? [] : [[place, source]]);
      for (const { finding, decision } of list) this.apply(finding, decision);
    }
  }

  private async read(at: { item: string | null; part: string; file: string | null }): Promise<string | null> {
    const item = at.item === null ? undefined : this.items.get(at.item);
    if (at.part === PAGE_PART || at.part === STYLE_PART) {
      const path = item?.kind === 'page' ? item.file : at.file;
      return path === null || !this.pkg.entries.has(path) ? null : decodeText(await this.pkg.bytes(path));
    }
    return item ? (textsOf(item).find((t) => t.part === at.part)?.text.text ?? null) : null;
  }

  async finish(): Promise<WorkingCopy> {
    const { course, pkg } = this;
    this.follow();
    const touched =
      this.changes.size + this.cuts.size + this.renames.size + this.remakes.size > 0 ||
      this.out.items.size + this.out.nodes.size + this.out.files.size > 0 ||
      this.withoutPeople;
    if (!touched) {
      return { course, links: [...this.links], pkg, mended: [...this.mended], failed: this.failed };
    }
    // What used a file that is merged uses the other before the file is left out.
    const into = (path: string) => this.merges.get(path) ?? path;
    const merged = this.merges.size === 0 ? course : { ...course, items: course.items.map((i) => withPaths(i, into)) };
    const left = leaveOutOf(merged, this.out, this.links);
    const bodies = await this.bodies(left.files);
    const texts = this.texts();
    const items = left.course.items.map((item) => this.itemAfter(item, texts.get(item.id)));
    const files = this.filesAfter(left.course.files, bodies.changed);
    const { personal, ...rest } = left.course;
    const mended: Course = {
      ...rest,
      origin: { ...course.origin, untouched: false },
      items,
      files,
      ...(personal && !this.withoutPeople
        ? { personal: { ...personal, files: personal.files.filter((f) => !left.files.has(f)) } }
        : {}),
    };
    const over = pkg.overlaid(bodies.added, { removed: left.files, renamed: this.renames });
    const surveyed = await survey(over, mended, { engine: this.engine, kept: this.kept(bodies.changed) }).catch(
      async (error: unknown) => {
        // Nobody else knows of it to close it.
        await bodies.added.close();
        throw error;
      },
    );
    return {
      course: surveyed.course,
      links: surveyed.links,
      pkg: over,
      mended: [...this.mended],
      failed: this.failed,
    };
  }

  /** References to files that are renamed or merged follow them. */
  private follow(): void {
    const goes = new Map([...this.renames, ...this.merges]);
    if (goes.size === 0) return;
    for (const link of this.links) {
      const to = link.path === null ? undefined : goes.get(link.path);
      if (to === undefined || (link.item !== null && this.out.items.has(link.item))) continue;
      const from = link.file === null ? '' : (this.renames.get(link.file) ?? link.file);
      const rest = /[?#].*$/.exec(link.value)?.[0] ?? '';
      const value = encodePath(relativePath(from, to)) + rest;
      const at = { ...link.at, text: link.inStyle ? value : escapeXml(value) };
      const cuts = this.cutsOf(link);
      if (!cuts.splices.some((b) => overlap(at, b))) cuts.splices.push(at);
    }
  }

  /** Files that are new or changed, as a package of their own. */
  private async bodies(gone: ReadonlySet<string>): Promise<{ added: Package; changed: Map<string, number> }> {
    const scratch = await (this.options.scratch ?? inMemory(this.pkg.limits.memoryBytes))();
    const writer = new ZipWriter(scratch.sink, this.engine);
    const changed = new Map<string, number>();
    const put = async (path: string, bytes: Uint8Array) => {
      await writer.add(this.renames.get(path) ?? path, bytes);
      changed.set(path, bytes.length);
    };
    for (const cuts of this.cuts.values()) {
      if (cuts.part !== PAGE_PART && cuts.part !== STYLE_PART) continue;
      const item = cuts.item === null ? undefined : this.items.get(cuts.item);
      const path = item?.kind === 'page' ? item.file : cuts.file;
      const source = await this.read(cuts);
      if (path === null || source === null || gone.has(path)) continue;
      await put(path, encoded(splice(source, cuts.splices), source));
    }
    for (const [path, key] of this.remakes) {
      if (gone.has(path)) continue;
      try {
        await put(path, await withoutMarks(path, await this.pkg.bytes(path), this.engine));
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        this.refuse(key, error.problem.message);
      }
    }
    for (const { path, bytes } of this.used.values()) await put(path, bytes);
    await writer.finish();
    const added = await openPackage(await scratch.source(), { engine: this.engine });
    return { added, changed };
  }

  /** Texts of items that lie in no file of their own, by item and part. */
  private texts(): Map<string, Map<string, Splice[]>> {
    const found = new Map<string, Map<string, Splice[]>>();
    for (const { item, part, splices } of this.cuts.values()) {
      if (item === null || part === PAGE_PART || part === STYLE_PART || splices.length === 0) continue;
      const parts = found.get(item) ?? new Map<string, Splice[]>();
      found.set(item, parts.set(part, splices));
    }
    return found;
  }

  private itemAfter(item: Item, parts: ReadonlyMap<string, Splice[]> | undefined): Item {
    let after = item;
    if (parts) {
      after = mapTexts(after, (part, text) => {
        const splices = parts.get(part);
        return splices ? { ...text, text: splice(text.text, splices) } : text;
      });
    }
    for (const change of this.changes.get(item.id) ?? []) after = change(after);
    return this.renames.size === 0 ? after : withPaths(after, (path) => this.renames.get(path) ?? path);
  }

  /** `changed` gives the sizes of files that are other bytes now. */
  private filesAfter(files: readonly CourseFile[], changed: ReadonlyMap<string, number>): CourseFile[] {
    const after = files.map((file): CourseFile => {
      const path = this.renames.get(file.path) ?? file.path;
      const size = changed.get(file.path);
      if (size === undefined) return path === file.path ? file : { ...file, path };
      const after = { ...file, path, size };
      delete after.sha256;
      return after;
    });
    const there = new Set(after.map((f) => f.path));
    for (const { path, bytes } of this.used.values()) {
      if (!there.has(path)) after.push({ path, size: bytes.length, mediaType: mediaTypeOf(path), role: 'content' });
    }
    return after;
  }

  /** What need not be read again. */
  private kept(changed: ReadonlyMap<string, number>): Map<string, Kept> {
    const byFile = new Map<string, CourseLink[]>();
    for (const link of this.links) {
      if (link.part !== PAGE_PART && link.part !== STYLE_PART) continue;
      const file = link.item === null ? link.file : (this.fileOf(link.item) ?? link.file);
      if (file === null) continue;
      const list = byFile.get(file);
      if (list) list.push(link);
      else byFile.set(file, [link]);
    }
    const prints = new Map<string, string | undefined>();
    for (const item of this.course.items) if (item.kind === 'page') prints.set(item.file, item.fingerprint);
    const kept = new Map<string, Kept>();
    // A link resolves otherwise once what it leads to is renamed or gone.
    const stir = new Set([...this.renames.keys(), ...this.merges.keys(), ...this.out.files]);
    for (const { path, sha256 } of this.course.files) {
      const links = byFile.get(path) ?? [];
      const leadsAstray = links.some((l) => l.path !== null && (stir.has(l.path) || this.out.items.has(l.to ?? '')));
      if (changed.has(path) || sha256 === undefined || leadsAstray || this.renames.has(path)) continue;
      kept.set(path, { sha256, print: prints.get(path), links });
    }
    return kept;
  }

  private fileOf(id: string): string | null {
    const item = this.items.get(id);
    return item?.kind === 'page' ? item.file : null;
  }
}

/** A decision that is only tried speaks of nothing else. */
const NOTHING = { kind: '', like: null, key: null };
/** Letters shown on either side of what changes. */
const AROUND = 48;

function overlap(a: { start: number; end: number }, b: { start: number; end: number }): boolean {
  return a.start < b.end && b.start < a.end;
}

/** UTF-8; with a mark of it where the page says that it is something else. */
function encoded(text: string, source: string): Uint8Array {
  const declared = /<meta[^>]+charset\s*=\s*["']?([\w-]+)/i.exec(source.slice(0, 2048))?.[1];
  const foreign = declared !== undefined && !/^utf-?8$/i.test(declared);
  return new TextEncoder().encode(foreign && !text.startsWith('\ufeff') ? `\ufeff${text}` : text);
}

/** An item whose files lie elsewhere. */
function withPaths(item: Item, moved: (path: string) => string): Item {
  const settings = { ...item.settings };
  for (const name of ['attachments', 'embeds'] as const) {
    const list = settings[name];
    if (Array.isArray(list)) settings[name] = [...new Set(list.map(moved))];
  }
  const place = item.definitionPath === null ? null : moved(item.definitionPath);
  switch (item.kind) {
    case 'page':
    case 'file':
      return { ...item, definitionPath: place, settings, file: moved(item.file) };
    case 'foreign':
      return { ...item, definitionPath: place, settings, files: item.files.map(moved) };
    case 'quiz':
    case 'bank':
      return {
        ...item,
        definitionPath: place,
        settings,
        questions: item.questions.map((q) => ({
          ...mapParts(q, { image: (image) => image && { ...image, file: moved(image.file) } }),
          files: q.files.map(moved),
        })),
      };
    default:
      return { ...item, definitionPath: place, settings };
  }
}
