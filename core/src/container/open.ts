// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./tar-stream.d.ts" />
import { extract } from 'tar-stream';
import { Refusal, problem, remark, type Note } from '../model/index.ts';
import { bytesSource, joinBytes, readChunks, type ByteSource } from './byte-source.ts';
import { portableEngine } from './engine.ts';
import { DEFAULT_LIMITS, type Limits } from './limits.ts';
import { openPackage, type Entry, type OpenOptions, type Package } from './package.ts';
import { scratched, type MakeScratch } from './scratch.ts';
import { ZipWriter } from './zip-writer.ts';

/**
 * Makes a package of what is none: an archive that is no zip, or a zip whose files are not what they stand for (texts in
 * a light mark-up, say). What it writes is read in its place; the bytes that came stay what is kept.
 */
export interface Unpacker {
  id: string;
  /** The file at the top that an archive of it is known by, where it is a zip. */
  landmark?: string;
  /** Of bytes that are no zip, by the first of them, inflated where they were gzipped. */
  ofBytes?: {
    fits(head: Uint8Array): boolean;
    unpack(chunks: AsyncIterable<Uint8Array>, writer: ZipWriter, notes: Note[], limits: Limits): Promise<void>;
  };
  ofPackage?: {
    fits(pkg: Package): boolean | Promise<boolean>;
    unpack(pkg: Package, writer: ZipWriter, notes: Note[]): Promise<void>;
  };
}

export interface OpenAnyOptions extends OpenOptions {
  unpackers?: readonly Unpacker[];
  /** Where a tar is turned into a zip; in memory where nothing is given. */
  scratch?: MakeScratch;
  /** It was found inside another package. */
  within?: boolean;
}

/**
 * Opens whatever a package came as: a zip by whatever name, a tar, gzipped or not, or what one of the unpackers knows.
 * @throws Refusal those of `openPackage`, and `tar-damaged`
 */
export async function openAny(source: ByteSource, options: OpenAnyOptions = {}): Promise<Package> {
  const engine = options.engine ?? portableEngine;
  const limits = { ...DEFAULT_LIMITS, ...options.limits };
  const head = await source.read(0, Math.min(512, source.size));
  const gzipped = head[0] === 0x1f && head[1] === 0x8b;
  const chunks = () => {
    const raw = readChunks(source, 0, source.size);
    return gzipped ? engine.gunzip(raw) : raw;
  };
  const inside = gzipped ? await firstOf(chunks()) : head;
  const known = (options.unpackers ?? []).find((u) => u.ofBytes?.fits(inside) === true)?.ofBytes;
  const unpacker = known ?? (gzipped || isTar(head) ? tar(gzipped) : null);
  if (unpacker) {
    const notes: Note[] = [];
    const zip = await written(options, limits, (writer) => unpacker.unpack(chunks(), writer, notes, limits));
    return (await closingOf(zip, openPackage(zip, options))).with(notes);
  }
  const landmarks = (options.unpackers ?? []).flatMap((u) => u.landmark ?? []);
  const pkg = await openPackage(source, { ...options, landmarks });
  const alone = await archiveAlone(pkg, options);
  if (alone) {
    const notes = [
      ...pkg.notes,
      remark('wrapped-file', `The archive ${alone.path} lay in a zip by itself.`, {
        file: alone.path,
      }),
    ];
    const inner = await scratched(options.scratch ?? inMemory(limits.memoryBytes), async (sink) => {
      for await (const part of pkg.stream(alone.path)) await sink.write(part);
    });
    // What lies in a zip in a zip is not looked into any further.
    return (await closingOf(inner, openAny(inner, { ...options, within: true }))).with(notes);
  }
  const rewriter = await rewriterOf(pkg, options);
  if (!rewriter) return pkg;
  const notes: Note[] = [...pkg.notes];
  const zip = await written(options, limits, (writer) => rewriter.unpack(pkg, writer, notes));
  return (await closingOf(zip, openPackage(zip, options))).with(notes);
}

/** What is opened; the source is closed where it can't be. */
async function closingOf(source: ByteSource, opened: Promise<Package>): Promise<Package> {
  return opened.catch(async (error: unknown) => {
    await source.close();
    throw error;
  });
}

async function rewriterOf(pkg: Package, { unpackers = [] }: OpenAnyOptions): Promise<Unpacker['ofPackage']> {
  for (const { ofPackage } of unpackers) if ((await ofPackage?.fits(pkg)) === true) return ofPackage;
  return undefined;
}

/** The one file of a zip that is an archive of its own, as when a platform's archive was zipped once more. */
async function archiveAlone(
  pkg: Package,
  { unpackers = [], engine = portableEngine, within }: OpenAnyOptions,
): Promise<Entry | null> {
  const [only, ...others] = pkg.entries.values();
  if (within === true || !only || others.length > 0) return null;
  let head: Uint8Array = new Uint8Array();
  for await (const part of pkg.stream(only.path)) {
    head = part;
    break;
  }
  const gzipped = head[0] === 0x1f && head[1] === 0x8b;
  const once = async function* () {
    yield head;
  };
  const inside = gzipped ? await firstOf(engine.gunzip(once())) : head;
  return unpackers.some((u) => u.ofBytes?.fits(inside) === true) ? only : null;
}

async function written(
  options: OpenAnyOptions,
  limits: Limits,
  work: (writer: ZipWriter) => Promise<void>,
): Promise<ByteSource> {
  return scratched(options.scratch ?? inMemory(limits.memoryBytes), async (sink) => {
    const writer = new ZipWriter(sink, options.engine);
    await work(writer);
    await writer.finish();
  });
}

/** The first bytes of a stream, or none where it can't be inflated: that is told by whoever reads it whole. */
async function firstOf(chunks: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  try {
    for await (const chunk of chunks) return chunk;
  } catch (error) {
    if (error instanceof Refusal) throw error;
  }
  return new Uint8Array();
}

/** The magic of POSIX ustar (IEEE 1003.1), which GNU tar shares. */
function isTar(head: Uint8Array): boolean {
  return new TextDecoder('latin1').decode(head.subarray(257, 262)) === 'ustar';
}

function tar(gzipped: boolean): NonNullable<Unpacker['ofBytes']> {
  return {
    fits: isTar,
    async unpack(chunks, writer, notes, limits) {
      notes.push(remark('tar', `The package is a ${gzipped ? 'gzipped ' : ''}tar, not a zip.`));
      await untar(chunks, writer, notes, limits);
    },
  };
}

async function untar(
  chunks: AsyncIterable<Uint8Array>,
  writer: ZipWriter,
  notes: Note[],
  limits: Limits,
): Promise<void> {
  const unpacking = extract();
  // Fed from the side; what goes wrong there reaches the loop below through the stream.
  const fed = (async () => {
    for await (const chunk of chunks) {
      if (!unpacking.write(chunk)) {
        await new Promise<void>((done) => unpacking.once('drain', () => done()));
      }
    }
    unpacking.end();
  })();
  fed.catch((error: unknown) => unpacking.destroy(error instanceof Error ? error : new Error(String(error))));
  let count = 0;
  let total = 0;
  try {
    for await (const entry of unpacking) {
      const { name, type = 'file', size = 0 } = entry.header;
      if (type !== 'file' && type !== 'contiguous-file') {
        if (type === 'symlink' || type === 'link') {
          notes.push(
            remark('entry-link', `${name} is a link and was left out.`, {
              file: name,
            }),
          );
        }
        entry.resume();
        continue;
      }
      total += size;
      if (++count > limits.entries || total > limits.totalBytes) {
        throw new Refusal(problem('zip-bomb', 'The package would unpack to more than the limit.'));
      }
      const path = name.replace(/^(\.\/)+/, '');
      // Inside a tar nothing is compressed; what is long stays so, since it would have to be held to be packed.
      if (size > HELD) {
        await writer.stream(path, entry);
        continue;
      }
      const parts: Uint8Array[] = [];
      for await (const part of entry) parts.push(part);
      await writer.add(path, joinBytes(parts));
    }
    await fed;
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw new Refusal(problem('tar-damaged', 'The tar is damaged or cut off.'), {
      cause: error,
    });
  }
}

const HELD = 4 * 2 ** 20;

/** Scratch in memory, up to so many bytes. */
export function inMemory(limit: number): MakeScratch {
  return async () => {
    const parts: Uint8Array[] = [];
    let size = 0;
    return {
      sink: {
        async write(bytes) {
          size += bytes.length;
          if (size > limit) {
            throw new Refusal(problem('tar-too-long', 'The tar is longer than can be held in memory.'));
          }
          parts.push(bytes.slice());
        },
      },
      source: async () => bytesSource(joinBytes(parts)),
    };
  };
}
