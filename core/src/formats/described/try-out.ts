import { Refusal, type Note } from '../../model/index.ts';
import {
  DEFAULT_LIMITS,
  openAny,
  portableEngine,
  readChunks,
  type ByteSource,
  type OpenAnyOptions,
  type Package,
} from '../../container/index.ts';
import type { Course } from '../../model/index.ts';
import { fitsTo } from './fits.ts';
import type { Description } from './language.ts';
import { readDescribed } from './read.ts';
import { Trace, type RuleTrace } from './trace.ts';
import { packageOfDocument } from './unpack.ts';

/** An archive that is to be described: its files as they lie in it, and what it is if it is one document. */
export interface OpenArchive {
  pkg: Package;
  document: { document: string; begins: string } | null;
}

/**
 * Opens an archive as it is, without any reader: a zip, a tar, or one document of XML or JSON.
 * @throws Refusal as `openAny`
 */
export async function openArchive(source: ByteSource, options: OpenAnyOptions = {}): Promise<OpenArchive> {
  const engine = options.engine ?? portableEngine;
  const head = new TextDecoder().decode(await source.read(0, Math.min(2000, source.size))).replace(/^\ufeff/, '');
  const begins =
    /^\s*(?:<\?[^>]*\?>\s*|<!--[\s\S]*?-->\s*)*(<[\w:.-]+)/.exec(head)?.[1] ?? /^\s*(\{\s*"[^"]*")/.exec(head)?.[1];
  if (begins === undefined) return { pkg: await openAny(source, { ...options, engine }), document: null };
  const document = begins.startsWith('<') ? 'document.xml' : 'document.json';
  const limits = { ...DEFAULT_LIMITS, ...options.limits };
  const pkg = await packageOfDocument(readChunks(source, 0, source.size), document, limits, engine);
  return { pkg, document: { document, begins } };
}

/** What a description makes of an archive, for whoever writes it. */
export interface TryOut {
  /** Whether archives like this one would be known by it. */
  fits: boolean;
  course: Course;
  notes: Note[];
  rules: RuleTrace[];
  /** Files that nothing in the description speaks of. */
  foreign: string[];
}

/** Reads an open archive by a description that is being written. @throws Refusal as `readDescribed` */
export async function tryDescription(pkg: Package, description: Description): Promise<TryOut> {
  const trace = new Trace();
  const fits = await fitsTo(pkg, description).catch((error: unknown) => {
    if (error instanceof Refusal) return false;
    throw error;
  });
  const { course, notes, foreign } = await readDescribed(pkg, description, trace);
  return { fits, course, notes, rules: trace.rules(), foreign };
}
