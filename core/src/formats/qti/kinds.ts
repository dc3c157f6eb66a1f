import { type Item, type ItemOf, type Profile, type QuestionRule, type QuestionType } from '../../model/index.ts';
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

/** What packages of questions do with the course model. */

const never = { never: 'a package of questions holds quizzes and banks only' };
export type QuestionItem = ItemOf<'quiz'> | ItemOf<'bank'>;

/** A package of questions has no outline, so each is called what the outline called it. */
type TitleOf = (item: Item) => string;

export const QTI_KINDS: KindTable<TitleOf, QuestionItem> = {
  ...noneBeside('a package of questions'),
  course: 'whole',
  folder: never,
  occurrence: never,
  heading: never,
  page: never,
  file: never,
  link: never,
  tool: never,
  assignment: never,
  discussion: never,
  glossary: never,
  foreign: never,
  quiz: { write: (item, titleOf) => ({ ...item, title: titleOf(item) }) },
  bank: { write: (item, titleOf) => ({ ...item, title: titleOf(item) }) },
};

const SETTINGS: SettingTable = {
  points: NOWHERE,
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
  draws: ['quiz'],
  sections: ['quiz'],
  instructions: ['quiz'],
  instructorNotes: NOWHERE,
  submissionFormats: NOWHERE,
  intendedUse: { by: NOWHERE, else: 'a package of questions says nothing of what they are meant for' },
  description: NOWHERE,
  keywords: NOWHERE,
  lom: ['course'],
  fileLom: NOWHERE,
  starterPost: NOWHERE,
  attachments: NOWHERE,
  instructorAttachments: NOWHERE,
  embeds: ['quiz', 'bank'],
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
  due: NOWHERE,
  closes: NOWHERE,
  posted: NOWHERE,
  sessions: NOWHERE,
  hidden: NOWHERE,
  audience: { by: NOWHERE, else: 'a package of questions says nothing of who sees them' },
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
  foreign: {
    carry: 'never',
    reason: 'a question of a kind that is not read can only be carried inside its own file',
  },
};

function profile(
  id: string,
  label: string,
  questions: Partial<Record<QuestionType, QuestionRule>> = {},
  questionParts: Profile['questionParts'] = {},
): Profile {
  return profileOf({
    id,
    label,
    kinds: QTI_KINDS,
    settings: SETTINGS,
    questions: { ...QUESTIONS, ...questions },
    questionParts,
    limits: {},
  });
}

export const QTI12_PROFILE = profile(
  'qti12',
  'QTI 1.2',
  {
    associate: { carry: 'as', as: 'matching', reason: 'QTI 1.2 has no pairs among one set: they become a matching' },
    'gap match': {
      carry: 'as',
      as: 'matching',
      reason: 'QTI 1.2 has no gaps to drop words into: they become a matching',
    },
    upload: { carry: 'as', as: 'essay', reason: 'QTI 1.2 has no upload: it becomes an essay' },
    'several parts': {
      carry: 'as',
      as: 'essay',
      reason: 'in QTI 1.2 a question asks one thing: all its parts become an essay, their key the model answer',
    },
  },
  {
    ...PLAINLY_ASKED,
    'score of other answers': 'QTI 1.2 has no points for answers that it does not name',
    'most score': 'QTI 1.2 knows no limit of a score but what the question is worth',
  },
);
export const QTI21_PROFILE = profile('qti21', 'QTI 2.1');
export const QTI22_PROFILE = profile('qti22', 'QTI 2.2');
export const QTI30_PROFILE = profile('qti30', 'QTI 3.0');
