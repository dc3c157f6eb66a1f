import { withoutPlain, type Profile, type QuestionRule } from '../../model/index.ts';
import { proseRules } from '../questions.ts';

const fill = (reason: string): QuestionRule => ({ carry: 'as', as: 'short answer', reason });
const never = 'a parcel has no place for it';

/** What a parcel holds of the course model: all that Oxlea itself can keep. */
export const OXLEA_PARCEL_PROFILE: Profile = {
  id: 'oxlea-parcel',
  label: 'Oxlea parcel 2',
  version: 1,
  kinds: {
    ...withoutPlain('a parcel'),
    foreign: { carry: 'never', reason: 'a parcel holds only the sorts that Oxlea knows' },
    tool: {
      carry: 'as',
      ways: [{ as: 'link', reason: 'Oxlea has no tools: it becomes a link to the same address', drops: [] }],
    },
    bank: {
      carry: 'as',
      ways: [{ as: 'quiz', reason: 'Oxlea has no banks: its questions become a test', drops: [] }],
    },
  },
  keeps: {
    page: ['embeds'],
    file: [],
    link: [],
    tool: [],
    assignment: ['points', 'due', 'embeds'],
    discussion: ['embeds'],
    quiz: ['attempts', 'timeLimit', 'embeds'],
    bank: ['embeds'],
  },
  settings: {},
  questions: {
    pattern: fill('Oxlea compares whole answers, not parts of them'),
    numeric: fill('Oxlea has no numbers with a tolerance: the number becomes the word to give'),
    ...proseRules((what) => `Oxlea has no ${what}: it becomes a question to write on, its key listed with it`),
  },
  questionParts: {
    correct: never,
    incorrect: never,
    hint: never,
    'choice feedback': never,
    category: never,
    'partial credit': never,
  },
  limits: { folderDepth: { at: 2, reason: 'a book has halves and lessons: a folder inside a lesson becomes a line' } },
};
