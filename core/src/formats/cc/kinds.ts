import type { ItemKind, Profile } from '../../model/index.ts';
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
import * as definitions from './definitions.ts';
import { ASSIGNMENT_TYPE } from './versions.ts';
import type { CartridgeWriter, Written } from './write.ts';

/** What each version of Common Cartridge does with the course model. */

const reading = { as: 'page', why: 'a cartridge has no glossaries: the words become a page' } as const;

/** IMS Common Cartridge 1.3. */
export const CC13_KINDS: KindTable<CartridgeWriter, Written> = {
  ...noneBeside('a cartridge'),
  course: 'whole',
  folder: 'whole',
  occurrence: 'whole',
  heading: { as: 'folder', why: 'a cartridge has folders but no headings' },
  page: { write: (item, to) => to.asItIs(item) },
  file: { write: (item, to) => to.asItIs(item) },
  foreign: { write: (item, to) => to.foreign(item) },
  link: { write: (item, to) => to.define(item, to.words.webLinkType, definitions.link) },
  tool: { write: (item, to) => to.define(item, to.words.toolType, definitions.tool) },
  discussion: { write: (item, to) => to.define(item, to.words.topicType, definitions.topic) },
  assignment: { write: (item, to) => to.define(item, ASSIGNMENT_TYPE, definitions.assignment) },
  quiz: { write: (item, to) => to.define(item, to.words.quizType, definitions.questions) },
  bank: {
    write: (item, to) => to.define(item, to.words.bankType, definitions.questions),
    untitled: 'a cartridge has no name for a question bank that stands in no place of the outline',
  },
  glossary: { ...reading, write: (item, to) => to.page(item, definitions.renderedPage) },
};

/** Versions before 1.3 have no assignments. */
function withoutAssignments(version: '1.1' | '1.2'): typeof CC13_KINDS {
  return {
    ...CC13_KINDS,
    assignment: {
      as: 'page',
      why: `Common Cartridge ${version} has no assignments: the task becomes a page`,
      drops: ['points', 'submissionFormats', 'instructorNotes', 'instructorAttachments'],
      write: (item, to) => to.page(item, definitions.textPage),
    },
  };
}
export const CC11_KINDS = withoutAssignments('1.1');
export const CC12_KINDS = withoutAssignments('1.2');

const thin = { never: 'a thin cartridge holds links and external tools only' };
/** Thin Common Cartridge 1.3: an outline of web links and external tools. */
export const THIN13_KINDS: typeof CC13_KINDS = {
  ...CC13_KINDS,
  page: thin,
  file: thin,
  assignment: thin,
  discussion: thin,
  quiz: thin,
  bank: thin,
  glossary: thin,
  foreign: thin,
};

/** Kinds that are resources, of which a manifest says the same whatever they are. */
const EVERY: readonly ItemKind[] = [
  'page',
  'file',
  'link',
  'tool',
  'assignment',
  'discussion',
  'quiz',
  'bank',
  'glossary',
  'foreign',
];

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
  sections: { by: NOWHERE, else: 'a quiz of a cartridge has one section' },
  instructions: ['quiz'],
  instructorNotes: ['assignment'],
  submissionFormats: ['assignment'],
  intendedUse: EVERY,
  description: NOWHERE,
  keywords: NOWHERE,
  lom: { by: ['course'], else: 'a cartridge has such metadata of the course only' },
  fileLom: NOWHERE,
  starterPost: NOWHERE,
  attachments: ['assignment', 'discussion'],
  instructorAttachments: ['assignment'],
  embeds: ['page', 'file', 'assignment', 'discussion', 'quiz', 'bank', 'glossary'],
  leads: ['page', 'assignment', 'discussion', 'quiz', 'bank', 'glossary'],
  linkTarget: ['link'],
  customParameters: ['tool'],
  vendor: ['tool'],
  icon: ['tool'],
  parameters: NOWHERE,
  standards: EVERY,
  variants: EVERY,
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
  hidden: NOWHERE,
  audience: EVERY,
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

const QUESTIONS: QuestionTable = {
  choice: 'whole',
  'multiple response': 'whole',
  'true/false': 'whole',
  'short answer': 'whole',
  pattern: 'whole',
  essay: 'whole',
  numeric: { carry: 'as', as: 'short answer', reason: 'a cartridge has no numbers with a tolerance' },
  ...proseRules((what) => `a cartridge has no ${what}: it becomes an essay, its key the model answer`),
};

function profile(id: string, label: string, kinds: typeof CC13_KINDS): Profile {
  return profileOf({
    id,
    label,
    kinds,
    settings: SETTINGS,
    questions: QUESTIONS,
    questionParts: { ...PLAINLY_ASKED, 'partial credit': 'a cartridge counts a question as right or wrong' },
    limits: {},
  });
}

export const CC11_PROFILE = profile('cc11', 'Common Cartridge 1.1', CC11_KINDS);
export const CC12_PROFILE = profile('cc12', 'Common Cartridge 1.2', CC12_KINDS);
export const CC13_PROFILE = profile('cc13', 'Common Cartridge 1.3', CC13_KINDS);
export const THIN13_PROFILE = profile('thin13', 'Thin Common Cartridge 1.3', THIN13_KINDS);
