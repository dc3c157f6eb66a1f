import type { ItemKind, SubjectKind } from '../../model/index.ts';
import { proseRules } from '../questions.ts';
import {
  NOT_READ,
  NOWHERE,
  PLAINLY_ASKED,
  profileOf,
  type KindTable,
  type QuestionTable,
  type SettingTable,
} from '../table.ts';
import * as records from './item-records.ts';
import type { ItemRecord, RecordContext } from './item-records.ts';

/** What Quernhold's archive does with the course model: it holds all that Quernhold itself can keep. */

export const QUERNHOLD_KINDS: KindTable<RecordContext, ItemRecord> = {
  course: 'whole',
  folder: 'whole',
  occurrence: { never: 'at Quernhold: an item stands in one place only' },
  heading: { as: 'folder', why: 'Quernhold has folders but no headings' },
  page: { write: records.page },
  file: { write: records.file },
  link: { write: records.link },
  tool: { write: records.tool },
  assignment: { write: records.task },
  discussion: { write: records.talk },
  quiz: { write: records.quiz },
  bank: { write: records.bank },
  glossary: { write: records.glossary },
  announcement: { write: records.notice },
  event: { write: records.event },
  checklist: { write: records.checklist },
  automation: { write: records.automation },
  attendance: { write: records.attendance },
  rubric: { write: records.rubric },
  groups: { write: records.groups },
  category: { write: records.category },
  column: { write: records.column },
  foreign: { never: 'the archive holds only the sorts that Quernhold knows' },
};

/** What stands among the folders: Quernhold keeps dates, conditions and locks of all of it. */
export const PLACED: readonly ItemKind[] = [
  'page',
  'file',
  'link',
  'tool',
  'assignment',
  'discussion',
  'quiz',
  'glossary',
];

/** Of folders too, which also say what they are about. */
const RULED: readonly SubjectKind[] = [...PLACED, 'folder'];

const SETTINGS: SettingTable = {
  points: ['assignment', 'column'],
  attempts: ['quiz'],
  timeLimit: ['quiz'],
  masteryScore: NOWHERE,
  completionThreshold: NOWHERE,
  usesRubric: PLACED,
  category: ['column'],
  gradesItem: ['column'],
  weight: ['category'],
  dropLowest: ['category'],
  equalPoints: ['category'],
  bonus: ['column'],
  draws: NOWHERE,
  sections: NOWHERE,
  instructions: ['quiz'],
  instructorNotes: ['assignment'],
  submissionFormats: ['assignment'],
  intendedUse: ['page'],
  description: ['folder'],
  keywords: NOWHERE,
  lom: NOWHERE,
  fileLom: NOWHERE,
  starterPost: PLACED,
  attachments: ['assignment', 'discussion'],
  instructorAttachments: NOWHERE,
  embeds: ['page', 'assignment', 'discussion', 'quiz', 'glossary', 'bank', 'announcement', 'event'],
  leads: NOWHERE,
  linkTarget: ['link'],
  customParameters: ['tool'],
  vendor: NOWHERE,
  icon: NOWHERE,
  parameters: NOWHERE,
  standards: NOWHERE,
  variants: NOWHERE,
  repository: ['file'],
  tracked: NOWHERE,
  launchData: NOWHERE,
  timeAllowed: NOWHERE,
  timeLimitAction: NOWHERE,
  opens: [...RULED, 'event'],
  due: RULED,
  closes: [...RULED, 'event'],
  posted: ['announcement'],
  sessions: ['attendance'],
  hidden: NOWHERE,
  audience: ['page', 'automation'],
  visibleWhen: [...RULED, 'automation'],
  doneWhen: RULED,
  prerequisites: NOWHERE,
  sequencing: NOWHERE,
  onlyFor: RULED,
  password: RULED,
  lockdown: RULED,
  originality: RULED,
  unread: NOT_READ,
};

const QUESTIONS: QuestionTable = {
  choice: 'whole',
  'multiple response': 'whole',
  'true/false': 'whole',
  'short answer': 'whole',
  pattern: 'whole',
  essay: 'whole',
  numeric: {
    carry: 'as',
    as: 'short answer',
    reason: 'Quernhold has no numbers with a tolerance: the number becomes the answer to give',
  },
  ...proseRules((what) => `Quernhold has no ${what}: it becomes an essay, its key the model answer`),
};

const never = 'Quernhold has no place for it';

export const QUERNHOLD_ARCHIVE_PROFILE = profileOf({
  id: 'quernhold-archive',
  label: 'Quernhold archive 4',
  kinds: QUERNHOLD_KINDS,
  settings: SETTINGS,
  questions: QUESTIONS,
  questionParts: {
    ...PLAINLY_ASKED,
    correct: never,
    incorrect: never,
    hint: never,
    'choice feedback': never,
    'answer feedback': never,
    'partial credit': never,
    shuffling: never,
  },
  limits: { belowItems: { reason: 'only folders hold anything: what hangs below an item stands after it' } },
});
