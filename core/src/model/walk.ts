import type { Course, OutlineNode } from './course.ts';
import { kindOf, type Item, type SubjectKind } from './kinds/index.ts';

export interface Placed {
  node: OutlineNode;
  /** 0 for the outermost nodes. */
  depth: number;
  parent: OutlineNode | null;
  /** Titles of the folders above, outermost first. */
  trail: readonly string[];
}

/** The outline in reading order. Works without recursion, so depth in hostile input costs no stack. */
export function* walkOutline(outline: readonly OutlineNode[]): Generator<Placed> {
  const stack: Placed[] = [];
  const push = (nodes: readonly OutlineNode[], depth: number, parent: OutlineNode | null, trail: readonly string[]) => {
    for (let i = nodes.length - 1; i >= 0; i--) {
      const node = nodes[i];
      if (node) stack.push({ node, depth, parent, trail });
    }
  };
  push(outline, 0, null, []);
  for (let next = stack.pop(); next; next = stack.pop()) {
    yield next;
    push(next.node.children, next.depth + 1, next.node, [...next.trail, next.node.title]);
  }
}

export function itemsById(course: Course): Map<string, Item> {
  return new Map(course.items.map((item) => [item.id, item]));
}

export interface Subject {
  /** Unique within the course: `node:` or `item:` and the identifier. */
  key: string;
  kind: SubjectKind;
  title: string;
  item: Item | null;
  /** First place in the outline; `null` for items that stand in none (most banks). */
  placed: Placed | null;
}

/**
 * Everything of a course that a forecast, a comparison or a report must name exactly once: each folder and heading of
 * the outline, then each item; an item that several nodes show is named at the first of them.
 */
export function subjects(course: Course): Subject[] {
  const byId = itemsById(course);
  const seen = new Set<string>();
  const found: Subject[] = [];
  for (const placed of walkOutline(course.outline)) {
    const { node } = placed;
    if (node.item === undefined) {
      let key = `node:${node.id}`;
      while (seen.has(key)) key += '+';
      seen.add(key);
      found.push({
        key,
        kind: node.heading === true ? 'heading' : 'folder',
        title: node.title,
        item: null,
        placed,
      });
      continue;
    }
    const item = byId.get(node.item);
    if (!item || seen.has(item.id)) continue;
    seen.add(item.id);
    found.push({ key: `item:${item.id}`, kind: item.kind, title: node.title, item, placed });
  }
  for (const item of course.items) {
    if (seen.has(item.id)) continue;
    seen.add(item.id);
    found.push({ key: `item:${item.id}`, kind: item.kind, title: item.title, item, placed: null });
  }
  return found;
}

/** What an item is called where the outline first shows it, which is what people know it by; else what it calls itself. */
export function titlesIn(course: Course): (item: Pick<Item, 'id' | 'title'>) => string {
  const shown = new Map<string, string>();
  for (const { node } of walkOutline(course.outline)) {
    if (node.item !== undefined && !shown.has(node.item)) shown.set(node.item, node.title);
  }
  return (item) => shown.get(item.id) ?? item.title;
}

/** Files that an item is made of or shows: its body, its attachments, what its text and questions use. */
export function filesOf(item: Item): string[] {
  const { attachments = [], embeds = [] } = item.settings;
  return [...new Set([...kindOf(item).files(item), ...attachments, ...embeds])];
}
