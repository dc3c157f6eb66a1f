import { gzipSync } from 'node:zlib';
import { readCourse } from './formats/index.ts';
import { cartridge, packageOf, zipOf, type Files } from './testing/packages.ts';
import type { Refusal } from './model/index.ts';
import { bytesSource, openAny, portableEngine, type Package } from './container/index.ts';
import { nodeEngine } from './container/node.ts';

/** A POSIX tar (IEEE 1003.1, ustar), made here so that reading is judged by another hand than the reader's library. */
function tarOf(files: Files): Uint8Array {
  const blocks: Buffer[] = [];
  for (const [path, body] of Object.entries(files)) {
    const bytes = Buffer.from(body);
    const header = Buffer.alloc(512);
    header.write(path, 0);
    header.write('0000644\0' + '0000000\0'.repeat(2), 100);
    header.write(`${bytes.length.toString(8).padStart(11, '0')}\0${'0'.repeat(11)}\0`, 124);
    header.write('        0', 148);
    header.write('ustar\0' + '00', 257);
    const sum = header.reduce((n, b) => n + b, 0);
    header.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148);
    blocks.push(header, bytes, Buffer.alloc((512 - (bytes.length % 512)) % 512));
  }
  return new Uint8Array(Buffer.concat([...blocks, Buffer.alloc(1024)]));
}

const inFolder = (folder: string, files: Files): Files =>
  Object.fromEntries(Object.entries(files).map(([path, body]) => [folder + path, body]));

const titlesIn = async (pkg: Package) => (await readCourse(pkg)).course.items.map((i) => i.title);

describe('Packages that met with an accident', () => {
  it('are read from one more folder, with what systems leave beside them, and say so', async () => {
    const pkg = await packageOf({
      ...inFolder('My course/', cartridge()),
      '__MACOSX/My course/._imsmanifest.xml': 'x',
      'My course/.DS_Store': 'x',
      'Thumbs.db': 'x',
    });
    expect(await titlesIn(pkg)).toEqual(['First page']);
    expect(pkg.notes.map((n) => n.code)).toEqual(['system-junk', 'wrapped-folder']);
  });

  it('are not taken for wrapped when something lies beside the folder', async () => {
    const pkg = await packageOf({ ...inFolder('a/', cartridge()), 'beside.html': '<title>Beside</title>' });
    expect(pkg.notes).toEqual([]);
    expect((await readCourse(pkg)).course.origin.format).toBe('site');
  });

  for (const engine of [nodeEngine, portableEngine]) {
    it(`are read as tar and as gzipped tar, by ${engine === nodeEngine ? "Node's" : 'the portable'} engine`, async () => {
      const tar = tarOf(inFolder('course/', cartridge()));
      for (const bytes of [tar, new Uint8Array(gzipSync(tar))]) {
        const pkg = await openAny(bytesSource(bytes), { engine });
        expect(await titlesIn(pkg)).toEqual(['First page']);
        expect(pkg.notes.map((n) => n.code)).toEqual(['tar', 'wrapped-folder']);
      }
    });
  }

  it('refuses a tar that is cut off, and one whose files would leave the folder', async () => {
    const code = (bytes: Uint8Array) =>
      openAny(bytesSource(bytes), { engine: nodeEngine }).then(
        () => 'read',
        (error: unknown) => (error as Refusal).problem.code,
      );
    const tar = tarOf({ 'a.html': 'x'.repeat(5000) });
    expect(await code(tar.slice(0, 2000))).toBe('tar-damaged');
    expect(await code(new Uint8Array(gzipSync(tar)).slice(0, 60))).toBe('tar-damaged');
    expect(await code(tarOf({ '../../evil.html': 'x' }))).toBe('entry-leaves-package');
  });

  it('are read by whatever name they have', async () => {
    expect(await titlesIn(await openAny(bytesSource(await zipOf(cartridge()))))).toEqual(['First page']);
  });
});

describe('A plain folder', () => {
  it('is read with its folders as the outline and the titles of its pages', async () => {
    const pkg = await packageOf({
      'week 10/late.html': '<title>Late</title>',
      'week 2/early.html': '<title>Early</title><img src="../p/x.png">',
      'index.html': '<title>Knots for everyone</title>',
      'p/x.png': 'x',
      'style.css': 'x',
      'sheet.pdf': 'x',
    });
    const { course, notes } = await readCourse(pkg);
    expect(notes.map((n) => n.code)).toEqual(['no-manifest']);
    expect(course.title).toBe('Knots for everyone');
    expect(course.outline.map((n) => [n.title, n.children.map((c) => c.title)])).toEqual([
      ['Knots for everyone', []],
      ['sheet', []],
      ['week 2', ['Early']],
      ['week 10', ['Late']],
    ]);
    expect(course.files.length).toBe(6);
  });
});
