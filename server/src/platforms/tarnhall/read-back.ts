import {
  mediaTypeOf,
  plainText,
  questionOf,
  readHtml,
  substance,
  type Course,
  type Item,
  type OutlineNode,
  type Question,
  type QuestionType,
  type RichText,
  type Settings,
} from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import * as z from 'zod';
import type { ReadBack } from '../contract.ts';

const TQuestion = z.object({
  key: z.string(),
  label: z.string(),
  form: z.enum(['one', 'many', 'yesno', 'word', 'prose']),
  ask: z.string(),
  marks: z.number(),
  options: z.array(z.object({ key: z.string(), text: z.string(), right: z.boolean(), reply: z.string().nullable() })),
  words: z.array(z.object({ text: z.string(), strict: z.boolean() })),
  replies: z.object({ any: z.string().nullable(), right: z.string().nullable(), wrong: z.string().nullable() }),
});
const TEntry = z.object({
  id: z.string(),
  sort: z.enum(['text', 'file', 'pointer', 'talk', 'task', 'test', 'launcher', 'heading']),
  title: z.string(),
  origin: z.string().nullable(),
  body: z.string(),
  url: z.string(),
  file: z.string().nullable(),
  files: z.array(z.string()),
  marks: z.number().nullable(),
  ways: z.array(z.string()),
  tries: z.number().nullable(),
  minutes: z.number().nullable(),
  questions: z.array(TQuestion),
  hidden: z.boolean().default(false),
});
type TEntry = z.infer<typeof TEntry>;
const TFile = z.object({ id: z.string(), path: z.string(), bytes: z.number(), sha256: z.string() });
export const Contents = z.object({
  units: z.array(
    z.object({
      id: z.string(),
      title: z.string(),
      origin: z.string().nullable(),
      entries: z.array(TEntry),
      hidden: z.boolean().default(false),
    }),
  ),
  pools: z.array(
    z.object({ id: z.string(), title: z.string(), origin: z.string().nullable(), questions: z.array(TQuestion) }),
  ),
  files: z.array(TFile),
});
export type Contents = z.infer<typeof Contents>;

const FORMS: Record<z.infer<typeof TQuestion>['form'], QuestionType> = {
  one: 'choice',
  many: 'multiple response',
  yesno: 'true/false',
  word: 'short answer',
  prose: 'essay',
};

/** A space of Tarnhall as a course. Identifiers from the package are kept where Tarnhall kept them. */
export function spaceAsItStands(title: string, contents: Contents): ReadBack {
  const items: Item[] = [];
  const pages: Record<string, string> = {};
  const names: Record<string, string> = {};
  const paths = new Map(contents.files.map((f) => [f.id, `${f.id}/${f.path}`]));
  const taken = new Set<string>();
  const idOf = (origin: string | null, id: string): string => {
    const own = origin !== null && !taken.has(origin) ? origin : `tarnhall-${id}`;
    taken.add(own);
    return own;
  };
  const outline = contents.units.map((unit): OutlineNode => ({
    id: idOf(unit.origin, unit.id),
    title: unit.title,
    ...hiding(unit),
    children: unit.entries.map((entry): OutlineNode => {
      const id = idOf(entry.origin, entry.id);
      if (entry.sort === 'heading') return { id, title: entry.title, heading: true, ...hiding(entry), children: [] };
      items.push(itemOf(entry, id, paths, contents));
      names[id] = entry.id;
      if (entry.sort === 'text') pages[id] = entry.body;
      return { id: `node-${entry.id}`, title: entry.title, item: id, children: [] };
    }),
  }));
  for (const pool of contents.pools) {
    const id = idOf(pool.origin, pool.id);
    names[id] = pool.id;
    const item: Item = {
      kind: 'bank',
      id,
      title: pool.title,
      definitionPath: null,
      settings: {},
      questions: pool.questions.map((q) => question(q, paths)),
    };
    items.push({ ...item, fingerprint: nodeEngine.digest(substance(item)) });
  }
  const course: Course = {
    title,
    origin: { format: 'tarnhall', version: '1', untouched: true },
    metadata: { keywords: [] },
    outline,
    items,
    files: contents.files.map((f) => ({
      path: paths.get(f.id) ?? f.path,
      size: f.bytes,
      mediaType: mediaTypeOf(f.path),
      role: 'content',
      sha256: f.sha256,
    })),
  };
  return { course, pages, names };
}

const hiding = ({ hidden }: { hidden: boolean }) => (hidden ? { settings: { hidden } } : {});

function html(text: string): RichText {
  return { format: 'html', text };
}

/** Files that a text shows or hands out; how it is dressed is no content. */
function held(text: string, paths: ReadonlyMap<string, string>): string[] {
  return readHtml(text)
    .links.filter((link) => link.use !== 'style' && link.use !== 'script')
    .flatMap((link) => paths.get(/^held:(f\d+)/.exec(link.value)?.[1] ?? '') ?? []);
}

/** Entries without a page or file of their own that a text leads to: their titles by their identifiers. */
function ledTo(text: string, { units }: Contents): [string, string][] {
  const entries = units.flatMap((unit) => unit.entries);
  return readHtml(text).links.flatMap((link): [string, string][] => {
    const to = entries.find((e) => e.id === /^entry:(e\d+)/.exec(link.value)?.[1]);
    return to && LED_TO.has(to.sort) ? [[to.id, to.title]] : [];
  });
}

const LED_TO: ReadonlySet<TEntry['sort']> = new Set(['talk', 'task', 'test', 'launcher']);

function question(q: z.infer<typeof TQuestion>, paths: ReadonlyMap<string, string>): Question {
  const common = {
    id: q.key,
    title: q.label,
    prompt: html(q.ask),
    points: q.marks,
    feedback: {
      ...(q.replies.any === null ? {} : { general: html(q.replies.any) }),
      ...(q.replies.right === null ? {} : { correct: html(q.replies.right) }),
      ...(q.replies.wrong === null ? {} : { incorrect: html(q.replies.wrong) }),
    },
    files: held(q.ask, paths),
  };
  return questionOf(FORMS[q.form], common, {
    choices: q.options.map((o) => ({
      id: o.key,
      text: html(o.text),
      correct: o.right,
      ...(o.reply === null ? {} : { feedback: html(o.reply) }),
    })),
    answers: q.words.map((w) => ({ text: w.text, caseSensitive: w.strict, match: 'equal' })),
  });
}

function itemOf(entry: TEntry, id: string, paths: ReadonlyMap<string, string>, contents: Contents): Item {
  const embeds = [
    ...new Set([...held(entry.body, paths), ...entry.questions.flatMap((q) => held(q.ask, paths))]),
  ].sort();
  const leads = Object.fromEntries(
    [entry.body, ...entry.questions.map((q) => q.ask)].flatMap((text) => ledTo(text, contents)),
  );
  const attachments = entry.files.flatMap((f) => paths.get(f) ?? []);
  const settings: Settings = {
    ...(entry.marks === null ? {} : { points: entry.marks }),
    ...(entry.ways.length === 0 ? {} : { submissionFormats: entry.ways }),
    ...(entry.hidden ? { hidden: true } : {}),
    ...(entry.tries === null ? {} : { attempts: entry.tries }),
    ...(entry.minutes === null ? {} : { timeLimit: entry.minutes }),
    ...(entry.sort === 'test' && entry.body !== '' ? { instructions: entry.body } : {}),
    ...(attachments.length === 0 ? {} : { attachments }),
    ...(embeds.length === 0 ? {} : { embeds }),
    ...(Object.keys(leads).length === 0 ? {} : { leads }),
  };
  const common = { id, title: entry.title, definitionPath: null, settings };
  switch (entry.sort) {
    case 'text':
      return {
        kind: 'page',
        ...common,
        file: `${entry.id}.html`,
        fingerprint: nodeEngine.digest(readHtml(entry.body).text),
      };
    case 'file': {
      const file = contents.files.find((f) => f.id === entry.file);
      return {
        kind: 'file',
        ...common,
        file: file ? (paths.get(file.id) ?? file.path) : '',
        ...(file ? { fingerprint: file.sha256 } : {}),
      };
    }
    case 'pointer':
      return printed({ kind: 'link', ...common, url: entry.url });
    case 'launcher':
      return printed({ kind: 'tool', ...common, url: entry.url, description: plainText(entry.body) });
    case 'talk':
      return printed({ kind: 'discussion', ...common, text: html(entry.body) });
    case 'task':
      return printed({ kind: 'assignment', ...common, text: html(entry.body) });
    case 'test':
    case 'heading':
      return printed({ kind: 'quiz', ...common, questions: entry.questions.map((q) => question(q, paths)) });
  }
}

function printed(item: Item): Item {
  return { ...item, fingerprint: nodeEngine.digest(substance(item)) };
}
