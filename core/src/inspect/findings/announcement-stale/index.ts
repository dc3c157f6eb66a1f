import type { FindingKind } from '../contract.ts';
import { writtenMoment } from '../../../model/index.ts';
import { leaveOut, day, isBefore } from '../content-parts.ts';

export const announcementStale: FindingKind = {
  id: 'announcement-stale',
  label: 'Announcements of long ago',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'New students are told what was new to others.',
  *inCourse({ course, today, settings }) {
    const before = Date.parse(today) - settings.staleDays * 86_400_000;
    for (const item of course.items) {
      const { posted } = item.settings;
      if (item.kind !== 'announcement' || posted === undefined || !isBefore(posted, before)) continue;
      yield {
        groupKey: writtenMoment(posted).slice(0, 4),
        item,
        evidence: `posted on ${day(posted)}`,
        suggestions: [leaveOut('Leave the announcement out')],
      };
    }
  },
};
