import { Refusal, problem, remark, type Note, type ProblemCode } from '../model/index.ts';
import type { DirectoryRecord } from './directory.ts';
import type { Limits } from './limits.ts';
import type { Entry } from './package.ts';

/* Entries of a directory, judged before anything of them is read. */

export function refuse(code: ProblemCode, message: string, action: string, file?: string): Refusal {
  return new Refusal(problem(code, message, { file }, action));
}

// Control characters and direction overrides make a name show as something that it is not.
// eslint-disable-next-line no-control-regex
const DECEPTIVE = /[\u0000-\u001f\u007f\u202a-\u202e\u2066-\u2069]/;
export const DECEPTIVE_ALL = new RegExp(DECEPTIVE, 'g');

/** What a name may have to be looked at for: nearly all have none of it, and are paths as they stand. */
const NOTABLE = new RegExp(`${DECEPTIVE.source}|\\\\|^[A-Za-z]:|(?:^|/)\\.{0,2}(?:/|$)`);

/** The path an entry stands for, or a refusal if it would leave the folder it is unpacked into. */
export function safePath(name: string, limits: Limits, notes: Note[]): string {
  if (name.length <= limits.nameLength && !NOTABLE.test(name)) return name;
  if (name.length > limits.nameLength) {
    throw refuse('name-too-long', `A file name has ${name.length} characters.`, 'Rename the file.');
  }
  if (DECEPTIVE.test(name)) {
    throw refuse(
      'name-deceptive',
      `The file name ${JSON.stringify(name)} has control characters.`,
      'Rename the file at its source and export again.',
    );
  }
  const path = name.replaceAll('\\', '/');
  if (path.startsWith('/') || /^[A-Za-z]:/.test(path) || path.split('/').includes('..')) {
    throw refuse(
      'entry-leaves-package',
      `The entry ${name} would be written outside the package's folder.`,
      'Do not unpack this file by other means. Ask whoever made it for a clean export.',
      name,
    );
  }
  if (path !== name) {
    notes.push(remark('path-backslash', `${name} is written with backslashes.`, { file: path }));
  }
  return path
    .split('/')
    .filter((segment) => segment !== '.' && segment !== '')
    .join('/');
}

export function toEntry(found: DirectoryRecord, path: string, limits: Limits, notes: Note[]): Entry {
  const { nameLength, rawName, size, compressedSize, method, crc32, dosTime, flags, offset } = found;
  if (found.kind === 'link') {
    throw refuse(
      'entry-link',
      `The entry ${path} is a link to another file, which could lead out of the package.`,
      'Put the file itself in its place and zip again.',
      path,
    );
  }
  if (flags & 1) throw refuse('zip-encrypted', `${path} is encrypted.`, 'Save the package without a password.', path);
  if (method !== 0 && method !== 8) {
    throw refuse(
      'zip-method',
      `${path} is compressed by method ${method}, which only few programs read.`,
      'Zip the files again with ordinary (deflate) compression.',
      path,
    );
  }
  if (size > limits.ratioFrom && size > compressedSize * limits.ratio) {
    throw refuse(
      'zip-bomb',
      `${path} would grow from ${compressedSize} to ${size} bytes.`,
      'Leave this file out of the package, or raise the limit if you know it.',
      path,
    );
  }
  if (found.encoding === 'cp437') {
    notes.push(
      remark('name-encoding', `The name of ${path} is not UTF-8 and was read as code page 437.`, {
        file: path,
      }),
    );
  }
  const keepsName = found.saysUtf8 && found.name === path;
  return { path, nameLength, rawName, keepsName, size, compressedSize, method, crc32, dosTime, flags, offset };
}

/** The bytes an entry claims for itself, its header's fixed part included. */
export interface Extent {
  path: string;
  start: number;
  end: number;
}

/** Overlapping entries let a small file unpack to any size (each counted once, stored once, inflated many times). */
export function refuseOverlaps(extents: Extent[]): void {
  // As a rule they stand in the order of the directory.
  if (extents.some((e, i) => e.start < (extents[i - 1]?.start ?? 0))) extents.sort((a, b) => a.start - b.start);
  for (let i = 1; i < extents.length; i++) {
    const before = extents[i - 1];
    const here = extents[i];
    if (before && here && before.end > here.start) {
      throw refuse(
        'zip-overlap',
        `${before.path} and ${here.path} claim the same bytes of the package.`,
        'Do not unpack this file by other means. Ask whoever made it for a clean export.',
        here.path,
      );
    }
  }
}
