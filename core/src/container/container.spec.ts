import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
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
  type ByteRange,
  type Entry,
  type Package,
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

/** A package of one stored film of so many megabytes, all of them zero and none of them held. */
async function filmOf(megabytes: number): Promise<{ source: Package; size: number }> {
  const zeros = new Uint8Array(1 << 20);
  const parts: { at: number; bytes: Uint8Array }[] = [];
  let size = 0;
  const writer = new ZipWriter(
    {
      write: async (bytes) => {
        if (bytes !== zeros) parts.push({ at: size, bytes: bytes.slice() });
        size += bytes.length;
      },
    },
    nodeEngine,
  );
  await writer.store('film.mp4', megabytes * zeros.length, async function* () {
    for (let i = 0; i < megabytes; i++) yield zeros;
  });
  await writer.finish();
  const read = async (offset: number, length: number) => {
    const out = new Uint8Array(length);
    for (const { at, bytes } of parts) {
      const from = Math.max(at, offset);
      const to = Math.min(at + bytes.length, offset + length);
      if (from < to) out.set(bytes.subarray(from - at, to - at), from - offset);
    }
    return out;
  };
  const source = await openPackage({ size, file: '/film.zip', read, close: async () => undefined });
  return { source, size: megabytes * zeros.length };
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

describe('Copying what did not change', () => {
  const bodies = fc.dictionary(
    fc.stringMatching(/^[a-zé]{1,8}(\/[a-z]{1,8})?\.bin$/),
    fc.uint8Array({ maxLength: 3000 }),
    { minKeys: 1, maxKeys: 12 },
  );

  it('gives every entry as it was, whatever is left out and in whatever order', async () => {
    await fc.assert(
      fc.asyncProperty(bodies, fc.boolean(), fc.infiniteStream(fc.nat()), async (files, foreign, seeds) => {
        const zip = await (foreign ? foreignZipOf(files) : zipOf(files));
        const source = await openPackage(bytesSource(zip), { engine: nodeEngine });
        const ranked = [...source.entries.values()].map((entry) => ({ entry, rank: (seeds.next().value ?? 0) % 3 }));
        // Mostly as they stand, so that there are runs; some left out, some moved to the end.
        const entries = [...ranked.filter((r) => r.rank === 0), ...ranked.filter((r) => r.rank === 1)].map(
          (r) => r.entry,
        );
        const sink = memorySink();
        const writer = new ZipWriter(sink, nodeEngine);
        await writer.copyAll(source, entries);
        await writer.finish();
        const copied = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
        expect([...copied.entries.keys()]).toEqual(entries.map((e) => e.path));
        for (const { path } of entries) {
          expect(await collect(copied.stream(path))).toEqual(await collect(source.stream(path)));
        }
      }),
      { numRuns: 150 },
    );
  });

  it('carries nothing of an entry that is left out, however short it is', async () => {
    const many = 12;
    const names = Array.from({ length: many }, (_, i) => `secret-${i}-.txt`);
    const zip = await zipOf(Object.fromEntries(names.map((name, i) => [name, `words ${i} only`])));
    const source = await openPackage(bytesSource(zip), { engine: nodeEngine });
    await fc.assert(
      fc.asyncProperty(fc.array(fc.boolean(), { minLength: many, maxLength: many }), async (kept) => {
        const sink = memorySink();
        const writer = new ZipWriter(sink, nodeEngine);
        await writer.copyAll(
          source,
          [...source.entries.values()].filter((_, i) => kept[i]),
        );
        await writer.finish();
        const bytes = Buffer.from(sink.bytes());
        expect(names.map((name) => bytes.includes(name))).toEqual(kept);
      }),
    );
  });

  it('copies from file to file whatever is kept, long and short, in a row or scattered', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-copy-'));
    try {
      const files = Object.fromEntries(
        Array.from({ length: 16 }, (_, i) => [`${i}.bin`, `${i}`.repeat(i % 3 === 0 ? 200_000 : 300 + i)]),
      );
      const from = join(folder, 'from.zip');
      await writeFile(from, await foreignZipOf(files, false));
      const source = await openPackage(await fileSource(from), { engine: nodeEngine });
      const entries = [...source.entries.values()];
      let run = 0;
      await fc.assert(
        fc.asyncProperty(fc.subarray(entries), async (kept) => {
          const to = join(folder, `to-${run++}.zip`);
          const sink = await fileSink(to);
          const writer = new ZipWriter(sink, nodeEngine);
          await writer.copyAll(source, kept);
          await writer.add('new.txt', new TextEncoder().encode('new'));
          await writer.finish();
          const { sha256 } = await sink.close();
          const written = await readFile(to);
          expect(createHash('sha256').update(written).digest('hex')).toBe(sha256);
          const copied = await openPackage(bytesSource(written), { engine: nodeEngine });
          expect([...copied.entries.keys()]).toEqual([...kept.map((e) => e.path), 'new.txt']);
          for (const { path } of kept) {
            expect(new TextDecoder().decode(await collect(copied.stream(path))) === files[path]).toBeTrue();
          }
        }),
        { numRuns: 30 },
      );
      await source.close();
    } finally {
      await rm(folder, { recursive: true });
    }
  });

  it('asks for a long film in stretches, and goes on while the last of them are copied', async () => {
    const { source, size } = await filmOf(300);
    const asked: { bytes: number; done: () => void }[] = [];
    const sink = {
      ...memorySink(),
      copy: (_: string, ranges: readonly ByteRange[]) =>
        new Promise<void>((done) => {
          asked.push({ bytes: ranges.reduce((sum, r) => sum + r.length, 0), done });
          // Only the first is copied by itself.
          if (asked.length === 1) done();
        }),
    };
    const writer = new ZipWriter(sink, nodeEngine);
    await writer.copyAll(source, [...source.entries.values()]);
    expect(asked.length).toBeGreaterThan(3);
    expect(asked.reduce((sum, a) => sum + a.bytes, 0)).toBe(size);
    let finished = false;
    const finish = writer.finish().then((written) => {
      finished = true;
      return written;
    });
    for (const { done } of asked) {
      expect(finished).toBeFalse();
      done();
    }
    expect((await finish).size).toBeGreaterThan(size);
  });

  it('copies what stands in a row in one piece, to its very end where another entry follows', async () => {
    const zip = await zipOf({ 'a.txt': 'a', 'b.txt': 'bb', 'c.txt': 'ccc', 'd.txt': 'dddd' });
    const source = await openPackage(bytesSource(zip), { engine: nodeEngine });
    const [a, b, c, d] = [...source.entries.values()];
    const at = (entry: Entry | undefined) => entry?.offset ?? Number.NaN;
    const run = (list: (Entry | undefined)[]) => {
      const order = list.filter((e) => e !== undefined);
      const { end, start, bytes } = source.runOf(order, 0, () => true);
      return [order.slice(0, end).map((e) => e.path), start, bytes];
    };
    expect(run([a, b, c])).toEqual([['a.txt', 'b.txt', 'c.txt'], 0, at(d)]);
    expect(run([a, c])).toEqual([['a.txt'], 0, at(b)]);
    expect(run([b, a])).toEqual([['b.txt'], at(b), at(c) - at(b)]);
    // Where the last one ends is not known without its header.
    expect(run([d])).toEqual([[], at(d), 0]);
  });

  it('notes what an entry’s own header says otherwise than the directory, and does not copy that header', async () => {
    const zip = Buffer.from(await zipOf({ 'a.txt': 'aaa', 'b.txt': 'bbb', 'c.txt': 'ccc' }));
    const second = zip.indexOf(Buffer.from('PK\x03\x04'), 4);
    const spoilt: [string, (header: Buffer) => void][] = [
      ['calls itself “..\ufffdxt”', (h) => h.write('..\u0007x', 30, 'latin1')],
      ['calls itself “b.tx”', (h) => h.writeUInt16LE(4, 26)],
      ['says that it is encrypted', (h) => h.writeUInt16LE(h.readUInt16LE(6) | 1, 6)],
      ['says that it is compressed otherwise', (h) => h.writeUInt16LE(9, 8)],
      ['says that it has 7 bytes', (h) => h.writeUInt32LE(7, 22)],
      ['has another checksum', (h) => h.writeUInt32LE(1, 14)],
    ];
    // A header is as long as it says, so one that shortens its name must lengthen what follows.
    const extra = (h: Buffer) => h.writeUInt16LE(h.readUInt16LE(28) + 5 - h.readUInt16LE(26), 28);
    for (const [says, spoil] of spoilt) {
      const spoiled = Buffer.from(zip);
      const header = spoiled.subarray(second);
      // What follows in a descriptor is not in the header.
      header.writeUInt16LE(header.readUInt16LE(6) & ~8, 6);
      header.writeUInt32LE(Buffer.from(zip).readUInt32LE(zip.lastIndexOf('b.txt') - 46 + 16), 14);
      header.writeUInt32LE(3, 22);
      spoil(header);
      extra(header);
      const source = await openPackage(bytesSource(spoiled), { engine: nodeEngine });
      const order = [...source.entries.values()];
      expect(source.runOf(order, 0, () => true).end).toBe(2);
      for (const { path } of order) await collect(source.stream(path));
      expect(source.contradictions().map((n) => [n.code, n.file, n.message.includes(says)]))
        .withContext(source.contradictions()[0]?.message ?? says)
        .toEqual([['header-contradicts', 'b.txt', true]]);
      expect([source.contradictionOf('a.txt'), source.contradictionOf('b.txt')]).toEqual([null, says]);
      expect(source.runOf(order, 0, () => true).end).toBe(1);

      const sink = memorySink();
      const writer = new ZipWriter(sink, nodeEngine);
      await writer.copyAll(source, order);
      await writer.finish();
      const copied = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
      for (const path of copied.entries.keys()) await collect(copied.stream(path));
      expect([[...copied.entries.keys()], copied.contradictions()]).toEqual([['a.txt', 'b.txt', 'c.txt'], []]);
    }
  });

  it('leaves behind what lies between entries and belongs to none', async () => {
    const zip = Buffer.from(await zipOf({ 'a.txt': 'aaa', 'b.txt': 'bbb' }));
    const second = zip.indexOf(Buffer.from('PK\x03\x04'), 4);
    const stowaway = Buffer.alloc(80, 'stowaway');
    const grown = Buffer.concat([zip.subarray(0, second), stowaway, zip.subarray(second)]);
    const directory = grown.indexOf(Buffer.from('PK\x01\x02'));
    const record = grown.indexOf(Buffer.from('PK\x01\x02'), directory + 4);
    grown.writeUInt32LE(second + stowaway.length, record + 42);
    grown.writeUInt32LE(directory, grown.length - 6);
    const source = await openPackage(bytesSource(grown), { engine: nodeEngine });
    const sink = memorySink();
    const writer = new ZipWriter(sink, nodeEngine);
    await writer.copyAll(source, [...source.entries.values()]);
    await writer.finish();
    expect(Buffer.from(sink.bytes()).includes('stowaway')).toBeFalse();
    const copied = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
    expect(new TextDecoder().decode(await collect(copied.stream('b.txt')))).toBe('bbb');
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
