import type { Package } from '../../container/index.ts';
import { asHtml, decodeText, escapeXml, rewriteReferences } from '../../markup/index.ts';
import {
  baseName,
  isLedTo,
  titlesIn,
  type Course,
  type Item,
  type ItemOf,
  type OutlineNode,
  partsOf,
  type Question,
  type QuestionType,
  type RichText,
} from '../../model/index.ts';
import { bodyOf } from '../archive/parts.ts';
import type { PlannedEntry } from '../format.ts';
import { asProfiled } from '../questions.ts';
import { resolveReference } from '../references.ts';
import { pageBlocks } from '../render.ts';
import { writeBy, writtenBy } from '../table.ts';
import { TARNHALL_CRATE_PROFILE, TARNHALL_KINDS, type CrateContext } from './kinds.ts';
import { Crate } from './records.ts';
import { CRATE, documentAt, filePath } from './unpack.ts';

/** What was read from a crate and not touched since goes back as it came: files under their identifiers, no pages. */
export async function planUntouched(source: Package): Promise<PlannedEntry[]> {
  const { files } = await documentAt(source, CRATE, Crate);
  const blobs = new Map(files.map((f) => [filePath(f), f.blob]));
  return [...source.entries.keys()]
    .filter((path) => !path.startsWith('texts/'))
    .map((path) => ({ path: blobs.get(path) ?? path, copy: path }));
}

/** A crate of a course from the model alone. Numbers are given in the order of the outline. */
export function planCrate(whole: Course, source: Package): PlannedEntry[] {
  return new Packing(writtenBy(whole, TARNHALL_KINDS), source).plan();
}

const FORMS: Partial<Record<QuestionType, string>> = {
  choice: 'one',
  'multiple response': 'many',
  'true/false': 'yesno',
  'short answer': 'word',
  essay: 'prose',
};
const json = (value: unknown): string => JSON.stringify(value, null, 1);

class Packing {
  private readonly course: Course;
  private readonly source: Package;
  private readonly entries: PlannedEntry[] = [];
  private readonly items: ReadonlyMap<string, Item>;
  private readonly context: CrateContext;
  /** Files by their path in the source. */
  private readonly files: ReadonlyMap<string, { id: string; path: string; blob: string; bytes: number; media: string }>;
  /** Entries of pages by the path of the page, and of others by that of their definition, so that links to them hold. */
  private readonly pages = new Map<string, string>();
  private readonly numbers = new Map<string, string>();
  /** Files that stand there already, by their path in the source. */
  private readonly thereFiles = new Map<string, string>();
  /** What stands there already is named, not packed. */
  private readonly there: { entries: { id: string; origin: string }[]; files: { id: string; sha256: string }[] };
  private next = 1;

  constructor(course: Course, source: Package) {
    this.course = course;
    this.source = source;
    this.context = {
      held: (item, text) => this.held(text, item.definitionPath ?? ''),
      rich: (item) => this.held(asHtml(item.text), item.definitionPath ?? ''),
      pageBody: (file) => this.pageBody(file),
      escaped: escapeXml,
      fileId: (path) => this.fileId(path),
      asks: (item) => this.asks(item, item.questions, `entries/${this.numbers.get(item.id)}`),
      asPage: (item) => pageBlocks(item),
    };
    this.items = new Map<string, Item>(course.items.map((i) => [i.id, i]));
    const pages = new Set(course.items.flatMap((i) => (i.kind === 'page' ? [i.file] : [])));
    this.files = new Map(
      course.files
        .filter((f) => f.role === 'content' && !pages.has(f.path))
        .map((f, i) => {
          const id = `f${i + 1}`;
          return [f.path, { id, path: baseName(f.path), blob: `blobs/${id}`, bytes: f.size, media: f.mediaType }];
        }),
    );
    for (const item of course.items) {
      const number = `e${this.next++}`;
      this.numbers.set(item.id, number);
      if (item.kind === 'page') this.pages.set(item.file, number);
      else if (isLedTo(item) && item.definitionPath !== null) this.pages.set(item.definitionPath, number);
    }
    this.there = {
      entries: (course.there?.items ?? []).flatMap(({ id: origin, path }) => {
        if (path === null || this.pages.has(path)) return [];
        const id = `e${this.next++}`;
        this.pages.set(path, id);
        return [{ id, origin }];
      }),
      files: (course.there?.files ?? []).flatMap(({ path, sha256 }, i) => {
        if (this.files.has(path) || this.pages.has(path)) return [];
        const id = `f${course.files.length + i + 1}`;
        this.thereFiles.set(path, id);
        return [{ id, sha256 }];
      }),
    };
  }

  plan(): PlannedEntry[] {
    const { course } = this;
    const units = this.units();
    const titleOf = titlesIn(course);
    const pools = course.items.flatMap((item) => {
      const entry = item.kind === 'bank' ? writeBy(TARNHALL_KINDS, item, this.context) : null;
      return entry?.in === 'pools' ? [this.pool(titleOf(item), entry.questions)] : [];
    });
    const { metadata } = course;
    const crate = {
      crate: 1,
      code: metadata.catalogEntry ?? '',
      title: course.title,
      about: {
        ...(metadata.description === undefined ? {} : { text: metadata.description }),
        ...(metadata.rights === undefined ? {} : { rights: metadata.rights }),
        ...(metadata.language === undefined ? {} : { language: metadata.language }),
        words: metadata.keywords,
      },
      units,
      pools,
      files: [...this.files.values()],
      ...(course.there ? { there: this.there } : {}),
    };
    return [
      { path: CRATE, text: json(crate) },
      ...this.entries,
      ...[...this.files].map(([path, { blob }]) => ({ path: blob, copy: path })),
    ];
  }

  /** Folders of the first level are units; what stands beside them lies loose, in its place between them. */
  private units(): string[] {
    const paths: string[] = [];
    const placed = new Set<string>();
    let loose: string[] = [];
    const close = () => {
      if (loose.length > 0) paths.push(this.unit({ title: '', origin: null, loose: true, entries: loose }));
      loose = [];
    };
    for (const node of this.course.outline) {
      if (node.item !== undefined || node.heading) loose.push(...this.within([node], placed));
      else {
        close();
        const entries = this.within(node.children, placed);
        paths.push(this.unit({ title: node.title, origin: node.id, hidden: isHidden(node), entries }));
      }
    }
    for (const item of this.course.items) {
      if (!placed.has(item.id)) loose.push(...this.entry(item.title, item));
    }
    close();
    return paths;
  }

  private unit(unit: {
    title: string;
    origin: string | null;
    loose?: boolean;
    hidden?: boolean;
    entries: string[];
  }): string {
    const id = `u${this.next++}`;
    return this.put(`units/${id}.json`, { id, ...unit });
  }

  private within(nodes: readonly OutlineNode[], placed: Set<string>): string[] {
    return nodes.flatMap((node) => {
      const item = node.item === undefined ? undefined : this.items.get(node.item);
      const inside = () => this.within(node.children, placed);
      if (!item) return [...this.heading(node), ...inside()];
      // An item that stands in two places is one thing.
      if (placed.has(item.id)) return inside();
      placed.add(item.id);
      return [...this.entry(node.title, item), ...inside()];
    });
  }

  private heading(node: OutlineNode): string[] {
    return [
      this.document(`e${this.next++}`, { sort: 'heading', title: node.title, origin: node.id, hidden: isHidden(node) }),
    ];
  }

  private entry(title: string, item: Item): string[] {
    const id = this.numbers.get(item.id);
    const entry = id === undefined ? null : writeBy(TARNHALL_KINDS, item, this.context);
    if (id === undefined || entry?.in !== 'unit') return [];
    const { points, submissionFormats, timeLimit, attachments = [] } = item.settings;
    const { sort, body = '' } = entry;
    const fields = {
      sort,
      title,
      origin: item.id,
      files: attachments.flatMap((path) => this.fileId(path) ?? []),
      marks: points ?? null,
      ways: submissionFormats ?? [],
      minutes: timeLimit ?? null,
      hidden: item.settings.hidden === true,
      ...entry.fields,
    };
    if (typeof body === 'string') return [this.document(id, { ...fields, body }, item.id)];
    const path = `entries/${id}.json`;
    this.entries.push({ path, make: async () => json(filled(id, { ...fields, body: await body() })) });
    return [path];
  }

  /** Tarnhall gives texts a head of its own. */
  private async pageBody(path: string): Promise<string> {
    return this.held(bodyOf(decodeText(await this.source.bytes(path))), path);
  }

  /** Pools stand in no unit, and bear what their course called them. */
  private pool(title: string, item: ItemOf<'bank'>): string {
    const id = `p${this.next++}`;
    const asks = this.asks(item, item.questions, `pools/${id}`);
    return this.put(`pools/${id}.json`, { id, title, origin: item.id, asks });
  }

  private asks(item: Item, questions: readonly Question[], folder: string): string[] {
    return questions.flatMap((question, i) => {
      const q = asProfiled(question, TARNHALL_CRATE_PROFILE);
      return q ? [this.put(`${folder}/asks/${i + 1}.json`, this.ask(q, item.definitionPath ?? ''))] : [];
    });
  }

  private ask(q: Question, place: string): object {
    const text = (rich: RichText) => this.held(asHtml(rich), place);
    const reply = (rich: RichText | undefined) => (rich ? text(rich) : null);
    const { choices, answers } = partsOf(q);
    return {
      key: q.id,
      label: q.title,
      form: FORMS[q.type] ?? 'prose',
      ask: text(q.prompt),
      marks: q.points,
      options: choices.map((c) => ({ key: c.id, text: text(c.text), right: c.correct, reply: reply(c.feedback) })),
      words: answers.map((a) => ({ text: a.text, strict: a.caseSensitive })),
      replies: {
        any: reply(q.feedback.general),
        right: reply(q.feedback.correct),
        wrong: reply(q.feedback.incorrect),
      },
    };
  }

  /** A text that names files and pages by their identifiers. */
  private held(text: string, place: string): string {
    const has = (path: string) => this.fileId(path) !== null || this.pages.has(path);
    return rewriteReferences(text, (reference) => {
      const path = resolveReference(has, place, reference) ?? (has(reference) ? reference : null);
      if (path === null) return null;
      const file = this.fileId(path);
      return (file !== null ? `held:${file}` : `entry:${this.pages.get(path)}`) + (/#.*$/.exec(reference)?.[0] ?? '');
    });
  }

  private fileId(path: string): string | null {
    return this.files.get(path)?.id ?? this.thereFiles.get(path) ?? null;
  }

  private document(id: string, fields: object, item?: string): string {
    return this.put(`entries/${id}.json`, filled(id, fields), item);
  }

  private put(path: string, value: unknown, item?: string): string {
    this.entries.push({ path, ...(item === undefined ? {} : { item }), text: json(value) });
    return path;
  }
}

const isHidden = (node: OutlineNode): boolean => node.settings?.hidden === true;

/** An entry with every field that Tarnhall writes. */
function filled(id: string, fields: object): object {
  const none = {
    body: '',
    url: '',
    file: null,
    files: [],
    marks: null,
    ways: [],
    tries: null,
    minutes: null,
    asks: [],
    hidden: false,
  };
  return { id, ...none, ...fields };
}
