// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./tar-stream.d.ts" />
import { extract } from 'tar-stream';
import { Refusal, problem, remark, type Note } from '../model/index.ts';
import { bytesSource, readChunks, type ByteSource } from './byte-source.ts';
import { portableEngine } from './engine.ts';
import { DEFAULT_LIMITS } from './limits.ts';
import { openPackage, type OpenOptions, type Package } from './package.ts';
import { ZipWriter, type Sink } from './zip-writer.ts';

/** A place for what has to be written anew before it can be read by random access. */
export interface Scratch {
  sink: Sink;
  /** What was written, once it is. */
  source(): Promise<ByteSource>;
}

export interface OpenAnyOptions extends OpenOptions {
  /** Where a tar is turned into a zip; in memory where nothing is given. */
  scratch?: () => Promise<Scratch>;
}

/**
 * Opens whatever a package came as: a zip by whatever name, or a tar, gzipped or not.
 * @throws Refusal those of `openPackage`, and `tar-damaged`
 */
export async function openAny(source: ByteSource, options: OpenAnyOptions = {}): Promise<Package> {
  const head = await source.read(0, Math.min(512, source.size));
  const gzipped = head[0] === 0x1f && head[1] === 0x8b;
  if (!gzipped && !isTar(head)) return openPackage(source, options);
  const engine = options.engine ?? portableEngine;
  const chunks = readChunks(source, 0, source.size);
  const notes: Note[] = [
    remark('tar', `The package is a ${gzipped ? 'gzipped ' : ''}tar, not a zip.`, 'Nothing; it was read.'),
  ];
  const zip = await tarToZip(gzipped ? engine.gunzip(chunks) : chunks, options, notes);
  const pkg = await openPackage(zip, options);
  return pkg.with(notes);
}

/** The magic of POSIX ustar (IEEE 1003.1), which GNU tar shares. */
function isTar(head: Uint8Array): boolean {
  return new TextDecoder('latin1').decode(head.subarray(257, 262)) === 'ustar';
}

async function tarToZip(
  chunks: AsyncIterable<Uint8Array>,
  options: OpenAnyOptions,
  notes: Note[],
): Promise<ByteSource> {
  const limits = { ...DEFAULT_LIMITS, ...options.limits };
  const scratch = await (options.scratch ?? inMemory(limits.memoryBytes))();
  const writer = new ZipWriter(scratch.sink, options.engine);
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
            remark('entry-link', `${name} is a link and was left out.`, 'Put the file itself in its place.', {
              file: name,
            }),
          );
        }
        entry.resume();
        continue;
      }
      total += size;
      if (++count > limits.entries || total > limits.totalBytes) {
        throw new Refusal(
          problem(
            'zip-bomb',
            'The package would unpack to more than the limit.',
            'Split the course, or raise the limit.',
          ),
        );
      }
      // Inside a tar nothing is compressed; a file is held while it is.
      const parts: Uint8Array[] = [];
      for await (const part of entry) parts.push(part);
      await writer.add(name.replace(/^(\.\/)+/, ''), joined(parts, size));
    }
    await fed;
    await writer.finish();
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw new Refusal(problem('tar-damaged', 'The tar is damaged or cut off.', 'Download or export it again.'), {
      cause: error,
    });
  }
  return scratch.source();
}

function joined(parts: readonly Uint8Array[], size: number): Uint8Array {
  const whole = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    whole.set(part.subarray(0, size - at), at);
    at += part.length;
  }
  return whole;
}

function inMemory(limit: number): () => Promise<Scratch> {
  return async () => {
    const parts: Uint8Array[] = [];
    let size = 0;
    return {
      sink: {
        async write(bytes) {
          size += bytes.length;
          if (size > limit) {
            throw new Refusal(
              problem(
                'tar-too-long',
                'The tar is longer than can be held in memory.',
                'Zip the files instead, or open it on the server.',
              ),
            );
          }
          parts.push(bytes.slice());
        },
      },
      source: async () => bytesSource(joined(parts, size)),
    };
  };
}
