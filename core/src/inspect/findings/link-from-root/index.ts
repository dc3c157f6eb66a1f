import type { FindingKind } from '../contract.ts';
import { about, meant } from '../link-parts.ts';

/** Whether an address begins at the root of whatever site its page stands on. */
export const isFromRoot = (value: string) => /^\/(?!\/)/.test(value);

export const linkFromRoot: FindingKind = about({
  id: 'link-from-root',
  label: 'Addresses from the root of a site',
  weight: 'breaks',
  why: () =>
    'Such an address begins at the root of the site that the page stands on: on another platform it leads elsewhere, or nowhere.',
  states: ['broken'],
  fits: (link) => isFromRoot(link.value),
  suggest: meant,
});
