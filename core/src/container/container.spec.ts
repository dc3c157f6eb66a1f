import fc from 'fast-check';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cartridge, foreignZipOf, memorySink, packageOf, zipOf } from '../testing/packages.ts';
import { ZipWriter, bytesSource, collect, openPackage, portableEngine } from './index.ts';
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

  it('writes ZIP64 when there are more entries than the plain directory can count', async () => {
    const sink = memorySink();
    const writer = new ZipWriter(sink, nodeEngine);
    for (let i = 0; i < 66_000; i++) await writer.add(`${i}`, new Uint8Array());
    expect((await writer.finish()).entries).toBe(66_000);
    expect((await openPackage(bytesSource(sink.bytes()))).entries.size).toBe(66_000);
  }, 60_000);

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
