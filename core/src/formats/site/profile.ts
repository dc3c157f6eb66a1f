import type { Profile } from '../../model/index.ts';
import { AS_PAGES } from '../imscp/profile.ts';

export const SITE_PROFILE: Profile = {
  id: 'site',
  label: 'Website',
  version: 1,
  ...AS_PAGES,
  keeps: {
    page: ['embeds', 'leads'],
    file: ['embeds'],
    link: [],
    tool: ['embeds', 'leads'],
    assignment: ['attachments', 'embeds', 'leads'],
    discussion: ['attachments', 'embeds', 'leads'],
    quiz: ['embeds', 'leads'],
  },
  kinds: {
    ...AS_PAGES.kinds,
    quiz: {
      carry: 'as',
      ways: [
        {
          as: 'page',
          reason: 'the quiz becomes a page that judges the answers and tells nobody',
          drops: ['attempts', 'timeLimit', 'instructions'],
        },
      ],
    },
    foreign: { carry: 'never', reason: 'a website has no parts that only another program reads' },
  },
};
