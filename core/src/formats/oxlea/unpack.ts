import { Marked } from 'marked';
import { parse } from 'yaml';
import * as z from 'zod';
import type { Unpacker } from '../../container/index.ts';
import { decodeText } from '../../markup/index.ts';
import { Refusal, problem } from '../../model/index.ts';
import { pageOf } from '../archive/parts.ts';

export const BOOK = 'book.yaml';
/** Where the page of a reading stands once the parcel is unpacked. */
export const readingPath = (path: string): string => path.replace(/\.md$/, '.html');

const Reading = z.looseObject({ sort: z.literal('reading'), name: z.string() });

const marked = new Marked({ gfm: true, async: false });

/** The texts of a parcel are CommonMark below a head in YAML: readings become pages, everything else stays as it is. */
export const oxleaUnpacker: Unpacker = {
  id: 'oxlea',
  ofPackage: {
    fits: (pkg) => pkg.entries.has(BOOK),
    async unpack(pkg, writer) {
      for (const entry of pkg.entries.values()) {
        await writer.copy(entry.path, pkg, entry);
        if (!entry.path.endsWith('.md')) continue;
        const { head, body } = parted(decodeText(await pkg.bytes(entry.path)), entry.path);
        const reading = Reading.safeParse(head);
        if (!reading.success) continue;
        const page = pageOf(reading.data.name, htmlOf(body));
        await writer.add(readingPath(entry.path), new TextEncoder().encode(page));
      }
    },
  },
};

/** A text and the head in YAML before it. @throws Refusal `yaml-malformed` */
export function parted(text: string, path: string): { head: unknown; body: string } {
  const match = /^---\r?\n([\s\S]*?)\r?\n---\r?\n([\s\S]*)$/.exec(text);
  return match ? { head: yamlOf(match[1] ?? '', path), body: match[2] ?? '' } : { head: {}, body: text };
}

export function htmlOf(text: string): string {
  return marked.parse(text) as string;
}

/** @throws Refusal `yaml-malformed` */
export function yamlOf(text: string, path: string): unknown {
  try {
    // Aliases are how a short document is made to say a million things.
    return parse(text, { maxAliasCount: 0 });
  } catch (error) {
    const line =
      error instanceof Error && 'linePos' in error ? (error.linePos as { line: number }[])[0]?.line : undefined;
    throw new Refusal(
      problem('yaml-malformed', `${path} is not well-formed YAML.`, 'Export the course again.', { file: path, line }),
      { cause: error },
    );
  }
}
