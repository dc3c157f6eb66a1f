import type { CourseLink } from '../inspect/index.ts';
import {
  isOneFile,
  drawsOf,
  filesOf,
  type Course,
  type Item,
  type OutlineNode,
  itemsOfCondition,
} from '../model/index.ts';

/** What an item can't do without: items by their identifiers, files by their paths. */
export interface Needs {
  items: Set<string>;
  files: Set<string>;
}

/**
 * What each item needs of the others: a quiz its banks, a task its rubric and grade column's category, and so on. A link
 * in a text is no need: readers do without the page it leads to, though they are told of it.
 */
export function needsOf(
  item: Item,
  course: Course,
  known: ReadonlySet<string> = new Set(course.items.map((i) => i.id)),
): Needs {
  const items = new Set<string>();
  const need = (id: unknown) => {
    if (typeof id === 'string' && known.has(id) && id !== item.id) items.add(id);
  };
  if (item.kind === 'quiz') drawsOf(item).forEach((d) => need(d.bank));
  need(item.settings.usesRubric);
  need(item.settings.category);
  return { items, files: new Set(filesOf(item)) };
}

export interface Selection {
  /** Items that were not asked for and come along because others need them, with who needs them. */
  pulledIn: { item: string; by: string }[];
  /** References of what goes to what does not: links in texts, and what an item hangs on. */
  dangling: { item: string; to: string; is: 'link' | 'condition'; words: string }[];
}

/**
 * What leaving out `out` (identifiers of items) means for the rest. What stands at the destination already (`there`) is to
 * be had: it is not pulled in, and nothing that leads to it leads nowhere.
 */
export function selectionOf(
  course: Course,
  out: ReadonlySet<string>,
  links: readonly CourseLink[],
  there: ReadonlySet<string> = new Set(),
): Selection {
  const titles = new Map(course.items.map((i) => [i.id, i.title]));
  const pulledIn: Selection['pulledIn'] = [];
  const dangling: Selection['dangling'] = [];
  const kept = course.items.filter((i) => !out.has(i.id));
  const known = new Set(course.items.map((i) => i.id));
  const came = new Set<string>();
  const queue = [...kept];
  for (let item = queue.shift(); item; item = queue.shift()) {
    for (const id of needsOf(item, course, known).items) {
      if (!out.has(id) || came.has(id) || there.has(id)) continue;
      came.add(id);
      pulledIn.push({ item: id, by: item.id });
      const pulled = course.items.find((i) => i.id === id);
      if (pulled) queue.push(pulled);
    }
  }
  const goes = (id: string) => !out.has(id) || came.has(id);
  const isHad = (id: string) => goes(id) || there.has(id);
  for (const link of links) {
    if (link.item === null || link.to === null || !goes(link.item) || isHad(link.to)) continue;
    dangling.push({ item: link.item, to: link.to, is: 'link', words: `links to “${titles.get(link.to) ?? link.to}”` });
  }
  for (const item of course.items) {
    if (!goes(item.id)) continue;
    const after = [
      ...(item.settings.visibleWhen ?? []).flatMap(itemsOfCondition).filter((id) => titles.has(id)),
      ...idsIn(item.settings.gradesItem, titles),
    ];
    for (const id of after) {
      if (!isHad(id))
        dangling.push({ item: item.id, to: id, is: 'condition', words: `hangs on “${titles.get(id) ?? id}”` });
    }
  }
  return { pulledIn, dangling };
}

/** Identifiers of items that stand in a text. */
function idsIn(value: unknown, known: ReadonlyMap<string, string>): string[] {
  const texts = Array.isArray(value) ? (value as string[]) : typeof value === 'string' ? [value] : [];
  return [...new Set(texts.flatMap((t) => t.split(/[\s,=]+/)).filter((word) => known.has(word)))];
}

/**
 * The course without some of its items and outline nodes. Files that only they used go too; the course itself stays as
 * it is.
 */
export function leaveOutOf(
  course: Course,
  out: { items: ReadonlySet<string>; nodes: ReadonlySet<string>; files?: ReadonlySet<string> },
  links: readonly CourseLink[] = [],
): { course: Course; files: Set<string> } {
  const going = course.items.filter((i) => out.items.has(i.id));
  const staying = course.items.filter((i) => !out.items.has(i.id));
  const stillUsed = new Set(staying.flatMap(usedBy));
  const own = new Set(going.flatMap((i) => (isOneFile(i) ? [i.file] : [])));
  const files = new Set(out.files);
  // A page or file goes though others link to it: that link is then dangling, and told.
  for (const path of own) if (!stillUsed.has(path)) files.add(path);
  for (const link of links) {
    if (link.path !== null && (link.item === null || !out.items.has(link.item))) stillUsed.add(link.path);
  }
  for (const path of going.flatMap(usedBy)) if (!stillUsed.has(path)) files.add(path);
  for (const link of links) {
    if (link.item !== null && out.items.has(link.item) && link.path !== null && !stillUsed.has(link.path)) {
      files.add(link.path);
    }
  }
  return {
    course: {
      ...course,
      outline: prune(course.outline, out),
      items: staying.map((item) => withoutFiles(item, files)),
      files: course.files.filter((f) => !files.has(f.path)),
    },
    files,
  };
}

/** Identifiers of folders in which, and below which, nothing stands but what is left out. */
export function emptyFolders(outline: readonly OutlineNode[], out: ReadonlySet<string>): string[] {
  const holds = (node: OutlineNode): boolean =>
    (node.item !== undefined && !out.has(node.item)) || node.children.some(holds);
  return outline.flatMap((node) => {
    const below = emptyFolders(node.children, out);
    return node.item === undefined && !holds(node) ? [node.id, ...below] : below;
  });
}

function usedBy(item: Item): string[] {
  return item.definitionPath === null ? filesOf(item) : [item.definitionPath, ...filesOf(item)];
}

function prune(
  nodes: readonly OutlineNode[],
  out: { items: ReadonlySet<string>; nodes: ReadonlySet<string> },
): OutlineNode[] {
  return nodes.flatMap((node) => {
    if (out.nodes.has(node.id)) return [];
    const children = prune(node.children, out);
    // A folder goes with the last that was in it; one that was empty before is another matter.
    if (node.item === undefined && node.children.length > 0 && children.length === 0) return [];
    // What stood under an item that goes takes its place.
    return node.item !== undefined && out.items.has(node.item) ? children : [{ ...node, children }];
  });
}

function withoutFiles(item: Item, files: ReadonlySet<string>): Item {
  if (files.size === 0) return item;
  const settings = { ...item.settings };
  for (const name of ['attachments', 'instructorAttachments', 'embeds'] as const) {
    const list = settings[name];
    if (!Array.isArray(list)) continue;
    const left = list.filter((path) => !files.has(path));
    if (left.length > 0) settings[name] = left;
    else delete settings[name];
  }
  return { ...item, settings };
}
