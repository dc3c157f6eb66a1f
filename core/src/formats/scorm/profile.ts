import type { KindRule, Profile } from '../../model/index.ts';
import { AS_PAGES } from '../imscp/profile.ts';

const quiz: KindRule = {
  carry: 'as',
  ways: [
    {
      as: 'page',
      reason: 'the quiz becomes a page that judges the answers and reports the score',
      drops: ['attempts', 'timeLimit', 'instructions'],
    },
  ],
};

function profile(id: string, label: string): Profile {
  return { id, label, version: 1, ...AS_PAGES, kinds: { ...AS_PAGES.kinds, quiz, link: linkAsPage } };
}

const linkAsPage: KindRule = {
  carry: 'as',
  ways: [
    {
      as: 'page',
      reason: 'what reports has to lie in the package: the link becomes a page that leads there',
      drops: ['audience', 'intendedUse', 'linkTarget'],
    },
  ],
};

export const SCORM12_PROFILE = profile('scorm12', 'SCORM 1.2');
export const SCORM2004_PROFILE = profile('scorm2004', 'SCORM 2004 4th Edition');
