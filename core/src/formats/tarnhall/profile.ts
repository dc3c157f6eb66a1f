import { withoutPlain, type Profile, type QuestionRule } from '../../model/index.ts';
import { proseRules } from '../questions.ts';

const word = (reason: string): QuestionRule => ({ carry: 'as', as: 'short answer', reason });
const never = 'a crate has no place for it';

/** What a crate holds of the course model: all that Tarnhall itself can keep. */
export const TARNHALL_CRATE_PROFILE: Profile = {
  id: 'tarnhall-crate',
  label: 'Tarnhall crate 1',
  version: 1,
  kinds: {
    ...withoutPlain('a crate'),
    foreign: { carry: 'never', reason: 'a crate holds only the kinds that Tarnhall knows' },
  },
  keeps: {
    page: ['embeds', 'leads'],
    file: [],
    link: [],
    tool: [],
    assignment: ['points', 'submissionFormats', 'attachments', 'embeds', 'leads'],
    discussion: ['attachments', 'embeds', 'leads'],
    quiz: ['attempts', 'timeLimit', 'instructions', 'attachments', 'embeds', 'leads'],
    bank: ['embeds', 'leads'],
  },
  settings: {},
  questions: {
    pattern: word('Tarnhall compares whole answers, not parts of them'),
    numeric: word('Tarnhall has no numbers with a tolerance: the number becomes the word to give'),
    ...proseRules(
      (what) => `Tarnhall has no ${what}: it becomes a question to answer in prose, its key listed with it`,
    ),
  },
  questionParts: { hint: never, solution: never, category: never, 'partial credit': never },
  limits: { folderDepth: { at: 1, reason: 'units are one level deep: a folder inside one becomes a heading' } },
};
