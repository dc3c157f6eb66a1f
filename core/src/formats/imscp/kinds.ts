import type { Item, ItemOf, Profile, SubjectKind } from '../../model/index.ts';
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

/** What packages of plain pages do with the course model, whatever wraps them. */

/** What wraps pages: Content Packaging, SCORM, a website. */
export interface PageWriter {
  page(item: ItemOf<'page'>): void;
  file(item: ItemOf<'file'>): void;
  foreign(item: ItemOf<'foreign'>): void;
  link(item: ItemOf<'link'>): void;
  /** A page that is made of the item. */
  render(item: Item): void;
}

const asPage = (why: string) => ({ as: 'page', why, write: render }) as const;

export function render(item: Item, to: PageWriter): void {
  to.render(item);
}

export const PAGE_KINDS: KindTable<PageWriter, void> = {
  ...noneBeside('a package of pages'),
  course: 'whole',
  folder: 'whole',
  occurrence: 'whole',
  heading: { as: 'folder', why: 'the outline has folders but no headings' },
  page: { write: (item, to) => to.page(item) },
  file: { write: (item, to) => to.file(item) },
  foreign: { write: (item, to) => to.foreign(item) },
  link: { write: (item, to) => to.link(item) },
  tool: {
    ...asPage('an external tool becomes a page that links to it'),
    drops: ['customParameters', 'vendor', 'icon'],
  },
  assignment: {
    ...asPage('the task becomes a page'),
    drops: ['points', 'submissionFormats', 'instructorNotes', 'instructorAttachments'],
  },
  discussion: asPage('the discussion becomes a page with its opening text'),
  quiz: {
    ...asPage('the questions become a page to read, without their keys'),
    drops: ['attempts', 'timeLimit', 'instructions'],
  },
  bank: { never: 'a question bank is for authors; pages are read by everyone' },
  glossary: asPage('the glossary becomes a page with its words'),
};

/** What a manifest has metadata of. */
export const DESCRIBED: readonly SubjectKind[] = [
  'page',
  'file',
  'tool',
  'assignment',
  'discussion',
  'quiz',
  'glossary',
  'folder',
  'occurrence',
];

export const PAGE_SETTINGS: SettingTable = {
  points: NOWHERE,
  attempts: NOWHERE,
  timeLimit: NOWHERE,
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
  intendedUse: { by: NOWHERE, else: 'pages say nothing of what they are meant for' },
  description: DESCRIBED,
  keywords: DESCRIBED,
  lom: ['course', ...DESCRIBED],
  fileLom: ['course'],
  starterPost: NOWHERE,
  attachments: ['assignment', 'discussion'],
  instructorAttachments: NOWHERE,
  embeds: ['page', 'file', 'tool', 'assignment', 'discussion', 'quiz', 'glossary'],
  leads: ['page', 'file', 'tool', 'assignment', 'discussion', 'quiz', 'glossary'],
  linkTarget: { by: NOWHERE, else: 'links say nothing of the window they open in' },
  customParameters: NOWHERE,
  vendor: NOWHERE,
  icon: NOWHERE,
  parameters: ['page', 'file', 'occurrence'],
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
  hidden: ['page', 'file', 'folder', 'occurrence'],
  audience: { by: NOWHERE, else: 'pages say nothing of who sees them' },
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

/** Questions are text on a page: nothing of them is left to decide. */
export const PAGE_QUESTIONS: QuestionTable = {
  choice: 'whole',
  'multiple response': 'whole',
  'true/false': 'whole',
  'short answer': 'whole',
  pattern: 'whole',
  cloze: 'whole',
  numeric: 'whole',
  essay: 'whole',
  matching: 'whole',
  associate: 'whole',
  'gap match': 'whole',
  ordering: 'whole',
  hotspot: 'whole',
  upload: 'whole',
  'several parts': 'whole',
  foreign: 'whole',
};

/** The profile of a wrapping of pages that does some things by its own way. */
export function pageProfile(
  id: string,
  label: string,
  kinds: KindTable<PageWriter, void> = PAGE_KINDS,
  settings: SettingTable = PAGE_SETTINGS,
): Profile {
  return profileOf({
    id,
    label,
    kinds,
    settings,
    questions: PAGE_QUESTIONS,
    questionParts: {
      slider: PLAINLY_ASKED.slider,
      shuffling: 'choices stand in the order in which they were written',
      'points given together': 'each part of a question is judged by itself',
    },
    limits: {},
  });
}

export const IMSCP_PROFILE = pageProfile('cp', 'Content Packaging 1.2');
