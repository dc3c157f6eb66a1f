import type { Course, OutlineNode } from './course.ts';
import type { Item } from './kinds/index.ts';

/** A course without some of its items, and without the places in the outline that were theirs alone. */
export function courseOf<T extends Item>(
  course: Course,
  isKept: (item: Item) => item is T,
): Omit<Course, 'items'> & { items: T[] } {
  const items = course.items.filter(isKept);
  if (items.length === course.items.length) return { ...course, items };
  return { ...course, items, outline: without(course.outline, new Set(items.map((i) => i.id))) };
}

/** What hung below an item that is not `kept` takes its place. */
function without(nodes: readonly OutlineNode[], kept: ReadonlySet<string>): OutlineNode[] {
  return nodes.flatMap((n) => {
    const children = n.children.length === 0 ? n.children : without(n.children, kept);
    if (n.item !== undefined && !kept.has(n.item)) return children;
    return children === n.children ? [n] : [{ ...n, children }];
  });
}

/** An outline as it was read, of which not all that it names are items: what has anything below it is a folder then. */
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
