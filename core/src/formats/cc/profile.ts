import { withoutPlain, type KindRule, type Profile, type SettingName } from '../../model/index.ts';
import { proseRules } from '../questions.ts';

/** What a manifest can say of any resource. */
const ANY: readonly SettingName[] = ['audience', 'intendedUse', 'standards', 'variants'];

const common: Pick<Profile, 'keeps' | 'untitled' | 'questions' | 'questionParts' | 'limits'> = {
  keeps: {
    page: [...ANY, 'embeds', 'leads'],
    file: [...ANY, 'embeds'],
    link: [...ANY, 'linkTarget'],
    tool: [...ANY, 'customParameters', 'vendor', 'icon'],
    assignment: [...ANY, 'points', 'submissionFormats', 'instructorNotes', 'attachments', 'embeds', 'leads'],
    discussion: [...ANY, 'attachments', 'embeds', 'leads'],
    quiz: [...ANY, 'attempts', 'timeLimit', 'instructions', 'embeds', 'leads'],
    bank: [...ANY, 'embeds', 'leads'],
    foreign: [...ANY],
  },
  untitled: { bank: 'a cartridge has no name for a question bank that stands in no place of the outline' },
  questions: {
    numeric: { carry: 'as', as: 'short answer', reason: 'a cartridge has no numbers with a tolerance' },
    ...proseRules((what) => `a cartridge has no ${what}: it becomes an essay, its key the model answer`),
  },
  questionParts: { 'partial credit': 'a cartridge counts a question as right or wrong' },
  limits: {},
};
const heading = {
  carry: 'as' as const,
  ways: [{ as: 'folder' as const, reason: 'a cartridge has folders but no headings', drops: [] }],
};

/** What IMS Common Cartridge 1.3 holds of the course model. */
export const CC13_PROFILE: Profile = {
  id: 'cc13',
  label: 'Common Cartridge 1.3',
  version: 1,
  kinds: { heading, ...withoutPlain('a cartridge') },
  settings: {},
  ...common,
};

const thin: KindRule = { carry: 'never', reason: 'a thin cartridge holds links and external tools only' };

/** Thin Common Cartridge 1.3: an outline of web links and external tools. */
export const THIN13_PROFILE: Profile = {
  id: 'thin13',
  label: 'Thin Common Cartridge 1.3',
  version: 1,
  kinds: {
    heading,
    ...withoutPlain('a cartridge'),
    page: thin,
    file: thin,
    assignment: thin,
    discussion: thin,
    quiz: thin,
    bank: thin,
    foreign: thin,
  },
  settings: {},
  ...common,
};

/** Versions before 1.3 have no assignments: they become pages. */
function withoutAssignments(version: '1.1' | '1.2'): Profile {
  return {
    id: `cc${version.replace('.', '')}`,
    label: `Common Cartridge ${version}`,
    version: 1,
    kinds: {
      heading,
      ...withoutPlain('a cartridge'),
      assignment: {
        carry: 'as',
        ways: [
          {
            as: 'page',
            reason: `Common Cartridge ${version} has no assignments: the task becomes a page`,
            drops: ['points', 'submissionFormats', 'instructorNotes'],
          },
        ],
      },
    },
    settings: {},
    ...common,
  };
}

export const CC11_PROFILE = withoutAssignments('1.1');
export const CC12_PROFILE = withoutAssignments('1.2');
