import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Refusal } from '@treenail/core';
import pino from 'pino';
import { ReadingProcess, readBeside } from './reading-process.ts';
import type { Read } from './readings.ts';

/** Speaks as the process that reads does; what it does is named by the path that it is asked for. */
const SCRIPT = `
process.on('disconnect', () => process.exit(0));
const doing = {
  quick: (say) => say({ say: 'answer', answer: { form: 'text', text: String(process.pid) } }),
  slow: (say) => setTimeout(() => say({ say: 'answer', answer: { form: 'text', text: 'slow ' + process.pid } }), 300),
  endless: () => { for (;;); },
  hungry: () => { const held = []; for (;;) held.push(Array.from({ length: 1e5 }, (_, i) => ({ i }))); },
  refused: (say) => say({ say: 'refused', problem: { code: 'not-there', message: 'It is not there.', action: 'Look.' } }),
  failed: (say) => say({ say: 'failed', why: 'it broke' }),
};
process.on('message', ({ id, asked }) => doing[asked[1]]((said) => process.send({ ...said, id })));
`;

describe('The process that reads packages for people who wait', () => {
  let folder: string;
  let script: string;
  let processes: ReadingProcess[];
  const begun = (more: object = {}) => {
    const options = { script, log: pino({ level: 'silent' }), limitMs: 10_000, execArgv: [], ...more };
    const one = new ReadingProcess(options);
    processes.push(one);
    return one;
  };
  const shown = async (read: Read, what: string) => {
    const preview = await read('previewOfFile', 1, what);
    return preview.form === 'text' ? preview.text : preview.form;
  };
  const codeOf = (read: Read, what: string) =>
    shown(read, what).then(
      () => 'shown',
      (error: unknown) => (error instanceof Refusal ? error.problem.code : String(error)),
    );

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-reader-'));
    script = join(folder, 'reader.mjs');
    await writeFile(script, SCRIPT);
  });
  beforeEach(() => (processes = []));
  afterEach(() => processes.forEach((one) => one.close()));
  afterAll(() => rm(folder, { recursive: true }));

  it('answers, and does one reading after another', async () => {
    const { read } = begun();
    const [slow, quick] = await Promise.all([shown(read, 'slow'), shown(read, 'quick')]);
    expect(slow).toBe(`slow ${quick}`);
  });

  it('gives back what was refused as a refusal, and what failed as that', async () => {
    const { read } = begun();
    expect(await codeOf(read, 'refused')).toBe('not-there');
    expect(await codeOf(read, 'failed')).toBe('Error: it broke');
  });

  it('is ended when a page keeps it busy, while this process goes on, and the next reading has a fresh one', async () => {
    const { read } = begun({ limitMs: 4000 });
    let beats = 0;
    const beat = setInterval(() => beats++, 20);
    expect(await codeOf(read, 'endless')).toBe('reading-too-long');
    clearInterval(beat);
    expect(beats).toBeGreaterThan(5);
    expect(await shown(read, 'quick')).toMatch(/^\d+$/);
  });

  it('holds no more memory than it is given, and that is told', async () => {
    const { read } = begun({ memoryMb: 32 });
    expect(await codeOf(read, 'hungry')).toBe('reading-too-much');
    expect(await shown(read, 'quick')).toMatch(/^\d+$/);
  });

  it('is told when it can not be begun', async () => {
    const { read } = begun({ script: join(folder, 'none.mjs') });
    expect(await codeOf(read, 'quick')).toBe('reading-ended');
  });

  it('lets another read that has less to do', async () => {
    const read = readBeside([begun({ limitMs: 4000 }), begun()]);
    const endless = codeOf(read, 'endless');
    expect(await shown(read, 'quick')).toMatch(/^\d+$/);
    expect(await endless).toBe('reading-too-long');
  });
});
