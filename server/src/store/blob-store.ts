import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, chmod, mkdir, open, readdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import type { ByteSource } from '@treenail/core';
import { fileSource } from '@treenail/core/node';

export interface Digest {
  sha256: string;
  size: number;
}

/** Kept bytes, by their SHA-256. Once put they never change; the same bytes are held once. */
export interface BlobStore {
  /**
   * Takes over a finished file: hashes it unless its digest is known, moves it in. `path` is gone afterwards. Bytes that
   * are there already count as the same only once they were read: damaged ones are replaced.
   */
  putFile(path: string, known?: Digest): Promise<Digest>;
  /** Keeps bytes that are held, and gives their SHA-256. */
  putBytes(bytes: Uint8Array): Promise<string>;
  has(sha256: string): Promise<boolean>;
  open(sha256: string): Promise<ByteSource>;
  /**
   * The bytes, or those from `start` to `end`, both included. A whole blob is verified as it goes: where it is damaged the
   * stream ends with a `BlobDamaged` instead of its last piece.
   */
  stream(sha256: string, part?: { start: number; end: number }): Readable;
  size(sha256: string): Promise<number>;
  /** Lets go of the bytes. That they are gone already is as good. */
  remove(sha256: string): Promise<void>;
  /** Removes what unfinished puts left behind. Gives how many files. */
  sweep(): Promise<number>;
}

/** Kept bytes are not what they were. */
export class BlobDamaged extends Error {
  override readonly name = 'BlobDamaged';
  readonly sha256: string;
  constructor(sha256: string) {
    super(`the kept bytes ${sha256} are damaged`);
    this.sha256 = sha256;
  }
}

/** Nobody but Treenail's own user reads what is kept. */
const OWN_FOLDER = { recursive: true, mode: 0o700 } as const;
const OWN_FILE = 0o600;

/** An unfinished put that is older than this is nobody's any more, in ms. */
const LEFT_MS = 24 * 3_600_000;

/** Blobs as files on disk, spread over 256 folders. */
export class DiskStore implements BlobStore {
  private readonly folder: string;

  constructor(folder: string) {
    this.folder = folder;
  }

  async putFile(path: string, known?: Digest): Promise<Digest> {
    const { sha256, size } = known ?? (await digestOf(path));
    const target = this.path(sha256);
    if (await this.isSound(sha256)) {
      await rm(path);
      return { sha256, size };
    }
    await mkdir(dirname(target), OWN_FOLDER);
    await chmod(path, OWN_FILE);
    const handle = await open(path, 'r');
    await handle.sync();
    await handle.close();
    await rename(path, target);
    return { sha256, size };
  }

  async putBytes(bytes: Uint8Array): Promise<string> {
    const part = join(this.folder, `part-${randomUUID()}`);
    await mkdir(this.folder, OWN_FOLDER);
    try {
      await writeFile(part, bytes, { mode: OWN_FILE });
      return (await this.putFile(part)).sha256;
    } catch (error) {
      await rm(part, { force: true });
      throw error;
    }
  }

  /** Whether the bytes are there, and are what their name says. */
  private async isSound(sha256: string): Promise<boolean> {
    return (await this.has(sha256)) && (await digestOf(this.path(sha256))).sha256 === sha256;
  }

  async has(sha256: string): Promise<boolean> {
    return access(this.path(sha256)).then(
      () => true,
      () => false,
    );
  }

  open(sha256: string): Promise<ByteSource> {
    return fileSource(this.path(sha256));
  }

  stream(sha256: string, part?: { start: number; end: number }): Readable {
    const bytes = createReadStream(this.path(sha256), { highWaterMark: 1 << 20, ...part });
    if (part) return bytes;
    const check = verified(sha256);
    bytes.once('error', (error) => check.destroy(error));
    // Whoever lets go of it in the middle leaves no open file behind.
    check.once('close', () => bytes.destroy());
    return bytes.pipe(check);
  }

  async remove(sha256: string): Promise<void> {
    await rm(this.path(sha256), { force: true });
  }

  async sweep(): Promise<number> {
    let removed = 0;
    for (const name of await readdir(this.folder).catch(() => [])) {
      const path = join(this.folder, name);
      if (!name.startsWith('part-') || Date.now() - (await stat(path)).mtimeMs < LEFT_MS) continue;
      await rm(path, { force: true });
      removed++;
    }
    return removed;
  }

  async size(sha256: string): Promise<number> {
    return (await stat(this.path(sha256))).size;
  }

  private path(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new RangeError('not a SHA-256');
    return join(this.folder, sha256.slice(0, 2), sha256);
  }
}

/** Passes bytes on, the last piece only once all of them are known to be right. */
function verified(sha256: string): Transform {
  const hash = createHash('sha256');
  let held: Buffer | null = null;
  return new Transform({
    transform(piece: Buffer, _encoding, done) {
      hash.update(piece);
      const before = held;
      held = piece;
      done(null, before ?? undefined);
    },
    flush(done) {
      if (hash.digest('hex') !== sha256) done(new BlobDamaged(sha256));
      else done(null, held ?? undefined);
    },
  });
}

async function digestOf(path: string): Promise<Digest> {
  const hash = createHash('sha256');
  let size = 0;
  for await (const part of createReadStream(path, { highWaterMark: 1 << 20 })) {
    hash.update(part as Buffer);
    size += (part as Buffer).length;
  }
  return { sha256: hash.digest('hex'), size };
}
