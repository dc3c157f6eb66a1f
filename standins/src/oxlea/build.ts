import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { makeFile } from '../demo/build.ts';
import { termStart } from '../demo/furnish.ts';
import type { CoursePlan, FilePlan, NodePlan, QuestionPlan } from '../demo/plan.ts';
import type { OBook, OPart, OQuestion } from './model.ts';

const DAY = 86_400_000;
/** Days between the halves of a year, beyond the four weeks of a lesson. */
const WINTER = 56;
const dayOf = (time: number) => new Date(time).toISOString().slice(0, 10);

/** Makes a book of a course's plan: its folders become lessons, shared out over two halves; files go into its library. */
export async function buildBook(plan: CoursePlan, id: string, library: string): Promise<OBook> {
  await mkdir(library, { recursive: true });
  let count = 0;
  const key = () => `${id}.${++count}`;
  const keep = async (file: FilePlan): Promise<string> => {
    await writeFile(join(library, file.name), await makeFile(file));
    return file.name;
  };
  /** Pieces are due in the week before the next lesson. */
  const partsOf = async (nodes: readonly NodePlan[], from: number): Promise<OPart[]> => {
    const due = dayOf(from + 25 * DAY);
    const parts: OPart[] = [];
    for (const node of nodes) {
      if (node.kind === 'folder') parts.push(...(await partsOf(node.inside, from)));
      else parts.push(await part(node, key, keep, due));
    }
    return parts;
  };
  const folders = plan.outline.filter((n) => n.kind === 'folder');
  const loose = plan.outline.filter((n) => n.kind !== 'folder');
  const start = termStart('Autumn 2025');
  const lessons = [
    {
      key: key(),
      name: 'To begin with',
      from: dayOf(start),
      parts: await partsOf(loose, start),
    },
  ];
  for (const [i, folder] of folders.entries()) {
    // Each half has its own weeks, with the winter between them.
    const from = start + (i + 1) * 28 * DAY + (i + 1 >= Math.ceil((folders.length + 1) / 2) ? WINTER * DAY : 0);
    lessons.push({ key: key(), name: folder.title, from: dayOf(from), parts: await partsOf(folder.inside, from) });
  }
  const middle = Math.ceil(lessons.length / 2);
  return {
    id,
    code: plan.code,
    group: plan.section,
    year: plan.term,
    name: plan.title,
    author: plan.owner,
    about: plan.about,
    edited: plan.changedAt,
    halves: [
      { key: key(), name: 'First half', lessons: lessons.slice(0, middle) },
      { key: key(), name: 'Second half', lessons: lessons.slice(middle) },
    ],
    readers: [
      { name: 'Perran Locke', mail: 'perran.locke@readers.marrowick.example' },
      { name: 'Sunniva Dale', mail: 'sunniva.dale@readers.marrowick.example' },
    ],
  };
}

async function part(
  node: Exclude<NodePlan, { kind: 'folder' }>,
  key: () => string,
  keep: (file: FilePlan) => Promise<string>,
  due: string,
): Promise<OPart> {
  const named = { key: key(), name: node.title };
  switch (node.kind) {
    case 'page':
      return {
        sort: 'reading',
        ...named,
        text: [`# ${node.title}`, ...node.text, ...(node.see ?? []).map((s) => `See also *${s}*.`)].join('\n\n'),
      };
    case 'file':
      return { sort: 'handout', ...named, file: await keep(node.file) };
    case 'link':
      return { sort: 'web', ...named, to: node.url };
    case 'tool':
      return { sort: 'web', ...named, to: node.url };
    case 'talk':
      return { sort: 'talk', ...named, text: node.text };
    case 'task':
      return { sort: 'piece', ...named, text: node.text, worth: node.points, by: due };
    case 'words':
      return { sort: 'reading', ...named, text: node.words.map((w) => `**${w.word}** ${w.means}`).join('\n\n') };
    case 'quiz':
      return {
        sort: 'test',
        ...named,
        minutes: node.minutes,
        goes: node.tries,
        questions: node.questions.map((q) => question(q, key())),
      };
  }
}

function question(plan: QuestionPlan, key: string): OQuestion {
  const common = { key, name: plan.title, asks: plan.prompt, worth: plan.points };
  switch (plan.type) {
    case 'choice':
    case 'several':
      return {
        ...common,
        sort: plan.type === 'choice' ? 'pick' : 'pick-many',
        options: plan.choices,
        right: plan.right.map((i) => i + 1),
        says: plan.feedback ?? null,
      };
    case 'truth':
      return { ...common, sort: 'true-false', options: ['True', 'False'], right: [plan.right ? 1 : 2], says: null };
    case 'blank':
    case 'pattern':
      return { ...common, sort: 'fill', options: [], right: plan.answers, says: null };
    case 'essay':
      return { ...common, sort: 'write', options: [], right: [], says: plan.model ?? null };
  }
}
