import type { FindingDraft, FindingKind } from '../contract.ts';

export const guarded: FindingKind = {
  id: 'guarded',
  label: 'Guards to be set again',
  weight: 'weakens',
  mends: ['drop-guards'],
  why: () => 'Passwords, locked-down browsers and originality checks stay behind: without them the quiz stands open.',
  *inCourse({ course }) {
    for (const item of course.items) {
      const guards = (['password', 'lockdown', 'originality'] as const).filter(
        (name) => item.settings[name] !== undefined,
      );
      if (guards.length === 0) continue;
      const words = { password: 'a password', lockdown: 'a locked-down browser', originality: 'an originality check' };
      const found: FindingDraft = {
        groupKey: guards.join(' '),
        item,
        evidence: guards.map((g) => words[g]).join(', '),
        suggestions: [{ mend: 'drop-guards', params: {}, words: 'Do without' }],
      };
      yield found;
    }
  },
};
