import type { CourseLink } from './survey.ts';
import { ITEM_KINDS, filesOf, walkOutline, type Course, type ItemKind, type QuestionType } from '../model/index.ts';

export interface KindCount {
  kind: ItemKind;
  items: number;
  /** Bytes of the files that items of this kind are made of or use; a file that two kinds use counts for the first. */
  bytes: number;
}

/** Counts and sizes of a course. */
export interface Inventory {
  items: number;
  folders: number;
  depth: number;
  /** Leaves of the outline. */
  entries: number;
  kinds: KindCount[];
  questions: { type: QuestionType; count: number }[];
  /** Content files, pages among them. */
  files: number;
  bytes: number;
  byMedia: { mediaType: string; files: number; bytes: number }[];
  /** Content files that no item is made of or uses. */
  unused: string[];
}

/** `links`, where a survey found them, tell which files pages use that are no part of any item (style sheets). */
export function inventory(course: Course, links: readonly CourseLink[] = []): Inventory {
  let folders = 0;
  let entries = 0;
  let depth = 0;
  for (const { node, depth: at } of walkOutline(course.outline)) {
    if (node.item === undefined) {
      folders++;
      depth = Math.max(depth, at + 1);
    } else entries++;
  }
  const content = course.files.filter((f) => f.role === 'content');
  const sizes = new Map(content.map((f) => [f.path, f.size]));
  const owner = new Map<string, ItemKind>();
  // A file belongs first to the item that it is, then to those that use it.
  for (const item of course.items) if (item.kind === 'page' || item.kind === 'file') owner.set(item.file, item.kind);
  for (const item of course.items) {
    for (const path of filesOf(item)) if (!owner.has(path)) owner.set(path, item.kind);
  }
  const linked = new Set(links.map((l) => l.path));
  const bytes = new Map<ItemKind, number>();
  for (const [path, kind] of owner) bytes.set(kind, (bytes.get(kind) ?? 0) + (sizes.get(path) ?? 0));
  const counts = countBy(course.items, (i) => i.kind);
  const questions = course.items.flatMap((i) => (i.kind === 'quiz' || i.kind === 'bank' ? i.questions : []));
  const media = new Map<string, { mediaType: string; files: number; bytes: number }>();
  for (const file of content) {
    const at = media.get(file.mediaType) ?? { mediaType: file.mediaType, files: 0, bytes: 0 };
    at.files++;
    at.bytes += file.size;
    media.set(file.mediaType, at);
  }
  return {
    items: course.items.length,
    folders,
    depth,
    entries,
    kinds: ITEM_KINDS.flatMap((kind) => {
      const items = counts.get(kind);
      return items === undefined ? [] : [{ kind, items, bytes: bytes.get(kind) ?? 0 }];
    }),
    questions: [...countBy(questions, (q) => q.type)].map(([type, count]) => ({ type, count })),
    files: content.length,
    bytes: content.reduce((sum, f) => sum + f.size, 0),
    byMedia: [...media.values()].sort((a, b) => b.bytes - a.bytes),
    unused: content.filter((f) => !owner.has(f.path) && !linked.has(f.path)).map((f) => f.path),
  };
}

function countBy<T, K>(list: readonly T[], key: (item: T) => K): Map<K, number> {
  const counts = new Map<K, number>();
  for (const item of list) counts.set(key(item), (counts.get(key(item)) ?? 0) + 1);
  return counts;
}
