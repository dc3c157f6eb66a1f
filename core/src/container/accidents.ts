import { remark, type Note } from '../model/index.ts';
import type { Entry } from './package.ts';

/** What systems leave beside people's files. */
const JUNK = /(^|\/)(__MACOSX\/|\.DS_Store$|Thumbs\.db$|desktop\.ini$|\._[^/]*$)/i;
const MANIFEST = 'imsmanifest.xml';

/**
 * Undoes what happens to packages on people's desks: a folder zipped by hand, so that everything lies one folder
 * deeper, and what systems put beside it, which is taken out of `entries`. Says so in notes. `landmarks` are files that archives
 * are known by at their top, as packages are by their manifest.
 */
export function straighten(
  entries: Map<string, Entry>,
  notes: Note[],
  landmarks: readonly string[] = [],
): Map<string, Entry> {
  const before = entries.size;
  for (const path of entries.keys()) if (JUNK.test(path)) entries.delete(path);
  const junk = before - entries.size;
  if (junk > 0) {
    notes.push(remark('system-junk', `${junk} files that systems leave behind (such as __MACOSX) were left out.`));
  }
  const marks = [MANIFEST, ...landmarks];
  const folder = marks.some((m) => entries.has(m)) ? null : wrappingFolder([...entries.keys()], marks);
  if (folder === null) return entries;
  notes.push(
    remark('wrapped-folder', `Everything in the package lies in the folder ${folder}.`, {
      file: folder,
    }),
  );
  return new Map(
    [...entries].map(([path, entry]) => {
      const bare = path.slice(folder.length);
      return [bare, { ...entry, path: bare, keepsName: false }];
    }),
  );
}

/** The folder, with its slash, that holds everything and what a package is known by with it; `null` where there is none. */
function wrappingFolder(paths: readonly string[], marks: readonly string[]): string | null {
  const folders = paths
    .flatMap((path) => marks.flatMap((mark) => (path.endsWith(`/${mark}`) ? path.slice(0, -mark.length) : [])))
    .sort((a, b) => a.length - b.length);
  const [folder] = folders;
  return folder !== undefined && paths.every((p) => p.startsWith(folder)) ? folder : null;
}
