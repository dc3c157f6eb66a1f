import type { Profile, QuestionRule, SettingName } from '../../model/index.ts';

const essay = (what: string): QuestionRule => ({
  carry: 'as',
  as: 'essay',
  reason: `Quernhold has no ${what}: it becomes an essay, its key the model answer`,
});
const never = 'Quernhold has no place for it';

/** Dates, conditions and locks, which Quernhold keeps for any item. */
const RULES: readonly SettingName[] = [
  'opens',
  'due',
  'closes',
  'visibleWhen',
  'doneWhen',
  'password',
  'lockdown',
  'originality',
  'onlyFor',
  'usesRubric',
  'starterPost',
];

/** What Quernhold's archive holds of the course model: all that Quernhold itself can keep. */
export const QUERNHOLD_ARCHIVE_PROFILE: Profile = {
  id: 'quernhold-archive',
  label: 'Quernhold archive 4',
  version: 1,
  kinds: {
    heading: { carry: 'as', ways: [{ as: 'folder', reason: 'Quernhold has folders but no headings', drops: [] }] },
    foreign: { carry: 'never', reason: 'the archive holds only the sorts that Quernhold knows' },
  },
  keeps: {
    page: ['audience', 'intendedUse', 'embeds', ...RULES],
    file: ['repository', ...RULES],
    link: ['linkTarget', ...RULES],
    tool: ['customParameters', ...RULES],
    assignment: ['points', 'submissionFormats', 'instructorNotes', 'attachments', 'embeds', ...RULES],
    discussion: ['attachments', 'embeds', ...RULES],
    quiz: ['attempts', 'timeLimit', 'instructions', 'embeds', ...RULES],
    bank: ['embeds'],
    announcement: ['posted', 'embeds'],
    event: ['opens', 'closes', 'embeds'],
    checklist: [],
    automation: ['visibleWhen', 'audience'],
    attendance: ['sessions'],
    rubric: [],
    groups: [],
    category: ['weight', 'dropLowest', 'equalPoints'],
    column: ['points', 'category', 'gradesItem', 'bonus'],
  },
  settings: {},
  questions: {
    numeric: {
      carry: 'as',
      as: 'short answer',
      reason: 'Quernhold has no numbers with a tolerance: the number becomes the answer to give',
    },
    cloze: essay('text with several gaps'),
    matching: essay('matching'),
    associate: essay('pairs'),
    'gap match': essay('gaps to drop words into'),
    ordering: essay('ordering'),
    hotspot: essay('hotspot'),
    upload: essay('upload question'),
    foreign: {
      carry: 'never',
      reason: 'a question of a kind that is not read can only be carried inside its own file',
    },
  },
  questionParts: { correct: never, incorrect: never, hint: never, 'choice feedback': never, 'partial credit': never },
  limits: {},
};
