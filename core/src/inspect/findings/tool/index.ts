import type { FindingKind } from '../contract.ts';

export const tool: FindingKind = {
  id: 'tool',
  label: 'External tools to be connected again',
  weight: 'weakens',
  mends: ['to-web-link', 'leave-out'],
  why: (to) => `Keys and secrets never travel: somebody has to enter them at ${to?.label ?? 'the destination'}.`,
  *inCourse({ course }) {
    for (const item of course.items) {
      if (item.kind !== 'tool') continue;
      const host = /^https?:\/\/([^/]+)/i.exec(item.url)?.[1] ?? item.url;
      yield {
        groupKey: host,
        item,
        evidence: `tool at ${item.url}`,
        suggestions: [{ mend: 'to-web-link', params: {}, words: 'Make it a web link' }],
      };
    }
  },
};
