import type { Course, OutlineNode } from './course.ts';
import type { Item } from './kinds/index.ts';

/** A course without some of its items, and without the places in the outline that were theirs alone. */
export function courseOf<T extends Item>(
  course: Course,
  isKept: (item: Item) => item is T,
): Omit<Course, 'items'> & { items: T[] } {
  const items = course.items.filter(isKept);
  if (items.length === course.items.length) return { ...course, items };
  return { ...course, items, outline: outlineOf(course.outline, new Set(items.map((i) => i.id))) };
}

/** An outline without the places of items that are not `kept`; what stands below them stays. */
export function outlineOf(nodes: readonly OutlineNode[], kept: ReadonlySet<string>): OutlineNode[] {
  return nodes
    .filter((n) => n.item === undefined || kept.has(n.item) || n.children.length > 0)
    .map(({ item, ...n }) => ({
      ...n,
      ...(item !== undefined && kept.has(item) ? { item } : {}),
      children: outlineOf(n.children, kept),
    }));
}
