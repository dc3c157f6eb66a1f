import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readlinkSync, statSync, utimesSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { until } from '../testing/database.ts';
import { BlobDamaged, DiskStore } from './blob-store.ts';

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

async function all(stream: Readable): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of stream) parts.push(part as Buffer);
  return Buffer.concat(parts);
}

describe('Kept bytes', () => {
  let folder: string;
  let store: DiskStore;
  beforeEach(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-store-'));
    store = new DiskStore(join(folder, 'kept'));
  });
  afterEach(() => rm(folder, { recursive: true }));
  const file = async (bytes: Uint8Array, name = 'in.part') => {
    const path = join(folder, name);
    await writeFile(path, bytes);
    return path;
  };
  const kept = () =>
    readdirSync(join(folder, 'kept'), { recursive: true, withFileTypes: true }).filter((f) => f.isFile());

  it('leave no open file behind when whoever takes them goes away in the middle', async () => {
    const digest = await store.putBytes(Buffer.alloc(8 << 20, 1));
    const isOpen = () =>
      readdirSync('/proc/self/fd').some((fd) => {
        try {
          return readlinkSync(`/proc/self/fd/${fd}`).startsWith(folder);
        } catch {
          return false; // The one that lists them is closed by now.
        }
      });
    for (const part of [undefined, { start: 0, end: 4 << 20 }]) {
      const stream = store.stream(digest, part);
      await new Promise((done) => stream.once('readable', done));
      expect(isOpen()).toBeTrue();
      stream.destroy();
      await until(() => Promise.resolve(!isOpen()));
    }
  });

  it('come back byte for byte, whole or in part, by what they are', async () => {
    for (const length of [1, 2, 1000, 3 << 20]) {
      const bytes = Buffer.from(Uint8Array.from({ length }, (_, i) => (i * 31 + (i >> 8)) & 255));
      const digest = await store.putBytes(bytes);
      expect(digest).toBe(sha256(bytes));
      expect(await store.size(digest)).toBe(length);
      expect((await all(store.stream(digest))).equals(bytes)).toBeTrue();
      const source = await store.open(digest);
      const middle = Math.floor(length / 2);
      for (const [start, end] of [
        [0, 0],
        [0, length - 1],
        [middle, length - 1],
        [Math.floor(length / 3), middle],
      ] as const) {
        // Both ends of a part belong to it, as in a Range header (RFC 9110, 14.1.2).
        expect((await all(store.stream(digest, { start, end }))).equals(bytes.subarray(start, end + 1))).toBeTrue();
        expect(Buffer.from(await source.read(start, end - start)).equals(bytes.subarray(start, end))).toBeTrue();
      }
      await source.close();
    }
  });

  it('take the place of the file that was handed over, which is gone afterwards', async () => {
    const bytes = Buffer.from('a cartridge');
    const path = await file(bytes);
    const digest = await store.putFile(path);
    expect(digest).toEqual({ sha256: sha256(bytes), size: bytes.length });
    expect(existsSync(path)).toBeFalse();
    expect(await store.has(digest.sha256)).toBeTrue();
  });

  it('are held once, however often and however many at a time they are put', async () => {
    const bytes = Buffer.from('the same film');
    await Promise.all(Array.from({ length: 8 }, () => store.putBytes(bytes)));
    const digest = await store.putFile(await file(bytes));
    expect(kept().map((f) => f.name)).toEqual([digest.sha256]);
    expect(kept()[0]?.parentPath.endsWith(digest.sha256.slice(0, 2))).toBeTrue();
    expect((await readFile(join(folder, 'kept', digest.sha256.slice(0, 2), digest.sha256))).equals(bytes)).toBeTrue();
  });

  it('are not hashed again where their digest is known', async () => {
    const bytes = Buffer.from('hashed on its way in');
    const known = { sha256: sha256(bytes), size: bytes.length };
    expect(await store.putFile(await file(bytes), known)).toEqual(known);
    expect((await all(store.stream(known.sha256))).equals(bytes)).toBeTrue();
  });

  it('are asked for by a digest and by nothing else', async () => {
    expect(await store.has('0'.repeat(64))).toBeFalse();
    await expectAsync(store.open('0'.repeat(64))).toBeRejected();
    for (const sly of ['../../etc/passwd', '', 'A'.repeat(64), `${'0'.repeat(63)}/`, `${'0'.repeat(64)}\n`]) {
      await expectAsync((async () => store.has(sly))())
        .withContext(sly)
        .toBeRejectedWithError(RangeError);
      expect(() => store.stream(sly))
        .withContext(sly)
        .toThrowError(RangeError);
    }
  });

  const pathOf = (digest: string) => join(folder, 'kept', digest.slice(0, 2), digest);
  /** One byte in the middle is another, as rot would have it. */
  const rot = async (digest: string) => {
    const bytes = await readFile(pathOf(digest));
    const at = Math.floor(bytes.length / 2);
    bytes[at] = (bytes[at] ?? 0) ^ 1;
    await writeFile(pathOf(digest), bytes);
  };

  it('end before their last piece where they are damaged, whatever their length', async () => {
    for (const length of [1, 1000, (1 << 20) + 1, 3 << 20]) {
      const digest = await store.putBytes(Buffer.alloc(length, length));
      await rot(digest);
      let got = 0;
      const reading = (async () => {
        for await (const part of store.stream(digest)) got += (part as Buffer).length;
      })();
      await expectAsync(reading).toBeRejectedWith(jasmine.any(BlobDamaged));
      expect(got).withContext(`of ${length}`).toBeLessThan(length);
    }
  });

  it('heal when the good file is put once more', async () => {
    const bytes = Buffer.from('a whole archive');
    const digest = await store.putBytes(bytes);
    await rot(digest);
    expect(await store.putFile(await file(bytes))).toEqual({ sha256: digest, size: bytes.length });
    expect((await all(store.stream(digest))).equals(bytes)).toBeTrue();
  });

  it('are read by Treenail alone', async () => {
    const digest = await store.putFile(await file(Buffer.from('private')));
    const mode = (path: string) => statSync(path).mode & 0o777;
    expect(mode(pathOf(digest.sha256))).toBe(0o600);
    expect(mode(join(folder, 'kept', digest.sha256.slice(0, 2)))).toBe(0o700);
  });

  it('can be let go of, and what unfinished puts left is swept once it is old', async () => {
    const digest = await store.putBytes(Buffer.from('gone soon'));
    await store.remove(digest);
    await store.remove(digest);
    expect(await store.has(digest)).toBeFalse();
    const [old, young] = [join(folder, 'kept', 'part-old'), join(folder, 'kept', 'part-young')];
    for (const path of [old, young]) await writeFile(path, 'half');
    utimesSync(old, new Date(0), new Date(0));
    expect(await store.sweep()).toBe(1);
    expect([existsSync(old), existsSync(young)]).toEqual([false, true]);
  });
});
