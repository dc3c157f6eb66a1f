import { filesOf, type Course, type Item, type Subject } from '../model/index.ts';
import { align } from './align.ts';

/** What became of an item of a course since the course was read the time before. */
export interface Since {
  /** Identifier, as the course has it now. */
  id: string;
  since: 'same' | 'changed' | 'new';
  /** Identifier it had before; `null` where it is new. */
  was: string | null;
}

export interface ChangedSince {
  items: Since[];
  /** What was there before and is not any more. */
  gone: { id: string; title: string; kind: Item['kind'] }[];
}

/**
 * What changed in a course between two times that it was read: each item of now once, by its identifier, or where a
 * platform gave it another by what it is. Both have to be surveyed: without hashes of files a change in one is not seen.
 */
export function changedSince(before: Course, now: Course): ChangedSince {
  const items: Since[] = [];
  const gone: ChangedSince['gone'] = [];
  const known = new Set<string>();
  const [filesBefore, filesNow] = [hashesOf(before), hashesOf(now)];
  for (const { source, arrived } of align(before, now)) {
    const [was, is] = [source?.item ?? null, arrived?.item ?? null];
    if (is && !known.has(is.id)) {
      known.add(is.id);
      const same = was !== null && substanceOf(source, filesBefore) === substanceOf(arrived, filesNow);
      items.push({ id: is.id, since: was === null ? 'new' : same ? 'same' : 'changed', was: was?.id ?? null });
    } else if (was && !is) gone.push({ id: was.id, title: was.title, kind: was.kind });
  }
  // An item that stands in several places is lost only with the last of them.
  const left = new Set(items.flatMap((item) => item.was ?? []));
  return { items, gone: gone.filter(({ id }, i) => !left.has(id) && gone.findIndex((g) => g.id === id) === i) };
}

function hashesOf(course: Course): Map<string, string> {
  return new Map(course.files.map((f) => [f.path, f.sha256 ?? `${f.path} ${f.size}`]));
}

/** All that a person could have changed of an item: not what a package calls it and its files. */
function substanceOf(subject: Subject | null, hashes: ReadonlyMap<string, string>): string {
  if (!subject?.item) return '';
  const rest: Partial<Item> = { ...subject.item };
  delete rest.id;
  delete rest.definitionPath;
  const names = new Map(filesOf(subject.item).map((path) => [path, hashes.get(path) ?? path]));
  const named = (_: string, value: unknown): unknown => {
    if (typeof value === 'string') return names.get(value) ?? value;
    if (value === null || typeof value !== 'object' || Array.isArray(value)) return value;
    // In which order things are said of it is nothing that anybody changed.
    return Object.fromEntries(Object.entries(value).sort(([x], [y]) => (x < y ? -1 : 1)));
  };
  return JSON.stringify([subject.title, rest], named);
}
