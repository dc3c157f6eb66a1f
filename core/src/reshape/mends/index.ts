import { ITEM_MENDS } from './items.ts';
import { TEXT_MENDS } from './texts.ts';
import type { MendKind } from './contract.ts';

export * from './contract.ts';
export { givenAddress, givenPath } from './texts.ts';

export const MEND_KINDS: readonly MendKind[] = [...TEXT_MENDS, ...ITEM_MENDS];
const BY_ID = new Map(MEND_KINDS.map((kind) => [kind.id, kind]));

export function mendKind(id: string): MendKind | undefined {
  return BY_ID.get(id);
}
