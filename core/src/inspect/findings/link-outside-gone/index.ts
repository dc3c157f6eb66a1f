import type { FindingKind } from '../contract.ts';
import { foundAt } from '../link-parts.ts';

export const linkOutsideGone: FindingKind = {
  id: 'link-outside-gone',
  label: 'Outside addresses that answer no more',
  weight: 'breaks',
  mends: ['retarget', 'give-file', 'unlink', 'remove'],
  why: () => 'They were asked, and what they name is gone.',
  *inCourse(context) {
    for (const link of context.links) {
      const answer = context.outside.get(addressAsked(link.value));
      if (link.state !== 'outside' || !answer || answer.state === 'there' || answer.state === 'unasked') continue;
      const to = answer.to;
      const found = foundAt(
        link,
        context,
        to === null ? [] : [{ mend: 'retarget', params: { to }, words: `Lead it to ${to}` }],
      );
      const weight = answer.state === 'gone' ? 'breaks' : answer.state === 'moved' ? 'clutters' : 'weakens';
      yield { ...found, evidence: `${found.evidence}: ${answer.words}`, weight };
    }
    for (const item of context.course.items) {
      if (item.kind !== 'link') continue;
      const answer = context.outside.get(addressAsked(item.url));
      if (!answer || answer.state === 'there' || answer.state === 'unasked') continue;
      yield { groupKey: item.url, item, evidence: `web link to ${item.url}: ${answer.words}` };
    }
  },
};

/** An address as it is asked: without the place in the page. */
export function addressAsked(value: string): string {
  return (value.startsWith('//') ? `https:${value}` : value).replace(/#.*$/, '');
}
