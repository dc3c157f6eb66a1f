import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileSource, nodeEngine } from '../container/node.ts';
import { openCourse, readCourse } from '../formats/index.ts';
import { zipOf } from '../testing/packages.ts';
import { fileWorkersFor } from './node-workers.ts';
import { survey } from './survey.ts';

const SCRIPT = new URL('../testing/file-worker.mjs', import.meta.url);

describe('Threads that read beside the one that surveys', () => {
  let folder: string;
  beforeAll(async () => (folder = await mkdtemp(join(tmpdir(), 'treenail-workers-'))));
  afterAll(() => rm(folder, { recursive: true }));

  async function opened() {
    const files: Record<string, string> = { 'list.csv': 'a@x.example\nb@x.example\nc@x.example\n', 'style.css': '' };
    for (let n = 0; n < 300; n++) {
      files[`p${n}.html`] =
        `<html lang="en"><h1 id="t${n}">Page ${n}</h1><p>Ask ${n % 7 === 0 ? 'ada@marrowick.example' : '{~tutor.name~}'};
        <a href="p${n + 1}.html#t${n + 1}">next</a> <a href="P${n}.html">again</a> <img src="gone.png"></p></html>`;
    }
    const path = join(folder, 'x.zip');
    const zip = Buffer.from(await zipOf(files));
    // In its own header the seventh page calls itself otherwise.
    let at = zip.indexOf('p7.html');
    while (zip.readUInt32LE(at - 30) !== 0x04034b50) at = zip.indexOf('p7.html', at + 1);
    zip.write('q7.html', at);
    await writeFile(path, zip);
    const pkg = await openCourse(await fileSource(path), { engine: nodeEngine });
    return { pkg, course: (await readCourse(pkg)).course };
  }

  const findings = { today: '2026-11-25' };
  const told = (texts: string[]) => (item: { id: string }, text: string) => void texts.push(`${item.id} ${text}`);

  it('find exactly what one alone finds, in the same order', async () => {
    const { pkg, course } = await opened();
    const [alone, together]: [string[], string[]] = [[], []];
    const one = await survey(pkg, course, { engine: nodeEngine, findings, onText: told(alone) });
    const { workers, close } = fileWorkersFor(pkg, course, { findings }, SCRIPT, { worth: 0, most: 2 });
    let last = 0;
    const many = await survey(pkg, course, {
      engine: nodeEngine,
      findings,
      workers,
      onText: told(together),
      onProgress: ({ done, total }) => (last = done / total),
    }).finally(close);
    await pkg.close();
    expect(workers.length).toBeGreaterThan(0);
    expect(one.notes.filter((n) => n.code === 'header-contradicts').map((n) => n.file)).toEqual(['p7.html']);
    expect(many).toEqual(one);
    expect(together).toEqual(alone);
    expect(alone.length).toBe(300);
    expect(last).toBe(1);
    expect(new Set(one.findings.map((f) => f.kind))).toContain('link-written-otherwise');
  });

  it('are told of where one of them breaks, and none begin for little', async () => {
    const { pkg, course } = await opened();
    expect(fileWorkersFor(pkg, course, { findings }, SCRIPT).workers).toEqual([]);
    const nowhere = new URL('./no-such-script.mjs', import.meta.url);
    const { workers, close } = fileWorkersFor(pkg, course, { findings }, nowhere, { worth: 0, most: 1 });
    await expectAsync(survey(pkg, course, { engine: nodeEngine, findings, workers })).toBeRejectedWithError(
      /no-such-script/,
    );
    await close();
    await pkg.close();
  });
});
