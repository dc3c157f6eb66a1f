import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { foreignZipOf, memorySink, zipOf } from '../testing/packages.ts';
import { ZipWriter, bytesSource, collect, openPackage, type ByteRange, type Entry, type Package } from './index.ts';
import { fileSink, fileSource, nodeEngine } from './node.ts';

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
