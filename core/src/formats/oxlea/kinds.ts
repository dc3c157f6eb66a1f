import { writtenMoment, type Item, type ItemOf, type RichText } from '../../model/index.ts';
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

/** What a parcel does with the course model: it holds all that Oxlea itself can keep. */

/** What parts of a lesson are made with. */
export interface ParcelContext {
  /** Writes a part that is a record. */
  record: (fields: object) => void;
  /** Writes a part that is a text under a head. */
  text: (head: object, make: () => Promise<string>) => void;
  /** The text of a page's file, as it reads where it will stand. */
  page: (file: string) => Promise<string>;
  /** A text of the item, as it reads where it will stand. */
  moving: (text: RichText, item: Item) => string;
  questions: (item: ItemOf<'quiz' | 'bank'>) => object[];
  /** The item as a page to read. */
  asPage: (item: Item) => RichText;
}

function test(item: ItemOf<'quiz' | 'bank'>, to: ParcelContext): void {
  const { timeLimit, attempts } = item.settings;
  to.record({
    sort: 'test',
    minutes: timeLimit ?? null,
    goes: typeof attempts === 'number' ? attempts : null,
    questions: to.questions(item),
  });
}

function web(item: ItemOf<'link' | 'tool'>, to: ParcelContext): void {
  to.record({ sort: 'web', to: item.url });
}

export const OXLEA_KINDS: KindTable<ParcelContext, void> = {
  ...noneBeside('a parcel'),
  course: 'whole',
  folder: 'whole',
  occurrence: { never: 'in a parcel: an item stands in one place only' },
  heading: 'whole',
  page: { write: (item, to) => to.text({ sort: 'reading' }, () => to.page(item.file)) },
  file: { write: (item, to) => to.record({ sort: 'handout', file: item.file }) },
  link: { write: web },
  tool: { as: 'link', why: 'Oxlea has no tools: it becomes a link to the same address', write: web },
  discussion: { write: (item, to) => to.text({ sort: 'talk' }, async () => to.moving(item.text, item)) },
  assignment: {
    write: (item, to) => {
      const { points, due } = item.settings;
      const head = { sort: 'piece', worth: points ?? null, by: due === undefined ? null : writtenMoment(due) };
      to.text(head, async () => to.moving(item.text, item));
    },
  },
  quiz: { write: test },
  bank: { as: 'quiz', why: 'Oxlea has no banks: its questions become a test', write: test },
  glossary: {
    as: 'page',
    why: 'Oxlea has no glossaries: the words become a page',
    write: (item, to) => to.text({ sort: 'reading' }, async () => to.moving(to.asPage(item), item)),
  },
  foreign: { never: 'a parcel holds only the sorts that Oxlea knows' },
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
  instructions: NOWHERE,
  instructorNotes: NOWHERE,
  submissionFormats: NOWHERE,
  intendedUse: NOWHERE,
  description: NOWHERE,
  keywords: NOWHERE,
  lom: NOWHERE,
  fileLom: NOWHERE,
  starterPost: NOWHERE,
  attachments: NOWHERE,
  instructorAttachments: NOWHERE,
  embeds: ['page', 'assignment', 'discussion', 'quiz', 'bank', 'glossary'],
  leads: NOWHERE,
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
  due: ['assignment'],
  closes: NOWHERE,
  posted: NOWHERE,
  sessions: NOWHERE,
  hidden: NOWHERE,
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

const fill = (reason: string) => ({ carry: 'as', as: 'short answer', reason }) as const;

const QUESTIONS: QuestionTable = {
  choice: 'whole',
  'multiple response': 'whole',
  'true/false': 'whole',
  'short answer': 'whole',
  essay: 'whole',
  pattern: fill('Oxlea compares whole answers, not parts of them'),
  numeric: fill('Oxlea has no numbers with a tolerance: the number becomes the word to give'),
  ...proseRules((what) => `Oxlea has no ${what}: it becomes a question to write on, its key listed with it`),
};

const never = 'a parcel has no place for it';

export const OXLEA_PARCEL_PROFILE = profileOf({
  id: 'oxlea-parcel',
  label: 'Oxlea parcel 2',
  kinds: OXLEA_KINDS,
  settings: SETTINGS,
  questions: QUESTIONS,
  questionParts: {
    ...PLAINLY_ASKED,
    correct: never,
    incorrect: never,
    hint: never,
    'choice feedback': never,
    'answer feedback': never,
    shuffling: never,
    category: never,
    'partial credit': never,
  },
  limits: {
    folderDepth: { at: 2, reason: 'a book has halves and lessons: a folder inside a lesson becomes a line' },
    belowItems: { reason: 'what hangs below a part of a lesson stands after it' },
  },
});
