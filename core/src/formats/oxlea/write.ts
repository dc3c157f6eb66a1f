import { stringify } from 'yaml';
import type { Package } from '../../container/index.ts';
import { asHtml, decodeText, rewriteReferences } from '../../markup/index.ts';
import {
  relativePath,
  type Course,
  type Item,
  type OutlineNode,
  partsOf,
  type Question,
  type QuestionType,
  type RichText,
} from '../../model/index.ts';
import { bodyOf } from '../archive/parts.ts';
import type { PlannedEntry } from '../format.ts';
import { asProfiled } from '../questions.ts';
import { encodePath, resolveReference } from '../references.ts';
import { pageBlocks } from '../render.ts';
import { writeBy, writtenBy } from '../table.ts';
import { OXLEA_KINDS, OXLEA_PARCEL_PROFILE } from './kinds.ts';
import { BOOK, readingPath } from './unpack.ts';

/** What was read from a parcel and not touched since goes back as it came: without the pages made of its texts. */
export function planUntouched(source: Package): PlannedEntry[] {
  const made = new Set([...source.entries.keys()].filter((p) => p.endsWith('.md')).map(readingPath));
  return [...source.entries.keys()].filter((path) => !made.has(path)).map((path) => ({ path, copy: path }));
}

/** A parcel of a course from the model alone. */
export function planParcel(whole: Course, source: Package): PlannedEntry[] {
  return new Wrapping(writtenBy(whole, OXLEA_KINDS), source).plan();
}

const SORTS: Partial<Record<QuestionType, string>> = {
  choice: 'pick',
  'multiple response': 'pick-many',
  'true/false': 'true-false',
  'short answer': 'fill',
};
const place = (n: number): string => String(n).padStart(4, '0');
const yaml = (value: unknown): string => stringify(value, { lineWidth: 0 });

type Node = OutlineNode;

class Wrapping {
  private readonly course: Course;
  private readonly source: Package;
  private readonly entries: PlannedEntry[] = [];
  private readonly items: ReadonlyMap<string, Item>;
  /** Where what texts refer to will stand: files in the library, pages beside the texts that they are made of. */
  private readonly moved = new Map<string, string>();
  private readonly placed = new Set<string>();

  constructor(course: Course, source: Package) {
    this.course = course;
    this.source = source;
    this.items = new Map<string, Item>(course.items.map((i) => [i.id, i]));
    const pages = new Set(course.items.flatMap((i) => (i.kind === 'page' ? [i.file] : [])));
    for (const { path, role } of course.files) {
      if (role === 'content' && !pages.has(path)) this.moved.set(path, `library/${path}`);
    }
  }

  plan(): PlannedEntry[] {
    const { course } = this;
    const halves = this.halves();
    // Two passes: a link to a page can be written once it is known where every page will stand.
    this.each(halves, (node, at) => {
      const item = this.itemOf(node);
      if (item?.kind === 'page') this.moved.set(item.file, readingPath(`${at}.md`));
    });
    const library = [...this.moved].filter(([, to]) => to.startsWith('library/'));
    this.each(halves, (node, at) => this.part(node, at));
    const { metadata } = course;
    const book = {
      oxlea: 2,
      code: metadata.catalogEntry ?? '',
      name: course.title,
      about: metadata.description ?? '',
      ...(metadata.rights === undefined ? {} : { rights: metadata.rights }),
      ...(metadata.language === undefined ? {} : { language: metadata.language }),
      words: metadata.keywords,
      halves: halves.map(({ node }, h) => ({
        key: node?.id ?? `loose-${h + 1}`,
        name: node?.title ?? '',
        loose: !node,
      })),
    };
    return [{ path: BOOK, text: yaml(book) }, ...this.entries, ...library.map(([copy, path]) => ({ path, copy }))];
  }

  /** Folders of the first level are halves, those below are lessons; what stands beside them lies loose in its place. */
  private halves(): { node: Node | null; lessons: { node: Node | null; parts: Node[] }[] }[] {
    const halves = grouped(this.course.outline).map(({ node, inside }) => ({
      node,
      lessons: grouped(inside).map(({ node: lesson, inside: parts }) => ({ node: lesson, parts: flat(parts) })),
    }));
    // A half whose contents stand beside it has them in a lesson of no name.
    for (const half of halves) {
      if (!half.node) half.lessons = [{ node: null, parts: half.lessons.flatMap((l) => l.parts) }];
    }
    const seen = new Set(halves.flatMap((h) => h.lessons.flatMap((l) => l.parts.map((p) => p.item))));
    const rest = this.course.items.filter((i) => !seen.has(i.id));
    if (rest.length > 0) {
      const parts = rest.map((i): Node => ({ id: `i-${i.id}`, title: i.title, item: i.id, children: [] }));
      halves.push({ node: null, lessons: [{ node: null, parts }] });
    }
    return halves;
  }

  private each(halves: ReturnType<Wrapping['halves']>, visit: (node: Node, at: string) => void): void {
    this.placed.clear();
    this.entries.length = 0;
    for (const [h, half] of halves.entries()) {
      for (const [l, { node, parts }] of half.lessons.entries()) {
        const folder = `${h + 1}/${place(l + 1)}`;
        const lesson = node
          ? { key: node.id, name: node.title }
          : { key: `loose-${h + 1}-${l + 1}`, name: '', loose: true };
        this.entries.push({ path: `${folder}/lesson.yaml`, text: yaml(lesson) });
        parts.forEach((part, p) => visit(part, `${folder}/${place(p + 1)}`));
      }
    }
  }

  private itemOf(node: Node): Item | undefined {
    if (node.item === undefined || this.placed.has(node.item)) return undefined;
    return this.items.get(node.item);
  }

  private part(node: Node, at: string): void {
    const item = this.itemOf(node);
    if (!item) {
      // An item that stands in two places is one thing.
      if (node.item === undefined) this.record(at, { key: node.id, name: node.title, sort: 'line' });
      return;
    }
    this.placed.add(item.id);
    const head = { key: item.id, name: node.title, own: true };
    writeBy(OXLEA_KINDS, item, {
      record: (fields) => this.record(at, { ...head, ...fields }),
      text: (fields, make) => this.text(at, { ...head, ...fields }, make),
      page: (file) => this.page(file, at),
      moving: (text, of) => this.moving(text, of, at),
      questions: (of) => of.questions.flatMap((q) => this.question(q, of, at)),
      asPage: (of) => ({ format: 'html', text: pageBlocks(of) }),
    });
  }

  private question(whole: Question, item: Item, at: string): object[] {
    const q = asProfiled(whole, OXLEA_PARCEL_PROFILE);
    if (!q) return [];
    const text = (rich: RichText) => this.moving(rich, item, at);
    const { choices, answers } = partsOf(q);
    const sort = SORTS[q.type] ?? 'write';
    const { general, solution } = q.feedback;
    const [says, other] = sort === 'write' ? [solution, general] : [general, solution];
    const numbered = <T>(list: readonly T[], is: (x: T) => boolean) => list.flatMap((x, i) => (is(x) ? [i + 1] : []));
    return [
      {
        key: q.id,
        name: q.title,
        form: 'html',
        asks: text(q.prompt),
        worth: q.points,
        sort,
        options: choices.map((c) => text(c.text)),
        right: sort === 'fill' ? answers.map((a) => a.text) : numbered(choices, (c) => c.correct),
        exact: numbered(answers, (a) => a.caseSensitive),
        says: says ? text(says) : null,
        ...(other ? { other: text(other) } : {}),
      },
    ];
  }

  private text(at: string, head: object, make: () => Promise<string>): void {
    this.entries.push({
      path: `${at}.md`,
      // Words that were HTML stay it: made into a light mark-up and back, they would not be the same.
      make: async () => `---\n${yaml({ ...head, form: 'html' })}---\n${await make()}`,
    });
  }

  private record(at: string, value: object): void {
    this.entries.push({ path: `${at}.yaml`, text: yaml(value) });
  }

  private async page(path: string, at: string): Promise<string> {
    return this.rewritten(bodyOf(decodeText(await this.source.bytes(path))), path, at);
  }

  private moving(text: RichText, item: Item, at: string): string {
    return this.rewritten(asHtml(text), item.definitionPath ?? '', at);
  }

  private rewritten(html: string, from: string, at: string): string {
    return rewriteReferences(html, (reference) => {
      const has = (path: string) => this.moved.has(path);
      const path = resolveReference(has, from, reference) ?? (has(reference) ? reference : null);
      const to = path === null ? undefined : this.moved.get(path);
      if (to === undefined) return null;
      return encodePath(relativePath(`${at}.html`, to)) + (/#.*$/.exec(reference)?.[0] ?? '');
    });
  }
}

/** Folders of a level, and what stands between them. */
function grouped(nodes: readonly Node[]): { node: Node | null; inside: Node[] }[] {
  const groups: { node: Node | null; inside: Node[] }[] = [];
  for (const node of nodes) {
    if (node.item === undefined && !node.heading) groups.push({ node, inside: node.children });
    else {
      const last = groups.at(-1);
      if (last && !last.node) last.inside.push(node);
      else groups.push({ node: null, inside: [node] });
    }
  }
  return groups;
}

/** Nodes one after the other, whatever they hung in. */
function flat(nodes: readonly Node[]): Node[] {
  return nodes.flatMap((node) => [{ ...node, children: [] }, ...flat(node.children)]);
}
