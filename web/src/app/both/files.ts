import { filesOf, type Course } from '@treenail/core';

export interface FileFact {
  readonly name: string;
  readonly size: number | null;
  readonly sha256: string | null;
}

/** The files that an item is made of or uses, by name; of a page what it uses, since its own text is shown. */
export function filesOfItem(course: Course | undefined, id: string | null): FileFact[] {
  const item = course?.items.find((i) => i.id === id);
  if (!course || !item) return [];
  const known = new Map(course.files.map((f) => [f.path, f]));
  return [...new Set(filesOf(item))]
    .filter((path) => known.has(path) && !(item.kind === 'page' && path === item.file))
    .map((path) => {
      const file = known.get(path);
      return { name: path.slice(path.lastIndexOf('/') + 1), size: file?.size ?? null, sha256: file?.sha256 ?? null };
    })
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));
}
