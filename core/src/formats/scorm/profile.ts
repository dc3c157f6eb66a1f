import type { KindRule, Profile, SettingName } from '../../model/index.ts';
import { AS_PAGES, SAID } from '../imscp/profile.ts';

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

const BOTH: readonly SettingName[] = ['tracked', 'masteryScore', 'launchData', 'timeAllowed', 'timeLimitAction'];

function profile(id: string, label: string, ...held: SettingName[]): Profile {
  const own = (kind: 'page' | 'file') => [...(AS_PAGES.keeps?.[kind] ?? []), ...held];
  const keeps = { ...AS_PAGES.keeps, page: own('page'), file: own('file'), link: [...SAID] };
  return { id, label, version: 1, ...AS_PAGES, keeps, kinds: { ...AS_PAGES.kinds, quiz, link: linkAsPage } };
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

export const SCORM12_PROFILE = profile('scorm12', 'SCORM 1.2', ...BOTH, 'prerequisites');
export const SCORM2004_PROFILE = profile(
  'scorm2004',
  'SCORM 2004 4th Edition',
  ...BOTH,
  'completionThreshold',
  'attempts',
);
export const SCORM12_ONE_PROFILE = profile('scorm12one', 'SCORM 1.2, one for the whole');
export const SCORM2004_ONE_PROFILE = profile('scorm2004one', 'SCORM 2004 4th Edition, one for the whole');
