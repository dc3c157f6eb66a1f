import type { FindingKind } from '../contract.ts';
import { isFromRoot } from '../link-from-root/index.ts';
import { isOwnMachine } from '../link-own-machine/index.ts';
import { meant, about, at } from '../link-parts.ts';

export const linkBroken: FindingKind = about({
  id: 'link-broken',
  label: 'Links that lead nowhere',
  weight: 'breaks',
  why: (to) => `What they name is not in the package, so it can't be shown at ${at(to)}.`,
  states: ['broken'],
  fits: ({ near, value }) =>
    near === null && !/^(javascript|data|mailto|tel):/i.test(value) && !isFromRoot(value) && !isOwnMachine(value),
  suggest: meant,
});
