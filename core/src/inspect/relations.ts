import { isOneFile, baseName, drawsOf, filesOf, type Course, type Item, itemsOfCondition } from '../model/index.ts';
import type { CourseLink } from './links.ts';

/** How one thing of a course has to do with another. */
export interface Relation {
  /** Identifier of the item, or the path of a file that is none. */
  other: string;
  title: string;
  isItem: boolean;
  /** `links to`, `uses`, `draws from`, `hangs on`. */
  how: string;
}

export interface Relations {
  /** By the identifier of the item: what it points at, and what points at it. */
  pointsAt: ReadonlyMap<string, readonly Relation[]>;
  pointedAtBy: ReadonlyMap<string, readonly Relation[]>;
}

/** What points at what: by links in texts, by files used, by settings that name other items. */
export function relationsOf(course: Course, links: readonly CourseLink[]): Relations {
  const items = new Map(course.items.map((i) => [i.id, i]));
  const itemOfFile = new Map<string, string>();
  for (const item of course.items) if (isOneFile(item)) itemOfFile.set(item.file, item.id);
  const pointsAt = new Map<string, Relation[]>();
  const pointedAtBy = new Map<string, Relation[]>();
  const seen = new Set<string>();
  const add = (from: Item, to: string, how: string) => {
    const target = items.get(to);
    if (to === from.id || seen.has(`${from.id}\n${to}\n${how}`)) return;
    seen.add(`${from.id}\n${to}\n${how}`);
    push(pointsAt, from.id, { other: to, title: target?.title ?? baseName(to), isItem: target !== undefined, how });
    if (target) push(pointedAtBy, to, { other: from.id, title: from.title, isItem: true, how });
  };
  for (const link of links) {
    const from = link.item === null ? undefined : items.get(link.item);
    if (!from) continue;
    const how = link.use === 'anchor' ? 'links to' : 'shows';
    if (link.to !== null) add(from, link.to, how);
    else if (link.path !== null) add(from, link.path, how);
  }
  for (const item of course.items) {
    for (const path of filesOf(item)) {
      const to = itemOfFile.get(path) ?? path;
      if (
        path !== item.definitionPath &&
        to !== item.id &&
        !seen.has(`${item.id}\n${to}\nlinks to`) &&
        !seen.has(`${item.id}\n${to}\nshows`)
      ) {
        add(item, to, 'uses');
      }
    }
    if (item.kind === 'quiz') for (const { bank } of drawsOf(item)) if (items.has(bank)) add(item, bank, 'draws from');
    const named: [unknown, string][] = [
      [item.settings.usesRubric, 'is marked by'],
      [item.settings.category, 'counts in'],
      [item.settings.gradesItem, 'grades'],
    ];
    for (const [id, how] of named) if (typeof id === 'string' && items.has(id)) add(item, id, how);
    for (const condition of item.settings.visibleWhen ?? []) {
      for (const id of itemsOfCondition(condition)) if (items.has(id)) add(item, id, 'hangs on');
    }
  }
  return { pointsAt, pointedAtBy };
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
