import { randomBytes } from 'node:crypto';
import { bytesSource } from '../container/index.ts';
import { nodeEngine } from '../container/node.ts';
import { openCourse, readCourse } from '../formats/index.ts';
import { zipOf } from '../testing/packages.ts';
import { survey, type Survey } from './survey.ts';

describe('A survey whose findings are waited for', () => {
  // What does not compress lies in the package as it is, so that a byte of it can be found and spoiled.
  const film = randomBytes(300_000);
  const haul = randomBytes(300_000);
  const FILES = {
    'index.html': '<h1>Launch</h1><video src="launch.mp4"></video><img src="gone.png">',
    'launch.mp4': film,
    'copy of launch.mp4': film,
    'haul.mp4': haul,
    'slip.jpg': randomBytes(400_000),
    'class.csv': 'a@x.example\nb@x.example\nc@x.example\n',
  };
  const options = { engine: nodeEngine, findings: { today: '2026-11-25' } };
  async function looked(
    zip: Uint8Array,
    early: boolean,
  ): Promise<{ whole: Survey; first: Survey | null; steps: number[] }> {
    const pkg = await openCourse(bytesSource(zip), { engine: nodeEngine });
    const { course } = await readCourse(pkg);
    let first: Survey | null = null;
    const steps: number[] = [];
    const whole = await survey(pkg, course, {
      ...options,
      ...(early ? { onFindings: (known: Survey) => (first = known) } : {}),
      onProgress: ({ done, total }) => steps.push(done / total),
    });
    return { whole, first, steps };
  }
  const hashed = ({ course }: Survey) => course.files.flatMap((f) => (f.sha256 === undefined ? [] : [f.path])).sort();

  it('tells them before films are hashed, and they are the same', async () => {
    const zip = await zipOf(FILES);
    const plain = await looked(zip, false);
    const { whole, first, steps } = await looked(zip, true);
    expect(first).not.toBeNull();
    if (!first) return;
    expect(first.findings).toEqual(plain.whole.findings);
    expect(new Set(first.findings.map((f) => f.kind))).toEqual(
      new Set(['link-broken', 'picture-without-words', 'doubled', 'file-unused', 'people-file']),
    );
    // Only what may be there twice had to be hashed for it.
    expect(hashed(first)).toEqual(['class.csv', 'copy of launch.mp4', 'index.html', 'launch.mp4']);
    expect(whole).toEqual(plain.whole);
    expect(hashed(whole)).toEqual(Object.keys(FILES).sort());
    expect(steps).toEqual([...steps].sort((a, b) => a - b));
    expect(steps.at(-1)).toBe(1);
  });

  it('notes the damage of a film once it was read to its end', async () => {
    const zip = Buffer.from(await zipOf(FILES));
    const at = zip.indexOf(haul.subarray(1000, 2000));
    expect(at).toBeGreaterThan(0);
    zip[at] = (zip[at] ?? 0) ^ 1;
    const { whole, first } = await looked(zip, true);
    const told = ({ notes }: Survey) => notes.filter((n) => n.file === 'haul.mp4').map((n) => n.code);
    expect(first && told(first)).toEqual([]);
    expect(told(whole)).toEqual(['entry-damaged']);
    expect(hashed(whole)).not.toContain('haul.mp4');
  });

  it('notes once what is damaged at its beginning, and goes on', async () => {
    const zip = Buffer.from(await zipOf({ ...FILES, 'slip.jpg': Buffer.from('slipway '.repeat(100_000)) }));
    const at = zip.indexOf('slip.jpg') + 'slip.jpg'.length;
    // A block of a type that deflate does not have.
    zip[at] = 0x07;
    const { whole, first, steps } = await looked(zip, true);
    const told = ({ notes }: Survey) => notes.filter((n) => n.file === 'slip.jpg').map((n) => n.code);
    expect(first && told(first)).toEqual(['entry-damaged']);
    expect(told(whole)).toEqual(['entry-damaged']);
    expect(hashed(whole)).toEqual(['class.csv', 'copy of launch.mp4', 'haul.mp4', 'index.html', 'launch.mp4']);
    expect(steps.at(-1)).toBe(1);
  });

  it('notes files that the course names and the package does not have, by either way', async () => {
    const pkg = await openCourse(bytesSource(await zipOf(FILES)), { engine: nodeEngine });
    const { course } = await readCourse(pkg);
    const gone = { path: 'gone.html', size: 10, mediaType: 'text/html', role: 'content' as const };
    const page = {
      kind: 'page' as const,
      id: 'g',
      title: 'Gone',
      definitionPath: 'gone.html',
      file: 'gone.html',
      settings: {},
    };
    const more = { ...course, files: [...course.files, gone], items: [...course.items, page] };
    for (const onFindings of [undefined, () => undefined]) {
      const { notes } = await survey(pkg, more, { ...options, ...(onFindings ? { onFindings } : {}) });
      expect(notes.filter((n) => n.file === 'gone.html').length)
        .withContext(String(onFindings))
        .toBeGreaterThan(0);
    }
  });
});
