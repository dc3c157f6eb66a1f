import type { Part } from './contract.ts';

/** Bytes and number of the items that are meant by these references: a folder stands for all that is in it. */
export function weightOf(parts: readonly Part[], refs: readonly string[]): { bytes: number; items: number } {
  const wanted = new Set(refs);
  const sum = { bytes: 0, items: 0 };
  const add = (part: Part, meant: boolean): void => {
    const now = meant || wanted.has(part.ref);
    for (const inner of part.inside) add(inner, now);
    if (!now || part.kind === 'folder') return;
    sum.bytes += part.bytes;
    sum.items++;
  };
  for (const part of parts) add(part, false);
  return sum;
}
