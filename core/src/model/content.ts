import { PLAIN_KINDS, type Course, type Item, type OutlineNode } from './course.ts';

export type PlainKind = (typeof PLAIN_KINDS)[number];
export type Content = Exclude<Item, { kind: PlainKind }>;

export function isContent(item: Item): item is Content {
  return !(PLAIN_KINDS as readonly string[]).includes(item.kind);
}

/** A course without what the formats for content have no place for: announcements, the gradebook and their like. */
export function contentOf(course: Course): Omit<Course, 'items'> & { items: Content[] } {
  const items = course.items.filter(isContent);
  if (items.length === course.items.length) return { ...course, items };
  const kept = new Set(items.map((i) => i.id));
  const prune = (nodes: readonly OutlineNode[]): OutlineNode[] =>
    nodes
      .filter((n) => n.item === undefined || kept.has(n.item) || n.children.length > 0)
      .map(({ item, ...n }) => ({
        ...n,
        ...(item !== undefined && kept.has(item) ? { item } : {}),
        children: prune(n.children),
      }));
  return { ...course, items, outline: prune(course.outline) };
}
