import { isExternal, rewriteReferences } from '../markup/index.ts';
import {
  decodePercent,
  folderOf,
  mapQuestionTexts,
  relativePath,
  resolvePath,
  type Course,
  type Item,
  type Question,
} from '../model/index.ts';

/** The token by which cartridges name their own root; cartridges 1.0 are seen to write it with low lines. */
export const BASE_TOKEN = /^(?:\$|%24)IMS[-_]CC[-_]FILEBASE(?:\$|%24)\/?/i;

/**
 * The package path that a reference in a text leads to, as seen from the file `place` and, where it bears the
 * cartridge's base token, from the root; `null` if it leads outside or nowhere.
 */
export function resolveReference(has: (path: string) => boolean, place: string, reference: string): string | null {
  const bare = reference.replace(BASE_TOKEN, '');
  if (bare === '' || bare.startsWith('#') || isExternal(bare)) return null;
  for (const candidate of [decodePercent(bare), bare]) {
    for (const from of bare === reference ? [folderOf(place)] : [folderOf(place), '']) {
      const path = resolvePath(from, candidate);
      if (path !== null && has(path)) return path;
    }
  }
  return null;
}

/** Package paths as URI references (RFC 3986): every character but the unreserved and the slash is encoded. */
export function encodePath(path: string): string {
  if (/^[\w.~/-]*$/.test(path)) return path;
  return path.split('/').map(encodeURIComponent).join('/');
}

/** The paths of a course's files, gathered once for all its items. */
const pathsOf = new WeakMap<Course['files'], ReadonlySet<string>>();

function pathsIn({ files }: Course): ReadonlySet<string> {
  const known = pathsOf.get(files) ?? new Set(files.map((f) => f.path));
  pathsOf.set(files, known);
  return known;
}

/** Rewrites what an item's texts refer to, so that it is found from another place; `token` goes before each reference. */
export function movedTexts(course: Course, item: Item, token = ''): (to: string) => (html: string) => string {
  const paths = pathsIn(course);
  return (to) => (html) =>
    rewriteReferences(html, (reference) => {
      // Images of hotspots are named by their path in the package already.
      const path =
        resolveReference((p) => paths.has(p), item.definitionPath ?? '', reference) ??
        (paths.has(reference) ? reference : null);
      return path === null ? null : token + encodePath(relativePath(to, path)) + (/[?#].*$/.exec(reference)?.[0] ?? '');
    });
}

/** The text of one file as it reads in another: what it refers to is named from there. A place of `null` is the root. */
export function rebased(html: string, resolve: (reference: string) => string | null, to: string | null): string {
  return rewriteReferences(html, (reference) => {
    const path = resolve(reference);
    return path === null ? null : encodePath(relativePath(to ?? '', path)) + (/[?#].*$/.exec(reference)?.[0] ?? '');
  });
}

/** A question as it reads in another file. */
export function rebasedQuestion(
  question: Question,
  resolve: (reference: string) => string | null,
  to: string | null,
): Question {
  return mapQuestionTexts(question, (_part, text) =>
    text.format === 'html' ? { ...text, text: rebased(text.text, resolve, to) } : text,
  );
}
