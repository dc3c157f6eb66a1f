import type { FindingKind } from '../contract.ts';
import { meant, about, at } from '../link-parts.ts';

export const linkBroken: FindingKind = about({
  id: 'link-broken',
  label: 'Links that lead nowhere',
  weight: 'breaks',
  why: (to) => `What they name is not in the package, so it can't be shown at ${at(to)}.`,
  states: ['broken'],
  fits: (link) => link.near === null && !/^(javascript|data|mailto|tel):/i.test(link.value),
  suggest: meant,
});
