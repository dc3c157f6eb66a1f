import { encode } from 'cborg';
import { portableEngine } from '../../container/index.ts';
import { plainText } from '../../markup/index.ts';
import {
  titlesIn,
  type Course,
  type Item,
  type ItemOf,
  type OutlineNode,
  type Question,
  type QuestionType,
  type RichText,
  type SettingValue,
  listIn,
  writtenCondition,
  type Condition,
} from '../../model/index.ts';
import { htmlText } from '../archive/parts.ts';
import type { Pack, PlannedEntry } from '../format.ts';
import { asProfiled } from '../questions.ts';
import { movedTexts } from '../references.ts';
import { QUERNHOLD_ARCHIVE_PROFILE, RULES } from './profile.ts';
import { MAGIC, RECORDS } from './unpack.ts';

type Record = { k: string } & { [field: string]: unknown };
/** Bytes of a file in one record. */
const PIECE = 1 << 16;

/** Packs records and files as Quernhold does: a gzipped sequence of CBOR items (RFC 8742). */
export const packArchive: Pack = async (plan, source, sink, { engine = portableEngine, onProgress }) => {
  let size = 0;
  let entries = 0;
  async function* items(): AsyncGenerator<Uint8Array> {
    let count = 0;
    const item = (record: Record): Uint8Array => {
      count++;
      return encode(record);
    };
    for (const planned of plan) {
      if (planned.path === RECORDS) {
        const records = 'text' in planned ? planned.text : new TextDecoder().decode(await source.bytes(RECORDS));
        for (const record of JSON.parse(records) as Record[]) yield item(record);
      } else if ('copy' in planned) {
        yield item({ k: 'file', at: planned.path, size: source.entry(planned.copy).size });
        for await (const chunk of source.stream(planned.copy)) {
          for (let at = 0; at < chunk.length; at += PIECE) {
            yield item({ k: 'piece', d: new Uint8Array(chunk.subarray(at, at + PIECE)) });
          }
        }
      }
      entries++;
      onProgress?.({ done: entries, total: plan.length });
    }
    yield encode({ k: 'end', n: count });
  }
  for await (const bytes of engine.gzip(items())) {
    size += bytes.length;
    await sink.write(bytes);
  }
  return { size, entries };
};

/** Records and files of a course from the model alone. */
export function planArchive(course: Course): PlannedEntry[] {
  const files = course.files.filter((f) => f.role === 'content');
  return [
    { path: RECORDS, text: JSON.stringify([...recordsOf(course)]) },
    ...files.map(({ path }) => ({ path, copy: path })),
  ];
}

function* recordsOf(course: Course): Generator<Record> {
  const { metadata } = course;
  yield {
    k: MAGIC,
    code: metadata.catalogEntry ?? '',
    sec: '',
    term: '',
    ttl: course.title,
    own: '',
    abt: metadata.description ?? '',
    kw: metadata.keywords,
    quota: 2 ** 30,
    ...(metadata.rights === undefined ? {} : { rights: metadata.rights }),
    ...(metadata.language === undefined ? {} : { lang: metadata.language }),
  };
  const writer = new Records(course);
  yield* writer.tree();
  for (const item of course.items) yield* writer.other(item);
  for (const item of course.items) yield* rulesOf(item);
  yield writer.ledger();
  yield { k: 'linked', has: writer.linked() };
}

const text = (value: SettingValue | undefined): string | null => (typeof value === 'string' ? value : null);
const number = (value: SettingValue | undefined): number | null => (typeof value === 'number' ? value : null);
const list = listIn;
const TYPES: Partial<globalThis.Record<QuestionType, string>> = {
  choice: 'choice',
  'multiple response': 'several',
  'true/false': 'truth',
  'short answer': 'blank',
  pattern: 'pattern',
};

class Records {
  private readonly course: Course;
  private readonly titleOf: ReturnType<typeof titlesIn>;
  private readonly items: ReadonlyMap<string, Item>;

  constructor(course: Course) {
    this.course = course;
    this.titleOf = titlesIn(course);
    this.items = new Map(course.items.map((i) => [i.id, i]));
  }

  /** Folders and what stands in them; what stands nowhere follows. */
  *tree(): Generator<Record> {
    const placed = new Set<string>();
    const { items } = this;
    const write = this.leaf.bind(this);
    let folders = 0;
    const walk = function* (nodes: readonly OutlineNode[], up: string | null): Generator<Record> {
      for (const [place, node] of flat(nodes, items).entries()) {
        const item = node.item === undefined ? undefined : items.get(node.item);
        if (!item) {
          const ref = `folder-${++folders}`;
          yield { k: 'node', up, place, ref, sort: 'folder', ttl: node.title, was: node.id };
          yield* walk(node.children, ref);
        } else if (!placed.has(item.id)) {
          placed.add(item.id);
          yield* write(item, node.title, up, place);
        }
      }
    };
    yield* walk(this.course.outline, null);
    const rest = this.course.items.filter((i) => !placed.has(i.id));
    for (const [i, item] of rest.entries()) yield* this.leaf(item, item.title, null, this.course.outline.length + i);
  }

  private *leaf(item: Item, ttl: string, up: string | null, place: number): Generator<Record> {
    const found = this.sortOf(item);
    if (found) yield { k: 'node', up, place, ref: item.id, ttl, ...found };
  }

  private sortOf(item: Item): { sort: string; has: object } | null {
    const { settings } = item;
    const attached = list(settings.attachments);
    switch (item.kind) {
      case 'page': {
        const audience = text(settings.audience);
        const tutorsOnly = audience === 'Instructor';
        const shownTo = tutorsOnly || audience === null ? {} : { shownTo: audience };
        return { sort: 'page', has: { path: item.file, tutorsOnly, use: text(settings.intendedUse), ...shownTo } };
      }
      case 'file':
        return { sort: 'file', has: { path: item.file } };
      case 'link': {
        const window = text(settings.linkTarget);
        const newWindow = window === '_blank';
        return { sort: 'link', has: { url: item.url, newWindow, ...(newWindow || window === null ? {} : { window }) } };
      }
      case 'tool': {
        const parameters = settings.customParameters;
        const own = typeof parameters === 'object' && !Array.isArray(parameters) ? parameters : {};
        return { sort: 'tool', has: { url: item.url, about: item.description, parameters: own } };
      }
      case 'discussion':
        return { sort: 'talk', has: { text: this.moved(item, item.text), attached } };
      case 'assignment':
        return {
          sort: 'task',
          has: {
            text: this.moved(item, item.text),
            points: number(settings.points),
            ways: list(settings.submissionFormats),
            notes: text(settings.instructorNotes),
            attached,
          },
        };
      case 'quiz': {
        const intro = text(settings.instructions);
        return {
          sort: 'quiz',
          has: {
            intro: intro === null ? '' : this.moved(item, { format: 'html', text: intro }),
            tries: number(settings.attempts),
            minutes: number(settings.timeLimit),
            questions: this.questions(item),
          },
        };
      }
      default:
        return null;
    }
  }

  /** What has no place among the folders. */
  *other(item: Item): Generator<Record> {
    const { settings } = item;
    const named = { ref: item.id, title: item.title };
    switch (item.kind) {
      case 'bank':
        // It has no place in the archive's outline, and bears what its course called it.
        yield { k: 'bank', ref: item.id, ttl: this.titleOf(item), has: { questions: this.questions(item) } };
        return;
      case 'announcement':
        yield {
          k: 'notices',
          has: { ...named, text: this.moved(item, item.text), posted: text(settings.posted) ?? '' },
        };
        return;
      case 'event': {
        const [from, to] = [text(settings.opens) ?? '', text(settings.closes) ?? ''];
        yield { k: 'events', has: { ...named, text: plain(item.text), from, to } };
        return;
      }
      case 'checklist':
        yield { k: 'checklists', has: { ...named, steps: item.rows.map((r) => r[0] ?? '') } };
        return;
      case 'automation': {
        const rule = ruleOf(settings.visibleWhen ?? []);
        const mailTo = settings.audience === 'tutor' ? 'tutor' : 'learner';
        yield { k: 'automations', has: { ...named, ...rule, mailTo, text: plain(item.text) } };
        return;
      }
      case 'attendance': {
        const marks = item.rows.map(([code = '', label = '', share = '0']) => ({ code, label, share: Number(share) }));
        yield { k: 'attendance', has: { ...named, marks, sessions: list(settings.sessions) } };
        return;
      }
      case 'rubric':
        yield { k: 'rubrics', has: { ...named, rows: criteriaOf(item.rows) } };
        return;
      case 'groups':
        yield { k: 'groups', has: { ...named, names: item.rows.map((r) => r[0] ?? '') } };
        return;
      default:
        return;
    }
  }

  ledger(): Record {
    const of = (kind: 'category' | 'column') => this.course.items.filter((i) => i.kind === kind);
    const categories = of('category').map(({ id, title, settings }) => ({
      ref: id,
      title,
      weight: number(settings.weight) ?? 0,
      dropLowest: number(settings.dropLowest) ?? 0,
      equal: settings.equalPoints === true,
    }));
    const columns = of('column').map(({ id, title, settings }) => ({
      ref: id,
      title,
      points: number(settings.points) ?? 0,
      category: text(settings.category),
      item: text(settings.gradesItem),
      bonus: settings.bonus === true,
    }));
    return { k: 'ledger', has: { letters: {}, categories, columns } };
  }

  linked(): { [path: string]: string } {
    return Object.fromEntries(
      this.course.items.flatMap((i): [string, string][] => {
        const at = text(i.settings.repository);
        return i.kind === 'file' && at !== null ? [[i.file, at]] : [];
      }),
    );
  }

  private questions(item: ItemOf<'quiz' | 'bank'>): object[] {
    return item.questions.flatMap((q) => {
      const held = asProfiled(q, QUERNHOLD_ARCHIVE_PROFILE);
      return held ? [this.question(held, item)] : [];
    });
  }

  private question(q: Question, item: Item): object {
    const moved = (rich: RichText) => this.moved(item, rich);
    const { general, solution } = q.feedback;
    return {
      ref: q.id,
      title: q.title,
      prompt: moved(q.prompt),
      points: q.points,
      topic: q.category ?? null,
      type: TYPES[q.type] ?? 'essay',
      choices: q.choices.map((c) => ({ text: moved(c.text), right: c.correct })),
      answers: q.answers.map((a) => a.text),
      exact: q.answers.flatMap((a, i) => (a.caseSensitive ? [i + 1] : [])),
      feedback: general ? moved(general) : null,
      model: solution ? moved(solution) : null,
      marked: true,
    };
  }

  /** A text with its references as seen from the root of the archive. */
  private moved(item: Item, rich: RichText): string {
    return movedTexts(this.course, item)('')(htmlText(rich));
  }
}

/** Nodes of a level; what hangs in an item follows it, since only folders hold anything. */
function flat(nodes: readonly OutlineNode[], items: ReadonlyMap<string, Item>): OutlineNode[] {
  return nodes.flatMap((node) =>
    node.item !== undefined && items.has(node.item)
      ? [{ ...node, children: [] }, ...flat(node.children, items)]
      : [node],
  );
}

function plain(rich: RichText): string {
  return rich.format === 'plain' ? rich.text : plainText(rich.text);
}

function criteriaOf(rows: readonly (readonly string[])[]): object[] {
  const titles = [...new Set(rows.map((r) => r[0] ?? ''))];
  return titles.map((title) => ({
    title,
    cells: rows
      .filter((r) => r[0] === title)
      .map(([, level = '', points = '0', words = '']) => ({ title: level, points: Number(points), text: words })),
  }));
}

/** The sentence that the reader made of a rule, as the rule it was. */
/** What an automation waits for: one of three things that Quernhold knows, or words. */
function ruleOf(conditions: readonly Condition[]): object {
  const [first] = conditions;
  if (conditions.length === 1 && first) {
    if (first.is === 'score' && first.side === 'below')
      return { when: 'score-below', item: first.item, value: first.percent };
    if (first.is === 'not visited') return { when: 'not-opened', item: first.item, value: first.days };
    if (first.is === 'absent') return { when: 'absent', item: null, value: first.times };
  }
  return { when: 'said', item: null, value: 0, said: conditions.map(writtenCondition).join('; ') };
}

const SORTED: ReadonlySet<Item['kind']> = new Set(['page', 'file', 'link', 'tool', 'discussion', 'assignment', 'quiz']);

function* rulesOf({ id, kind, settings }: Item): Generator<Record> {
  if (!SORTED.has(kind) || !RULES.some((name) => settings[name] !== undefined)) return;
  const conditions = settings.visibleWhen ?? [];
  const [first] = conditions;
  const after = first?.is === 'score' && first.side === 'at least' ? { item: first.item, score: first.percent } : null;
  yield {
    k: 'rules',
    has: {
      item: id,
      opens: text(settings.opens),
      due: text(settings.due),
      closes: text(settings.closes),
      after,
      also: (after ? conditions.slice(1) : conditions).map(writtenCondition),
      done: text(settings.doneWhen),
      password: text(settings.password),
      lockdown: settings.lockdown === true,
      originality: settings.originality === true,
      group: text(settings.onlyFor),
      rubric: text(settings.usesRubric),
      starter: text(settings.starterPost),
    },
  };
}
