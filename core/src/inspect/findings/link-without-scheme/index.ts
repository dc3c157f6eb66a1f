import type { FindingKind } from '../contract.ts';
import { about } from '../link-parts.ts';

export const linkWithoutScheme: FindingKind = about({
  id: 'link-without-scheme',
  label: 'Addresses without http or https',
  weight: 'weakens',
  why: () => 'Such an address takes the scheme of the page around it, and fails in a page that is opened as a file.',
  states: ['outside', 'platform', 'repository', 'elsewhere', 'item'],
  fits: (link) => link.value.startsWith('//'),
  suggest: (link) => [
    { mend: 'retarget', params: { to: `https:${link.value}` }, words: `Write it as https:${link.value}` },
  ],
});
