import type { FindingKind } from '../contract.ts';
import { toFile, about } from '../link-parts.ts';

export const linkWrittenOtherwise: FindingKind = about({
  id: 'link-written-otherwise',
  label: 'Links written otherwise than the file',
  weight: 'breaks',
  why: () =>
    'The old platform forgives capitals, doubled encoding and backslashes; most others do not, and show nothing.',
  states: ['broken'],
  fits: (link) => link.near !== null,
  suggest: (link) => (link.near ? [toFile(link.near.path)] : []),
});
