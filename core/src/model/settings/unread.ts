import * as z from 'zod';
import { defineSetting } from './define.ts';

/** Parts of a package's XML that no reader took: carried where the package goes on as it is, and lost where it is written anew. */

export const UnreadParts = z.object({
  /** `element`, `element@attribute` or `element/text`. */
  name: z.string(),
  file: z.string(),
  /** Where it stands first. */
  line: z.number().int(),
  times: z.number().int().positive(),
});
export type UnreadParts = z.infer<typeof UnreadParts>;

/** How many there are of each name, whatever file they stand in. */
export function unreadByName(parts: readonly UnreadParts[]): Map<string, number> {
  const sums = new Map<string, number>();
  for (const { name, times } of parts) sums.set(name, (sums.get(name) ?? 0) + times);
  return sums;
}

export const unread = defineSetting({
  label: 'parts that Treenail does not read',
  schema: z.array(UnreadParts),
  // Versions of QTI spell one name in two ways.
  comparable: (parts) =>
    [...unreadByName(parts)]
      .map(([name, times]): [string, number] => [name.replace(/qti-|-/g, '').toLowerCase(), times])
      .sort(([x], [y]) => (x < y ? -1 : 1)),
  words: (parts) =>
    [...unreadByName(parts)].map(([name, times]) => (times === 1 ? name : `${name} (${times})`)).join(', '),
  isNothing: (parts) => parts.length === 0,
  mayAppear: true,
});
