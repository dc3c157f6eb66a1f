import type { Item, ItemOf } from '../../model/index.ts';
import { proseRules } from '../questions.ts';
import {
  NOT_READ,
  NOWHERE,
  noneBeside,
  PLAINLY_ASKED,
  profileOf,
  type KindTable,
  type QuestionTable,
  type SettingTable,
} from '../table.ts';

/** What a crate does with the course model: it holds all that Tarnhall itself can keep. */

/** What stands in a unit for an item, or lies among the pools. */
export type CrateEntry =
  | { in: 'unit'; sort: string; fields?: object; body?: string | (() => Promise<string>) }
  | { in: 'pools'; questions: ItemOf<'bank'> };

/** What entries are made with. */
export interface CrateContext {
  /** A text of the item, naming files and entries by the identifiers that the crate gives them. */
  held: (item: Item, text: string) => string;
  /** The same of texts that are words or HTML. */
  rich: (item: ItemOf<'assignment' | 'discussion' | 'glossary'>) => string;
  /** The text of a page's file, without the head that Tarnhall gives it. */
  pageBody: (file: string) => Promise<string>;
  /** Words as HTML. */
  escaped: (words: string) => string;
  fileId: (path: string) => string | null;
  /** Writes the questions, and names them. */
  asks: (item: ItemOf<'quiz'>) => string[];
  /** The item as a page to read. */
  asPage: (item: Item) => string;
}

export const TARNHALL_KINDS: KindTable<CrateContext, CrateEntry> = {
  ...noneBeside('a crate'),
  course: 'whole',
  folder: 'whole',
  occurrence: { never: 'in a crate: an item stands in one place only' },
  heading: 'whole',
  page: { write: (item, to) => ({ in: 'unit', sort: 'text', body: () => to.pageBody(item.file) }) },
  file: { write: (item, to) => ({ in: 'unit', sort: 'file', fields: { file: to.fileId(item.file) } }) },
  link: { write: (item) => ({ in: 'unit', sort: 'pointer', fields: { url: item.url } }) },
  tool: {
    write: (item, to) => ({
      in: 'unit',
      sort: 'launcher',
      fields: { url: item.url },
      body: to.escaped(item.description),
    }),
  },
  discussion: { write: (item, to) => ({ in: 'unit', sort: 'talk', body: to.rich(item) }) },
  assignment: { write: (item, to) => ({ in: 'unit', sort: 'task', body: to.rich(item) }) },
  quiz: {
    write: (item, to) => ({
      in: 'unit',
      sort: 'test',
      fields: {
        // Of all that a unit lists only tests count their tries.
        tries: typeof item.settings.attempts === 'number' ? item.settings.attempts : null,
        asks: to.asks(item),
      },
      body: item.settings.instructions === undefined ? '' : to.held(item, item.settings.instructions),
    }),
  },
  bank: { write: (item) => ({ in: 'pools', questions: item }) },
  glossary: {
    as: 'page',
    why: 'Tarnhall has no glossaries: the words become a page',
    write: (item, to) => ({ in: 'unit', sort: 'text', body: to.held(item, to.asPage(item)) }),
  },
  foreign: { never: 'a crate holds only the kinds that Tarnhall knows' },
};

const SETTINGS: SettingTable = {
  points: ['assignment'],
  attempts: ['quiz'],
  timeLimit: ['quiz'],
  masteryScore: NOWHERE,
  completionThreshold: NOWHERE,
  usesRubric: NOWHERE,
  category: NOWHERE,
  gradesItem: NOWHERE,
  weight: NOWHERE,
  dropLowest: NOWHERE,
  equalPoints: NOWHERE,
  bonus: NOWHERE,
  draws: NOWHERE,
  sections: NOWHERE,
  instructions: ['quiz'],
  instructorNotes: NOWHERE,
  submissionFormats: ['assignment'],
  intendedUse: NOWHERE,
  description: NOWHERE,
  keywords: NOWHERE,
  lom: NOWHERE,
  fileLom: NOWHERE,
  starterPost: NOWHERE,
  attachments: ['assignment', 'discussion', 'quiz'],
  instructorAttachments: NOWHERE,
  embeds: ['page', 'assignment', 'discussion', 'quiz', 'bank', 'glossary'],
  leads: ['page', 'assignment', 'discussion', 'quiz', 'bank', 'glossary'],
  linkTarget: NOWHERE,
  customParameters: NOWHERE,
  vendor: NOWHERE,
  icon: NOWHERE,
  parameters: NOWHERE,
  standards: NOWHERE,
  variants: NOWHERE,
  repository: NOWHERE,
  tracked: NOWHERE,
  launchData: NOWHERE,
  timeAllowed: NOWHERE,
  timeLimitAction: NOWHERE,
  opens: NOWHERE,
  due: NOWHERE,
  closes: NOWHERE,
  posted: NOWHERE,
  sessions: NOWHERE,
  hidden: ['folder', 'heading', 'page', 'file', 'link', 'tool', 'discussion', 'assignment', 'quiz', 'glossary'],
  audience: NOWHERE,
  visibleWhen: NOWHERE,
  doneWhen: NOWHERE,
  prerequisites: NOWHERE,
  sequencing: NOWHERE,
  onlyFor: NOWHERE,
  password: NOWHERE,
  lockdown: NOWHERE,
  originality: NOWHERE,
  unread: NOT_READ,
};

const word = (reason: string) => ({ carry: 'as', as: 'short answer', reason }) as const;

const QUESTIONS: QuestionTable = {
  choice: 'whole',
  'multiple response': 'whole',
  'true/false': 'whole',
  'short answer': 'whole',
  essay: 'whole',
  pattern: word('Tarnhall compares whole answers, not parts of them'),
  numeric: word('Tarnhall has no numbers with a tolerance: the number becomes the word to give'),
  ...proseRules((what) => `Tarnhall has no ${what}: it becomes a question to answer in prose, its key listed with it`),
};

const never = 'a crate has no place for it';

export const TARNHALL_CRATE_PROFILE = profileOf({
  id: 'tarnhall-crate',
  label: 'Tarnhall crate 1',
  kinds: TARNHALL_KINDS,
  settings: SETTINGS,
  questions: QUESTIONS,
  questionParts: {
    ...PLAINLY_ASKED,
    hint: never,
    solution: never,
    category: never,
    'answer feedback': never,
    'partial credit': never,
    shuffling: never,
  },
  limits: {
    folderDepth: { at: 1, reason: 'units are one level deep: a folder inside one becomes a heading' },
    belowItems: { reason: 'what hangs below an entry stands after it' },
  },
});
