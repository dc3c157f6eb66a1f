import * as z from 'zod';
import { Refusal, Term, problem, walkOutline, type Course, type OutlineNode } from '../../model/index.ts';

/** Which part something goes into: its number, from 0, or all of them. */
export const PartOf = z.union([z.number().int().min(0), z.literal('all')]);
export type PartOf = z.infer<typeof PartOf>;

/** A course that is to become several. */
export const SplitPlan = z.object({
  parts: z
    .array(
      z.object({
        /** What the part is called as a course of its own. */
        title: z.string().trim().min(1).max(300),
        term: Term.nullable(),
        /** Where it is as a course of its own, once that is known: what leads into it from another part leads there. */
        address: z.url({ protocol: /^https?$/ }).optional(),
      }),
    )
    .min(2)
    .max(24),
  /**
   * Where places of the outline go, by their identifiers, and items that stand in none, by `item:` and theirs. What is below
   * a folder goes where the folder does, unless it is told itself; what is told nowhere goes into all.
   */
  of: z.record(z.string(), PartOf),
  /** What becomes of links over the cut to what has no address yet: they stay as they are, or only their words do. */
  cutLinks: z.enum(['kept', 'words']).optional(),
});
export type SplitPlan = z.infer<typeof SplitPlan>;

/** @throws Refusal `no-such-part`, `cut-through-item`, `part-empty` */
export function checkSplit(course: Course, plan: SplitPlan): void {
  for (const [place, part] of Object.entries(plan.of)) {
    if (part !== 'all' && part >= plan.parts.length)
      throw new Refusal(
        problem('no-such-part', `“${place}” is to go into part ${part + 1}, and there are ${plan.parts.length}.`, {
          item: place,
        }),
      );
  }
  const where = placesOf(course, plan);
  for (const { node, parent, belowItem } of walkOutline(course.outline)) {
    if (!belowItem || parent?.item === undefined) continue;
    const [own, above] = [where.get(node.id), where.get(parent.id)];
    if (above !== 'all' && own !== above)
      throw new Refusal(
        problem('cut-through-item', `“${node.title}” stands below “${parent.title}”, which goes elsewhere.`, {
          item: parent.title,
        }),
      );
  }
  plan.parts.forEach(({ title }, n) => {
    const own = [...walkOutline(course.outline)].some(
      ({ node }) => node.item !== undefined && where.get(node.id) === n,
    );
    if (!own) throw new Refusal(problem('part-empty', `Nothing goes into “${title}” alone.`));
  });
}

/** Where every place of the outline goes. */
export function placesOf(course: Course, { of }: Pick<SplitPlan, 'of'>): Map<string, PartOf> {
  const found = new Map<string, PartOf>();
  for (const { node, parent } of walkOutline(course.outline)) {
    found.set(node.id, of[node.id] ?? (parent ? found.get(parent.id) : undefined) ?? 'all');
  }
  return found;
}

/** What each item goes into, as far as the plan says: by its places, or by itself; `null` where it says nothing. */
export function partsOfItems(course: Course, plan: SplitPlan): Map<string, PartOf | ReadonlySet<number> | null> {
  const where = placesOf(course, plan);
  const found = new Map<string, PartOf | Set<number> | null>();
  for (const { node } of walkOutline(course.outline)) {
    if (node.item === undefined) continue;
    const part = where.get(node.id) ?? 'all';
    const before = found.get(node.item);
    if (before === undefined || before === null) found.set(node.item, part);
    else if (before === 'all' || part === 'all') found.set(node.item, 'all');
    else found.set(node.item, typeof before === 'number' ? new Set([before, part]) : before.add(part));
  }
  for (const { id } of course.items) {
    if (!found.has(id)) found.set(id, plan.of[`item:${id}`] ?? null);
  }
  return found;
}

/** Identifiers of places that a part has nothing of. */
export function placesLeftOut(
  outline: readonly OutlineNode[],
  where: ReadonlyMap<string, PartOf>,
  part: number,
): Set<string> {
  const out = new Set<string>();
  const stays = (node: OutlineNode): boolean => {
    // All are gone through, so that each is told.
    const below = node.children.map(stays).some(Boolean);
    const at = where.get(node.id) ?? 'all';
    const is = below || at === 'all' || at === part;
    if (!is) out.add(node.id);
    return is;
  };
  outline.forEach(stays);
  return out;
}
