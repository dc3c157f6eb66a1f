import { withoutPlain, type KindRule, type Profile, type QuestionRule, type QuestionType } from '../../model/index.ts';

const never: KindRule = { carry: 'never', reason: 'a package of questions holds quizzes and banks only' };
const only = {
  ...withoutPlain('a package of questions'),
  folder: never,
  heading: never,
  page: never,
  file: never,
  link: never,
  tool: never,
  assignment: never,
  discussion: never,
  foreign: never,
};
const settings = {
  quiz: {
    audience: 'a package of questions says nothing of who sees them',
    intendedUse: 'a package of questions says nothing of what they are meant for',
  },
};
const foreign: QuestionRule = {
  carry: 'never',
  reason: 'a question of a kind that is not read can only be carried inside its own file',
};

function profile(id: string, label: string, questions: Partial<Record<QuestionType, QuestionRule>>): Profile {
  return {
    id,
    label,
    version: 1,
    kinds: only,
    settings,
    keeps: { quiz: ['attempts', 'timeLimit', 'instructions', 'draws', 'embeds'], bank: ['embeds'] },
    questions: { ...questions, foreign },
    questionParts: {},
    limits: {},
  };
}

export const QTI12_PROFILE = profile('qti12', 'QTI 1.2', {
  associate: { carry: 'as', as: 'matching', reason: 'QTI 1.2 has no pairs among one set: they become a matching' },
  'gap match': {
    carry: 'as',
    as: 'matching',
    reason: 'QTI 1.2 has no gaps to drop words into: they become a matching',
  },
  upload: { carry: 'as', as: 'essay', reason: 'QTI 1.2 has no upload: it becomes an essay' },
});
export const QTI21_PROFILE = profile('qti21', 'QTI 2.1', {});
export const QTI22_PROFILE = profile('qti22', 'QTI 2.2', {});
export const QTI30_PROFILE = profile('qti30', 'QTI 3.0', {});
