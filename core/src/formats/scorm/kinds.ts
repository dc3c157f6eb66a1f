import type { Profile, SubjectKind } from '../../model/index.ts';
import { DESCRIBED, PAGE_KINDS, PAGE_SETTINGS, pageProfile, render } from '../imscp/kinds.ts';
import type { SettingTable } from '../table.ts';

/** What SCORM does otherwise than other packages of pages: what reports has to lie in the package. */
export const SCORM_KINDS: typeof PAGE_KINDS = {
  ...PAGE_KINDS,
  quiz: {
    as: 'page',
    why: 'the quiz becomes a page that judges the answers and reports the score',
    drops: ['attempts', 'timeLimit', 'instructions'],
    write: render,
  },
  link: {
    as: 'page',
    why: 'what reports has to lie in the package: the link becomes a page that leads there',
    drops: ['audience', 'intendedUse', 'linkTarget'],
    write: render,
  },
};

const REPORTING: readonly SubjectKind[] = ['page', 'file'];
/** Of what reports, something may be said where it stands. */
const IN_PLACE: readonly SubjectKind[] = [...REPORTING, 'occurrence'];

/** Of a whole course that reports as one, nothing is said of its parts. */
const ONE: SettingTable = {
  ...PAGE_SETTINGS,
  description: [...DESCRIBED, 'link'],
  keywords: [...DESCRIBED, 'link'],
  lom: ['course', ...DESCRIBED, 'link'],
};
const EACH: SettingTable = {
  ...ONE,
  tracked: REPORTING,
  masteryScore: IN_PLACE,
  launchData: IN_PLACE,
  timeAllowed: IN_PLACE,
  timeLimitAction: IN_PLACE,
};

function profile(id: string, label: string, settings: SettingTable): Profile {
  return pageProfile(id, label, SCORM_KINDS, settings);
}

export const SCORM12_PROFILE = profile('scorm12', 'SCORM 1.2', {
  ...EACH,
  prerequisites: [...IN_PLACE, 'folder'],
});
export const SCORM2004_PROFILE = profile('scorm2004', 'SCORM 2004 4th Edition', {
  ...EACH,
  completionThreshold: IN_PLACE,
  attempts: [...IN_PLACE, 'folder'],
  masteryScore: [...IN_PLACE, 'folder'],
  timeAllowed: [...IN_PLACE, 'folder'],
});
export const SCORM12_ONE_PROFILE = profile('scorm12one', 'SCORM 1.2, one for the whole', ONE);
export const SCORM2004_ONE_PROFILE = profile('scorm2004one', 'SCORM 2004 4th Edition, one for the whole', ONE);
