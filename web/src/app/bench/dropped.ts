import { guessNamed, type Course, type Named, type Problem } from '@treenail/core';
import type { CopySummary } from '@treenail/server/contract';
import type { Glance, Source } from './messages';

interface Loose {
  path: string;
  file: File;
}

const PACKAGE = /\.(imscc|zip|tar|tgz|tar\.gz)$/i;
const COURSE = /(^|\/)imsmanifest\.xml$|\.x?html?$/i;
const JUNK = /(^|\/)(\.DS_Store|Thumbs\.db|desktop\.ini|\._[^/]*)$/i;

/** Everything of a drop. What is asked of the event is asked before the first wait: it is empty afterwards. */
export async function sourcesOfDrop(transfer: DataTransfer): Promise<Source[]> {
  const entries = [...transfer.items]
    .filter((item) => item.kind === 'file')
    .map((item) => item.webkitGetAsEntry() ?? item.getAsFile());
  const sources: Source[] = [];
  for (const entry of entries) {
    if (entry instanceof File) sources.push(fileSourceOf(entry));
    else if (entry && isFolder(entry)) sources.push(...folderSources(entry.name, await filesUnder(entry, '')));
    else if (entry && isFile(entry)) sources.push(fileSourceOf(await fileOf(entry)));
  }
  return sources;
}

/** Files chosen one by one, or by their folder. */
export function sourcesOfInput(files: readonly File[]): Source[] {
  const [first] = files;
  if (!first?.webkitRelativePath) return files.map(fileSourceOf);
  const [folder = ''] = first.webkitRelativePath.split('/');
  return folderSources(
    folder,
    files.map((file) => ({ path: file.webkitRelativePath.slice(folder.length + 1), file })),
  );
}

function fileSourceOf(file: File): Source {
  return { name: file.name, size: file.size, file };
}

/** A folder is a course of its own where it holds a manifest or a page, and else a pile of packages. */
export function folderSources(name: string, files: readonly Loose[]): Source[] {
  const useful = files.filter((f) => !JUNK.test(f.path));
  const isPile =
    useful.length > 0 && useful.every((f) => PACKAGE.test(f.path)) && !useful.some((f) => COURSE.test(f.path));
  if (isPile) return useful.map((f) => fileSourceOf(f.file));
  return [{ name, size: useful.reduce((sum, f) => sum + f.file.size, 0), files: useful }];
}

function isFolder(entry: FileSystemEntry): entry is FileSystemDirectoryEntry {
  return entry.isDirectory;
}

function isFile(entry: FileSystemEntry): entry is FileSystemFileEntry {
  return entry.isFile;
}

function fileOf(entry: FileSystemFileEntry): Promise<File> {
  return new Promise((resolve, reject) => entry.file(resolve, reject));
}

async function filesUnder(folder: FileSystemDirectoryEntry, path: string): Promise<Loose[]> {
  const reader = folder.createReader();
  const found: Loose[] = [];
  // A reader gives a hundred entries at a time, and none when it is done.
  for (;;) {
    const entries = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (entries.length === 0) return found;
    for (const entry of entries) {
      const at = `${path}${entry.name}`;
      if (isFolder(entry)) found.push(...(await filesUnder(entry, `${at}/`)));
      else if (isFile(entry)) found.push({ path: at, file: await fileOf(entry) });
    }
  }
}

/** One of the things that were dropped, and what is known of it. */
export interface Dropped {
  key: string;
  source: Source;
  glance: Glance | null;
  refusal: Problem | null;
}

/** What a package says of its course by itself is no guess. */
export function namedOf(fileName: string, { title, identity }: Course): Named {
  const guess = guessNamed(fileName, title);
  const ownOrGuessed = (own: string | undefined, guessed: string) => (own === undefined || own === '' ? guessed : own);
  return {
    code: ownOrGuessed(identity?.code, guess.code),
    section: ownOrGuessed(identity?.section, guess.section),
    term: ownOrGuessed(identity?.term, guess.term),
    title: identity ? title : guess.title,
  };
}

export function sourceOfCopy({ id, fileName, size }: CopySummary) {
  return { name: fileName, size, address: `/api/copies/${id}/file` };
}

export function keyOf(source: Source): string {
  const changed =
    'file' in source ? source.file.lastModified : 'files' in source ? source.files.length : source.address;
  return `${source.name} ${source.size} ${changed}`;
}

export function fileNameOf(source: Source): string {
  return 'files' in source ? `${source.name}.zip` : source.name;
}
