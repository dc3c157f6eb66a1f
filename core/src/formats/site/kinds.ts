import { NOWHERE, type SettingTable } from '../table.ts';
import { PAGE_KINDS, PAGE_SETTINGS, pageProfile, render } from '../imscp/kinds.ts';

/** What a website does otherwise than packages of pages. */
export const SITE_KINDS: typeof PAGE_KINDS = {
  ...PAGE_KINDS,
  quiz: {
    as: 'page',
    why: 'the quiz becomes a page that judges the answers and tells nobody',
    drops: ['attempts', 'timeLimit', 'instructions'],
    write: render,
  },
  foreign: { never: 'a website has no parts that only another program reads' },
};

/** There is no manifest that could say anything of a page. */
const SETTINGS: SettingTable = {
  ...PAGE_SETTINGS,
  description: NOWHERE,
  keywords: NOWHERE,
  lom: NOWHERE,
  fileLom: NOWHERE,
  hidden: NOWHERE,
  parameters: NOWHERE,
  leads: ['page', 'tool', 'assignment', 'discussion', 'quiz', 'glossary'],
};

export const SITE_PROFILE = pageProfile('site', 'Website', SITE_KINDS, SETTINGS);
