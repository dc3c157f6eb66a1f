import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cartridge, foreignZipOf, memorySink, packageOf, zipOf } from '../testing/packages.ts';
import type { Refusal } from '../model/index.ts';
import {
  ZipWriter,
  bytesSource,
  collect,
  joinBytes,
  onceFor,
  openPackage,
  portableEngine,
  withReadAhead,
} from './index.ts';
import { fileSink, fileSource, nodeEngine } from './node.ts';

async function codeOf(work: Promise<unknown>): Promise<string> {
  try {
    await work;
  } catch (error) {
    return (error as { problem?: { code?: string } }).problem?.code ?? `no refusal: ${String(error)}`;
  }
  return 'accepted';
}

/** Replaces the bytes of a name everywhere in a zip: local header and directory alike. */
function rename(zip: Uint8Array, from: string, to: string): Uint8Array {
  if (from.length !== to.length) throw new RangeError('names of unlike length');
  return new Uint8Array(Buffer.from(Buffer.from(zip).toString('latin1').replaceAll(from, to), 'latin1'));
}

describe('Opening a package', () => {
  const open = (bytes: Uint8Array, limits = {}) => openPackage(bytesSource(bytes), { limits });

  it('refuses what is not a zip', async () => {
    expect(await codeOf(open(new TextEncoder().encode('%PDF-1.7 and so on')))).toBe('not-a-zip');
    expect(await codeOf(open(new Uint8Array()))).toBe('not-a-zip');
  });

  it('refuses a zip cut anywhere, and never half reads it', async () => {
    const whole = await zipOf(cartridge());
    for (const share of [0.2, 0.5, 0.9, 0.99]) {
      expect(await codeOf(open(whole.subarray(0, Math.floor(whole.length * share))))).toBe('zip-truncated');
    }
  });

  it('refuses entries that would leave the folder', async () => {
    const zip = await zipOf({ 'aa/bb.txt': 'x' });
    for (const name of ['../bb.txt', '/a/bb.txt', 'C:/bb.txt', '..\\bb.txt', 'a/../b.tx']) {
      expect(await codeOf(open(rename(zip, 'aa/bb.txt', name.padEnd(9, 'x')))))
        .withContext(name)
        .toBe('entry-leaves-package');
    }
  });

  it('refuses names with control characters', async () => {
    expect(await codeOf(open(rename(await zipOf({ 'aa/bb.txt': 'x' }), 'aa/bb.txt', 'aa/\u0007b.txt')))).toBe(
      'name-deceptive',
    );
  });

  it('refuses an entry that grows beyond measure, and more entries than the limit', async () => {
    const big = await zipOf({ 'zeros.bin': new Uint8Array(30 << 20) });
    expect(await codeOf(open(big))).toBe('zip-bomb');
    expect(await codeOf(open(await zipOf({ a: '1', b: '2', c: '3' }), { entries: 2 }))).toBe('zip-too-many');
  });

  it('refuses entries that claim the same bytes', async () => {
    const zip = Buffer.from(await zipOf({ 'a.txt': 'first', 'b.txt': 'other' }));
    // The second directory record is pointed at the first entry.
    const second = zip.lastIndexOf(Buffer.from('PK\u0001\u0002', 'latin1'));
    zip.writeUInt32LE(0, second + 42);
    expect(await codeOf(open(zip))).toBe('zip-overlap');
  });

  it('finds a flipped byte by its checksum', async () => {
    for (const engine of [nodeEngine, portableEngine]) {
      const zip = Buffer.from(await foreignZipOf({ 'a.txt': 'some text that is stored' }, false));
      const at = zip.indexOf('stored');
      zip[at] = (zip[at] ?? 0) ^ 1;
      const pkg = await openPackage(bytesSource(zip), { engine });
      expect(await codeOf(pkg.bytes('a.txt'))).toBe('entry-damaged');
    }
  });

  it('has something made of it once, until it lets go of it', async () => {
    const zip = await zipOf({ 'a.txt': 'a', 'b.txt': 'b' });
    const [one, two] = [await openPackage(bytesSource(zip)), await openPackage(bytesSource(zip))];
    let made = 0;
    const names = onceFor((pkg) => `${++made}: ${[...pkg.entries.keys()].join()}`);
    expect([names(one), names(two), names(one), names(two)]).toEqual([
      '1: a.txt,b.txt',
      '2: a.txt,b.txt',
      '1: a.txt,b.txt',
      '2: a.txt,b.txt',
    ]);
    one.release();
    expect([names(one), names(two), names(one)]).toEqual(['3: a.txt,b.txt', '2: a.txt,b.txt', '3: a.txt,b.txt']);
  });

  it('reads texts only up to the limit', async () => {
    const pkg = await packageOf({ 'a.txt': 'x'.repeat(2000) }, { limits: { textBytes: 1000 } });
    expect(await codeOf(pkg.bytes('a.txt'))).toBe('text-too-long');
  });
});

describe('Writing a package', () => {
  it('gives back what was put in, by either engine', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.dictionary(fc.stringMatching(/^[a-z]{1,8}\.bin$/), fc.uint8Array({ maxLength: 5000 }), { minKeys: 1 }),
        async (files) => {
          const zip = await zipOf(files);
          for (const engine of [nodeEngine, portableEngine]) {
            const pkg = await openPackage(bytesSource(zip), { engine });
            for (const [path, bytes] of Object.entries(files)) {
              expect(Buffer.compare(await pkg.bytes(path), Buffer.from(bytes))).toBe(0);
            }
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  it('copies entries as compressed bytes, also under another name', async () => {
    const zip = await foreignZipOf({ 'a/ł & ó.txt': 'some text '.repeat(500) });
    const from = await openPackage(bytesSource(zip));
    const sink = memorySink();
    const writer = new ZipWriter(sink);
    const entry = from.entry('a/ł & ó.txt');
    await writer.copy(entry.path, from, entry);
    await writer.copy('other.txt', from, entry);
    await writer.finish();
    const to = await openPackage(bytesSource(sink.bytes()));
    for (const path of [entry.path, 'other.txt']) {
      expect(await collect(to.raw(to.entry(path)))).toEqual(await collect(from.raw(entry)));
      expect(new TextDecoder().decode(await to.bytes(path))).toBe('some text '.repeat(500));
    }
  });

  for (const [name, engine] of Object.entries({ nodeEngine, portableEngine })) {
    it(`inflates what is small as a whole, and no further than it may (${name})`, async () => {
      await fc.assert(
        fc.asyncProperty(fc.uint8Array({ maxLength: 60_000 }), fc.nat(6), async (bytes, times) => {
          const body = joinBytes(Array.from({ length: times + 1 }, () => bytes));
          const packed = await engine.deflateRaw(body);
          const inflate = (part: Uint8Array, limit: number) => engine.inflateWhole?.(part, limit);
          expect(new Uint8Array(inflate(packed, Math.max(1, body.length)) ?? [])).toEqual(body);
          expect(engine.digest(body)).toBe(createHash('sha256').update(body).digest('hex'));
          if (body.length < 20) return;
          expect(() => inflate(packed, body.length - 1)).toThrow();
          expect(() => inflate(packed.subarray(0, packed.length >> 1), body.length)).toThrow();
        }),
        { numRuns: 40 },
      );
      // A megabyte of what grows a thousandfold is left before it has grown.
      const bomb = await engine.deflateRaw(new Uint8Array(200 << 20));
      const began = process.memoryUsage().arrayBuffers;
      expect(() => engine.inflateWhole?.(bomb, 1000)).toThrow();
      expect(process.memoryUsage().arrayBuffers - began).toBeLessThan(64 << 20);
    }, 300_000);
  }

  it('writes ZIP64 when there are more entries than the plain directory can count', async () => {
    const sink = memorySink();
    const writer = new ZipWriter(sink, nodeEngine);
    for (let i = 0; i < 66_000; i++) await writer.add(`${i}`, new Uint8Array());
    expect((await writer.finish()).entries).toBe(66_000);
    expect((await openPackage(bytesSource(sink.bytes()))).entries.size).toBe(66_000);
  }, 300_000);

  it('writes to a file with its hash, and reads ranges of it', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    try {
      const path = join(folder, 'x.bin');
      const sink = await fileSink(path);
      await sink.write(Buffer.from('abc'));
      await sink.write(Buffer.from('defg'));
      const { size, sha256 } = await sink.close();
      const hash = portableEngine.sha256();
      hash.update(await readFile(path));
      expect([size, sha256]).toEqual([7, hash.hex()]);
      const source = await fileSource(path);
      expect(Buffer.from(await source.read(2, 3)).toString()).toBe('cde');
      await expectAsync(source.read(5, 9)).toBeRejected();
      await source.close();
    } finally {
      await rm(folder, { recursive: true });
    }
  });
});

describe('Reading ahead', () => {
  it('gives the bytes that are asked for, wherever they are asked for', async () => {
    const bytes = Uint8Array.from({ length: 5000 }, (_, i) => (i * 31) % 251);
    const range = fc.tuple(fc.nat(4999), fc.nat(600)).map(([at, n]): [number, number] => [at, Math.min(n, 5000 - at)]);
    await fc.assert(
      fc.asyncProperty(fc.array(range, { maxLength: 30 }), async (ranges) => {
        const source = withReadAhead(bytesSource(bytes), 1024, 64);
        for (const [at, n] of ranges) expect(await source.read(at, n)).toEqual(bytes.subarray(at, at + n));
      }),
    );
    await expectAsync(withReadAhead(bytesSource(bytes)).read(4990, 11)).toBeRejected();
  });
});

describe('The directory of a zip', () => {
  const named = async (name: Uint8Array, flags: number) => {
    const zip = Buffer.from(await zipOf({ [String.fromCharCode(...name.map(() => 120))]: 'x' }));
    for (let at = zip.indexOf('x'.repeat(name.length)); at >= 0; at = zip.indexOf('x'.repeat(name.length), at + 1)) {
      zip.set(name, at);
    }
    zip.writeUInt16LE(flags, 6);
    zip.writeUInt16LE(flags, zip.indexOf(Buffer.from('PK\x01\x02')) + 8);
    return openPackage(bytesSource(zip), { engine: nodeEngine });
  };

  it('takes names for UTF-8 where they are, flag or no flag, and else for code page 437, with a note', async () => {
    const utf8 = await named(new TextEncoder().encode('Łódź.html'), 0);
    expect([[...utf8.entries.keys()], utf8.notes]).toEqual([['Łódź.html'], []]);
    const legacy = await named(Uint8Array.of(0x81, 0x62, 0x65, 0x72, 0x2e, 0x68), 0);
    expect([...legacy.entries.keys()]).toEqual(['über.h']);
    expect(legacy.notes.map((n) => n.code)).toEqual(['name-encoding']);
  });

  it('finds entries though something was put before the zip', async () => {
    const zip = await zipOf({ 'a.txt': 'aaa' });
    const grown = Buffer.concat([Buffer.from('#!/bin/sh some words before it\n'), zip]);
    const pkg = await openPackage(bytesSource(grown), { engine: nodeEngine });
    expect(new TextDecoder().decode(await collect(pkg.stream('a.txt')))).toBe('aaa');
  });

  it('refuses a link', async () => {
    const zip = Buffer.from(await zipOf({ 'a.txt': '/etc/passwd' }));
    const record = zip.indexOf(Buffer.from('PK\x01\x02'));
    zip.writeUInt16LE((3 << 8) | 20, record + 4);
    zip.writeUInt32LE((0o120777 << 16) >>> 0, record + 38);
    const error: unknown = await openPackage(bytesSource(zip)).catch((e: unknown) => e);
    expect((error as Refusal).problem.code).toBe('entry-link');
  });
});
