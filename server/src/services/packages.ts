import { openPackage, type Package } from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import type { Services } from './context.ts';

/** Opens a kept package for as long as `work` takes. */
export async function withPackage<T>(
  services: Services,
  sha256: string,
  work: (pkg: Package) => Promise<T>,
): Promise<T> {
  const source = await services.store.open(sha256);
  try {
    return await work(await openPackage(source, { engine: nodeEngine }));
  } finally {
    await source.close();
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
