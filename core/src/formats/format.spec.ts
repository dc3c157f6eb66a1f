import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ZipWriter, bytesSource, collect, openPackage, type ByteRange, type Package } from '../container/index.ts';
import { fileSink, fileSource, nodeEngine } from '../container/node.ts';
import { cartridge, memorySink, zipOf } from '../testing/packages.ts';
import { readCourse, targetById, writePackage, type PlannedEntry } from './index.ts';

/** Noise, so that it is stored and not deflated. */
function film(seed: number): Uint8Array {
  let state = seed;
  return Uint8Array.from({ length: 9 << 20 }, () => (state = (Math.imul(state, 1_103_515_245) + 12_345) | 0) >>> 16);
}

describe('Writing while the plan is made', () => {
  let folder: string;
  let pkg: Package;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-ahead-'));
    const path = join(folder, 'course.imscc');
    const resources =
      '<resource identifier="f1" type="webcontent" href="m/one.mp4"><file href="m/one.mp4"/></resource>' +
      '<resource identifier="f2" type="webcontent" href="m/two.mp4"><file href="m/two.mp4"/></resource>' +
      '<resource identifier="l1" type="imswl_xmlv1p1"><file href="link.xml"/></resource>';
    const link =
      '<webLink xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imswl_v1p1"><title>Tides</title><url href="https://tides.example/"/></webLink>';
    const files = { 'm/one.mp4': film(1), 'between.css': 'p{}', 'm/two.mp4': film(2), 'link.xml': link };
    await writeFile(path, await zipOf(cartridge({ resources, files })));
    pkg = await openPackage(await fileSource(path), { engine: nodeEngine });
  });
  afterAll(async () => {
    await pkg.close();
    await rm(folder, { recursive: true });
  });

  const planned = async (id: string) => {
    const { format, target } = targetById(id);
    return format.plan((await readCourse(pkg)).course, target, pkg);
  };
  const hashes = async (written: Package) =>
    new Map(
      await Promise.all(
        [...written.entries.keys()].map(
          async (path) =>
            [
              path,
              createHash('sha256')
                .update(await collect(written.stream(path)))
                .digest('hex'),
            ] as const,
        ),
      ),
    );
  const inMemory = async (id: string, plan: readonly PlannedEntry[]) => {
    const sink = memorySink();
    await writePackage(targetById(id).target, plan, pkg, sink, { engine: nodeEngine });
    return openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
  };
  const toFile = async (id: string, plan: Promise<readonly PlannedEntry[]>) => {
    const path = join(folder, `${id}-${Math.random()}.zip`);
    const sink = await fileSink(path);
    const progress: number[] = [];
    await writePackage(targetById(id).target, plan, pkg, sink, {
      engine: nodeEngine,
      onProgress: ({ done, total }) => progress.push(done / total),
    });
    const { sha256 } = await sink.close();
    const bytes = await readFile(path);
    expect(createHash('sha256').update(bytes).digest('hex')).toBe(sha256);
    expect(progress.at(-1)).toBe(1);
    return openPackage(bytesSource(bytes), { engine: nodeEngine });
  };

  for (const id of ['cc13', 'cp', 'scorm2004', 'site']) {
    it(`gives the same entries in ${id} as writing after it, whatever their order`, async () => {
      const after = await hashes(await inMemory(id, await planned(id)));
      const ahead = await hashes(await toFile(id, planned(id)));
      expect(ahead.size).toBe(after.size);
      for (const [path, hash] of after) expect([path, ahead.get(path)]).toEqual([path, hash]);
    });
  }

  it('writes films before the manifest, where they are sure to stay', async () => {
    const written = await toFile('cc13', planned('cc13'));
    expect([...written.entries.keys()].slice(0, 3)).toEqual(['m/one.mp4', 'm/two.mp4', 'imsmanifest.xml']);
  });

  it('begins anew where the plan leaves out or renames what was written already', async () => {
    const all = await planned('cc13');
    const without = all.filter((e) => e.path !== 'm/two.mp4');
    const renamed = all.map((e) => (e.path === 'm/one.mp4' ? { path: 'm/first.mp4', copy: 'm/one.mp4' } : e));
    for (const plan of [without, renamed]) {
      const written = await toFile('cc13', Promise.resolve(plan));
      expect([...written.entries.keys()]).toEqual(plan.map((e) => e.path));
      expect(await hashes(written)).toEqual(await hashes(await inMemory('cc13', plan)));
    }
  });

  it('never runs far ahead of a sink that is slow', async () => {
    let asked = 0;
    let done = 0;
    let most = 0;
    const slow = {
      write: async () => {},
      async copy(_from: string, ranges: readonly ByteRange[]) {
        const length = ranges.reduce((sum, range) => sum + range.length, 0);
        asked += length;
        most = Math.max(most, asked - done);
        await new Promise((turn) => setImmediate(turn));
        done += length;
      },
    };
    const writer = new ZipWriter(slow, nodeEngine);
    const entry = pkg.entry('m/one.mp4');
    for (let i = 0; i < 100; i++) await writer.copy(`m/${i}.mp4`, pkg, entry);
    await writer.finish();
    expect([asked, done]).toEqual([100 * entry.compressedSize, 100 * entry.compressedSize]);
    // Some at a time, and of nine hundred megabytes never more than a third.
    expect(most).toBeGreaterThan(2 * entry.compressedSize);
    expect(most).toBeLessThan(300 << 20);
  });

  it('fails as the sink does', async () => {
    const broken = { write: async () => {}, copy: () => Promise.reject(new Error('disk full')) };
    const writing = writePackage(targetById('cc13').target, await planned('cc13'), pkg, broken, { engine: nodeEngine });
    await expectAsync(writing).toBeRejectedWithError('disk full');
  });

  it('fails as the plan does, and leaves the sink to whoever opened it', async () => {
    const sink = await fileSink(join(folder, 'failed.zip'));
    const plan = Promise.reject(new Error('no plan'));
    await expectAsync(
      writePackage(targetById('cc13').target, plan, pkg, sink, { engine: nodeEngine }),
    ).toBeRejectedWithError('no plan');
    await sink.abandon();
  });
});
