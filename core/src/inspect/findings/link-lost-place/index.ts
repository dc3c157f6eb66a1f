import type { FindingKind } from '../contract.ts';
import { toFile, about } from '../link-parts.ts';

export const linkLostPlace: FindingKind = about({
  id: 'link-lost-place',
  label: 'Links to a place that a page does not have',
  weight: 'weakens',
  why: () => 'The page opens, but at its top.',
  mends: ['retarget', 'unlink'],
  states: ['fragment', 'inside'],
  fits: (link) => link.lost,
  suggest: (link) => (link.path === null ? [] : [toFile(link.path)]),
});
