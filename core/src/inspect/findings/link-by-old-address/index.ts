import { itemOfAddress } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';
import { canBeLedTo, toItem, about } from '../link-parts.ts';

export const linkByOldAddress: FindingKind = about({
  id: 'link-by-old-address',
  label: 'Links to this course by its old address',
  weight: 'breaks',
  why: () => 'They lead readers back into the old platform, and nowhere once it is switched off.',
  states: ['item'],
  fits: (link) => itemOfAddress(link.value) === null,
  suggest(link, context) {
    const item = link.to === null ? undefined : context.items.get(link.to);
    if (!item) return [];
    return canBeLedTo(item)
      ? [toItem(item)]
      : [{ mend: 'unlink', params: {}, words: `Keep the words; packages have no address for a ${item.kind}` }];
  },
});
