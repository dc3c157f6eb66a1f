import type { Course, OutlineNode } from './course.ts';
import { kindOf, type Item, type SubjectKind } from './kinds/index.ts';
import type { Settings } from './settings/index.ts';

export interface Placed {
  node: OutlineNode;
  /** 0 for the outermost nodes. */
  depth: number;
  parent: OutlineNode | null;
  /** Some of what it hangs in is an item. */
  belowItem: boolean;
  /** Titles of the folders above, outermost first. */
  trail: readonly string[];
}

/** The outline in reading order. Works without recursion, so depth in hostile input costs no stack. */
export function* walkOutline(outline: readonly OutlineNode[]): Generator<Placed> {
  const stack: Placed[] = [];
  const push = (nodes: readonly OutlineNode[], at: Omit<Placed, 'node'>) => {
    for (let i = nodes.length - 1; i >= 0; i--) {
      const node = nodes[i];
      if (node) stack.push({ node, ...at });
    }
  };
  push(outline, { depth: 0, parent: null, belowItem: false, trail: [] });
  for (let next = stack.pop(); next; next = stack.pop()) {
    yield next;
    const { node, depth, trail } = next;
    if (node.children.length === 0) continue;
    const belowItem = next.belowItem || node.item !== undefined;
    push(node.children, { depth: depth + 1, parent: node, belowItem, trail: [...trail, node.title] });
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
  /** Of the item, or of the place. */
  settings: Settings;
  /** First place in the outline; `null` for items that stand in none (most banks). */
  placed: Placed | null;
}

/**
 * Everything of a course that a forecast, a comparison or a report must name exactly once: each folder and heading of
 * the outline, and each item, with its first place; its other places are named as such. The course itself is named where
 * something is set of it.
 */
export function subjects(course: Course, { withCourse = isSet(course) } = {}): Subject[] {
  const byId = itemsById(course);
  const seen = new Set<string>();
  const found: Subject[] = withCourse
    ? [
        {
          key: 'course',
          kind: 'course',
          title: course.title,
          item: null,
          settings: course.settings ?? {},
          placed: null,
        },
      ]
    : [];
  for (const placed of walkOutline(course.outline)) {
    const { node } = placed;
    const item = node.item === undefined ? null : byId.get(node.item);
    if (item === undefined) continue;
    if (item && !seen.has(`item:${item.id}`)) {
      found.push(ofItem(item, node.title, placed));
      seen.add(`item:${item.id}`);
      continue;
    }
    let key = `node:${node.id}`;
    while (seen.has(key)) key += '+';
    seen.add(key);
    const kind = item ? 'occurrence' : node.heading === true ? 'heading' : 'folder';
    found.push({ key, kind, title: node.title, item: null, settings: node.settings ?? {}, placed });
  }
  for (const item of course.items) {
    if (!seen.has(`item:${item.id}`)) found.push(ofItem(item, item.title, null));
  }
  return found;
}

/** Whether anything is set of the course as a whole. */
export function isSet({ settings }: Course): boolean {
  return settings !== undefined && Object.keys(settings).length > 0;
}

function ofItem(item: Item, title: string, placed: Placed | null): Subject {
  return { key: itemKey(item.id), kind: item.kind, title, item, settings: item.settings, placed };
}

/** What is set of an item in each of its places, in the order of the outline. */
export function settingsByPlace(course: Course): Map<OutlineNode, Settings> {
  return new Map(
    subjects(course).flatMap(({ placed, settings }): [OutlineNode, Settings][] =>
      placed ? [[placed.node, settings]] : [],
    ),
  );
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
  const { attachments = [], instructorAttachments = [], embeds = [] } = item.settings;
  return [...new Set([...kindOf(item).files(item), ...attachments, ...instructorAttachments, ...embeds])];
}

/** With this begin the keys of items; those of places are their own. */
const ITEM = 'item:';

export function itemKey(id: string): string {
  return ITEM + id;
}

/** Identifier of the item that a subject's key stands for; `null` where it stands for a place. */
export function itemOfKey(key: string): string | null {
  return key.startsWith(ITEM) ? key.slice(ITEM.length) : null;
}
