import type { Profile, SettingName } from '../../model/index.ts';
import { proseRules } from '../questions.ts';

const never = 'Quernhold has no place for it';

/** Dates, conditions and locks, which Quernhold keeps for any item. */
export const RULES = [
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
] as const satisfies readonly SettingName[];

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
    ...proseRules((what) => `Quernhold has no ${what}: it becomes an essay, its key the model answer`),
  },
  questionParts: { correct: never, incorrect: never, hint: never, 'choice feedback': never, 'partial credit': never },
  limits: {},
};
