import { encodePath } from '../formats/references.ts';
import type { CourseLink } from '../inspect/index.ts';
import { escapeXml } from '../markup/index.ts';
import {
  SETTINGS,
  definitionOf,
  itemAddress,
  itemOfAddress,
  mapTexts,
  replaceItemAddresses,
  type Course,
  type OutlineNode,
  type Settings,
} from '../model/index.ts';
import type { ChangeSet } from './changes.ts';

/** Items that are called otherwise than they were, so that others can stand beside them. */

export function freeName(name: string, taken: ReadonlySet<string>): string {
  let free = name;
  for (let n = 2; taken.has(free); n++) free = `${name}-${n}`;
  return free;
}

/** Addresses of the model in pages: those in texts of items are changed with the items. */
export function addressesIn(
  links: readonly CourseLink[],
  calls: ReadonlyMap<string, string>,
  changes: ChangeSet,
): void {
  for (const link of links) {
    const id = itemOfAddress(link.value);
    const to = id === null ? undefined : calls.get(id);
    if (to === undefined || link.file === null || (link.item !== null && changes.leftOut.items.has(link.item)))
      continue;
    const rest = /[?#].*$/.exec(link.value)?.[0] ?? '';
    const value = itemAddress(to) + encodePath(rest);
    changes.cut(link, [{ ...link.at, text: link.inStyle ? value : escapeXml(value) }]);
  }
}

/** The course with some of its items called otherwise, wherever they are spoken of. */
export function called(course: Course, calls: ReadonlyMap<string, string>): Course {
  if (calls.size === 0) return course;
  const name = (id: string) => calls.get(id) ?? id;
  const nodes = (list: readonly OutlineNode[]): OutlineNode[] =>
    list.map(({ item, settings, children, ...node }) => ({
      ...node,
      ...(item === undefined ? {} : { item: name(item) }),
      ...(settings === undefined ? {} : { settings: renamedSettings(settings, name) }),
      children: nodes(children),
    }));
  const items = course.items.map((item) => {
    const renamed = { ...item, id: name(item.id), settings: renamedSettings(item.settings, name) };
    return mapTexts(renamed, (_, text) => ({
      ...text,
      text: replaceItemAddresses(text.text, (id) => itemAddress(name(id))),
    }));
  });
  return { ...course, outline: nodes(course.outline), items };
}

function renamedSettings(settings: Settings, name: (id: string) => string): Settings {
  const after: Record<string, unknown> = { ...settings };
  for (const one of SETTINGS) {
    const { renamed } = definitionOf(one);
    const value = settings[one];
    if (renamed && value !== undefined) after[one] = renamed(value, name);
  }
  return after;
}
