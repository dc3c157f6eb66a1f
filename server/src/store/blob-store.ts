import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, mkdir, open, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Readable } from 'node:stream';
import type { ByteSource } from '@treenail/core';
import { fileSource } from '@treenail/core/node';

export interface Digest {
  sha256: string;
  size: number;
}

/** Kept bytes, by their SHA-256. Once put they never change; the same bytes are held once. */
export interface BlobStore {
  /** Takes over a finished file: hashes it unless its digest is known, moves it in. `path` is gone afterwards. */
  putFile(path: string, known?: Digest): Promise<Digest>;
  /** Keeps bytes that are held, and gives their SHA-256. */
  putBytes(bytes: Uint8Array): Promise<string>;
  has(sha256: string): Promise<boolean>;
  open(sha256: string): Promise<ByteSource>;
  /** The bytes, or those from `start` to `end`, both included. */
  stream(sha256: string, part?: { start: number; end: number }): Readable;
  size(sha256: string): Promise<number>;
}

/** Blobs as files on disk, spread over 256 folders. */
export class DiskStore implements BlobStore {
  private readonly folder: string;

  constructor(folder: string) {
    this.folder = folder;
  }

  async putFile(path: string, known?: Digest): Promise<Digest> {
    const { sha256, size } = known ?? (await digestOf(path));
    const target = this.path(sha256);
    if (await this.has(sha256)) {
      await rm(path);
      return { sha256, size };
    }
    await mkdir(dirname(target), { recursive: true });
    const handle = await open(path, 'r');
    await handle.sync();
    await handle.close();
    await rename(path, target);
    return { sha256, size };
  }

  async putBytes(bytes: Uint8Array): Promise<string> {
    const part = join(this.folder, `part-${randomUUID()}`);
    await mkdir(this.folder, { recursive: true });
    await writeFile(part, bytes);
    return (await this.putFile(part)).sha256;
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
    return createReadStream(this.path(sha256), { highWaterMark: 1 << 20, ...part });
  }

  async size(sha256: string): Promise<number> {
    return (await stat(this.path(sha256))).size;
  }

  private path(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new RangeError('not a SHA-256');
    return join(this.folder, sha256.slice(0, 2), sha256);
  }
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
