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
    .map((n) => {
      const { item, ...rest } = n;
      const leads = item !== undefined && kept.has(item);
      // Most nodes are leaves that lead somewhere.
      if (leads && n.children.length === 0) return n;
      const children = outlineOf(n.children, kept);
      return leads ? { ...rest, item, children } : { ...rest, children };
    });
}
