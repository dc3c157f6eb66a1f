import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { openAny, type ByteSource, type Package } from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import type { Services } from './context.ts';

/** Opens a kept package for as long as `work` takes. */
export async function withPackage<T>(
  services: Services,
  sha256: string,
  work: (pkg: Package) => Promise<T>,
): Promise<T> {
  return withSource(services, await services.store.open(sha256), work);
}

/** Opens whatever the bytes are (a tar is written anew beside them) and lets go of all of it afterwards. */
export async function withSource<T>(
  { config }: Services,
  source: ByteSource,
  work: (pkg: Package) => Promise<T>,
): Promise<T> {
  const scratch = join(config.scratch, `unpacked-${randomUUID()}.zip`);
  try {
    const options = { engine: nodeEngine, limits: config.limits, scratch: scratchFile(scratch) };
    return await work(await openAny(source, options));
  } finally {
    await source.close();
    await rm(scratch, { force: true });
  }
}

/** "Autumn 2026" sorts badly among files; "2026-Autumn" does not. */
function termForFiles(term: string): string {
  const match = /^(\p{L}+) (\d{4})$/u.exec(term);
  return match ? `${match[2]}-${match[1]}` : term;
}

export interface Named {
  code: string;
  section: string;
  term: string;
  title: string;
}

/** The naming rule: code and section, term, first words of the title, date. Safe on every file system. */
export function nameByRule(course: Named, date: Date, extension: string): string {
  const words = course.title.split(/\s+/).slice(0, 4).join('-');
  const name = [
    `${course.code}-${course.section}`.replaceAll(' ', ''),
    termForFiles(course.term),
    words,
    date.toISOString().slice(0, 10),
  ]
    .join('_')
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}_.-]+/gu, '-')
    .replace(/-{2,}/g, '-');
  return `${name}.${extension}`;
}
