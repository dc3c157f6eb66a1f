import type * as z from 'zod';
import type { Package } from '../../container/index.ts';
import { plainText } from '../../markup/index.ts';
import {
  questionOf,
  remark,
  type Item,
  type Metadata,
  type Note,
  type OutlineNode,
  type Question,
} from '../../model/index.ts';
import { filesIn, html, settingsOf } from '../archive/parts.ts';
import type { ReadResult } from '../format.ts';
import { Ask, Crate, Entry, Pool, Unit } from './records.ts';
import { CRATE, documentAt, entriesIn, filePath, heldIn, identifiers, textPath } from './unpack.ts';

const hiding = ({ hidden }: { hidden: boolean }) => (hidden ? { settings: { hidden } } : {});

/** Reads a Tarnhall crate by following its documents from one to the next; one that is read twice is read once. */
export async function readTarnhall(pkg: Package): Promise<ReadResult> {
  const notes: Note[] = [...pkg.notes];
  const crate = await documentAt(pkg, CRATE, Crate);
  const files = new Map(crate.files.map((f) => [f.id, filePath(f)]));
  const held = heldIn(crate.files, await entriesIn(pkg, crate));
  const items: Item[] = [];
  const idOf = identifiers();
  const questions = async (paths: readonly string[]): Promise<Question[]> => {
    const list: Question[] = [];
    for (const path of paths) list.push(askedIn(await documentAt(pkg, path, Ask), held, files));
    return list;
  };
  const itemOf = async (entry: Entry, id: string): Promise<Item | null> => {
    const { marks, ways, tries, minutes, hidden } = entry;
    const attachments = entry.files.flatMap((f) => files.get(f) ?? []);
    const settings = settingsOf({
      points: marks,
      submissionFormats: ways,
      attempts: tries,
      timeLimit: minutes,
      hidden: hidden ? true : null,
      instructions: entry.sort === 'test' && entry.body !== '' ? held(entry.body, '') : null,
      attachments,
    });
    const common = { id, title: entry.title, definitionPath: null, settings };
    switch (entry.sort) {
      case 'heading':
        return null;
      case 'text':
        return { kind: 'page', ...common, definitionPath: textPath(entry.id), file: textPath(entry.id) };
      case 'file': {
        const file = files.get(entry.file ?? '');
        if (file !== undefined) return { kind: 'file', ...common, definitionPath: file, file };
        notes.push(
          remark(
            'file-missing',
            `“${entry.title}” names a file that is not in the crate.`,
            {
              item: entry.title,
            },
            'Look for it at its source.',
          ),
        );
        return null;
      }
      case 'pointer':
        return { kind: 'link', ...common, url: entry.url };
      case 'launcher':
        return { kind: 'tool', ...common, url: entry.url, description: plainText(entry.body) };
      case 'talk':
        return { kind: 'discussion', ...common, text: html(held(entry.body, '')) };
      case 'task':
        return { kind: 'assignment', ...common, text: html(held(entry.body, '')) };
      case 'test':
        return { kind: 'quiz', ...common, questions: await questions(entry.asks) };
    }
  };
  const outline: OutlineNode[] = [];
  for (const at of new Set(crate.units)) {
    const unit = await documentAt(pkg, at, Unit);
    const children: OutlineNode[] = [];
    const unitId = unit.loose ? '' : idOf(unit.origin, unit.id);
    for (const path of new Set(unit.entries)) {
      const entry = await documentAt(pkg, path, Entry);
      const id = idOf(entry.origin, entry.id);
      const item = await itemOf(entry, id);
      if (item) {
        items.push(item);
        children.push({ id: `node-${entry.id}`, title: entry.title, item: id, children: [] });
      } else if (entry.sort === 'heading')
        children.push({ id, title: entry.title, heading: true, ...hiding(entry), children: [] });
    }
    if (unit.loose) outline.push(...children);
    else outline.push({ id: unitId, title: unit.title, ...hiding(unit), children });
  }
  for (const at of new Set(crate.pools)) {
    const pool = await documentAt(pkg, at, Pool);
    const id = idOf(pool.origin, pool.id);
    items.push({
      kind: 'bank',
      id,
      title: pool.title,
      definitionPath: null,
      settings: {},
      questions: await questions(pool.asks),
    });
  }
  return {
    course: {
      title: crate.title,
      origin: { format: 'tarnhall', version: '1', untouched: true },
      identity: { id: crate.id, code: crate.code, section: crate.section, term: crate.term },
      metadata: metadataOf(crate),
      outline,
      items,
      files: filesIn(pkg, (path) => /^(crate\.json$|units\/|entries\/|pools\/)/.test(path)),
    },
    notes,
  };
}

function metadataOf({ code, about }: z.infer<typeof Crate>): Metadata {
  const { text, rights, language, words } = about ?? { words: [] };
  return {
    keywords: words,
    ...(code === '' ? {} : { catalogEntry: code }),
    ...(text === undefined ? {} : { description: text }),
    ...(rights === undefined ? {} : { rights }),
    ...(language === undefined ? {} : { language }),
  };
}

const FORMS: Record<Ask['form'], Question['type']> = {
  one: 'choice',
  many: 'multiple response',
  yesno: 'true/false',
  word: 'short answer',
  prose: 'essay',
};

function askedIn(q: Ask, held: (text: string, up: string) => string, files: ReadonlyMap<string, string>): Question {
  const reply = (text: string | null) => (text === null || text === '' ? null : html(held(text, '')));
  const [any, right, wrong] = [reply(q.replies.any), reply(q.replies.right), reply(q.replies.wrong)];
  const common = {
    id: q.key,
    title: q.label,
    prompt: html(held(q.ask, '')),
    points: q.marks,
    feedback: {
      ...(any ? { general: any } : {}),
      ...(right ? { correct: right } : {}),
      ...(wrong ? { incorrect: wrong } : {}),
    },
    files: [...new Set([q.ask, ...q.options.map((o) => o.text)].flatMap((text) => namedIn(text, files)))],
  };
  return questionOf(FORMS[q.form], common, {
    choices: q.options.map((o) => {
      const feedback = reply(o.reply);
      return { id: o.key, text: html(held(o.text, '')), correct: o.right, ...(feedback ? { feedback } : {}) };
    }),
    answers: q.words.map((w) => ({ text: w.text, caseSensitive: w.strict, match: 'equal' })),
  });
}

function namedIn(text: string, files: ReadonlyMap<string, string>): string[] {
  return [...text.matchAll(/held:(f\d+)/g)].flatMap((m) => files.get(m[1] ?? '') ?? []);
}
