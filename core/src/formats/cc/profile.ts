import type { Profile } from '../../model/index.ts';

const common = {
  questions: {
    foreign: {
      carry: 'never' as const,
      reason: 'a question of a kind that is not read can only be carried inside its own file',
    },
  },
  questionParts: {},
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
  kinds: { heading },
  settings: {},
  ...common,
};

/** Version 1.1 has no assignments: they become pages. */
export const CC11_PROFILE: Profile = {
  id: 'cc11',
  label: 'Common Cartridge 1.1',
  version: 1,
  kinds: {
    heading,
    assignment: {
      carry: 'as',
      ways: [
        {
          as: 'page',
          reason: 'Common Cartridge 1.1 has no assignments: the task becomes a page',
          drops: ['points', 'submissionFormats', 'instructorNotes'],
        },
      ],
    },
  },
  settings: {},
  ...common,
};
