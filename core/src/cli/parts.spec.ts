import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import * as z from 'zod';
import { cartridge, zipOf } from '../testing/packages.ts';
import { run } from './run.ts';

const resource = (id: string) =>
  `<resource identifier="${id}" type="webcontent" href="${id}.html"><file href="${id}.html"/></resource>`;
const item = (id: string, title: string) =>
  `<item identifier="i-${id}" identifierref="${id}"><title>${title}</title></item>`;
const folder = (id: string, title: string, ...inside: string[]) =>
  `<item identifier="${id}"><title>${title}</title>${inside.join('')}</item>`;
const page = (words: string) => `<html><head><title>${words}</title></head><body><p>${words}</p></body></html>`;
const SPLIT = z.object({
  plan: z.object({ of: z.record(z.string(), z.unknown()) }).loose(),
  parts: z.array(
    z.object({
      title: z.string(),
      items: z.array(z.object({ title: z.string() })),
      shared: z.array(z.object({ title: z.string() })),
      dangling: z.array(z.unknown()),
      written: z.object({ file: z.string() }).nullable(),
    }),
  ),
});
const JOIN = z.object({
  doubles: z.array(z.object({ title: z.string(), by: z.string(), same: z.boolean() })),
  written: z.object({ items: z.number() }).nullable(),
});
const Trouble = z.object({ code: z.string(), detail: z.string() });

/** Longer than what is read ahead: parts have to be read from the file when they are written. */
const FILM = Uint8Array.from({ length: 5 << 20 }, (_, i) => Math.imul(i, 2_654_435_761) >>> 24);

describe('Splitting and joining at the command line', () => {
  let folderAt: string;
  let file: string;
  const at = (name: string) => join(folderAt, name);
  const treenail = async (...args: string[]) => {
    const lines: string[] = [];
    const code = await run(args, (line) => void lines.push(line));
    return { code, said: lines.join('\n') };
  };
  const told = async <S extends z.ZodType>(schema: S, ...args: string[]): Promise<z.output<S>> => {
    const { code, said } = await treenail(...args, '--json');
    expect(code).withContext(said).toBe(0);
    return schema.parse(JSON.parse(said));
  };
  const outlineOf = async (path: string) => {
    const inspected = z.object({ outline: z.array(z.object({ title: z.string() })) });
    return (await told(inspected, 'inspect', path)).outline.map((node) => node.title);
  };

  beforeAll(async () => {
    folderAt = await mkdtemp(join(tmpdir(), 'treenail-parts-'));
    file = at('tides.imscc');
    const files = cartridge({
      items: [
        item('start', 'Start here'),
        folder('f1', 'Autumn half', item('moon', 'The moon')),
        folder('f2', 'Spring half', item('sun', 'The sun')),
      ].join(''),
      resources: ['start', 'moon', 'sun'].map(resource).join(''),
      files: {
        'start.html': page('Start'),
        'moon.html': page('See <a href="sun.html">the sun</a> <video src="m/moon.mp4"></video>'),
        'sun.html': page('Sun <video src="m/tide.mp4"></video>'),
      },
    });
    await writeFile(file, await zipOf({ ...files, 'm/tide.mp4': FILM, 'm/moon.mp4': FILM.toReversed() }));
  });
  afterAll(() => rm(folderAt, { recursive: true, force: true }));

  it('proposes where a course could be cut, and writes nothing unless it is asked to', async () => {
    const { code, said } = await treenail('split', file);
    expect(code).withContext(said).toBe(0);
    expect(said).toMatch(/Autumn half: 3 items, of which 2 shared/);
    expect(said).toContain('shared: Start here, goes into all');
    expect(said).toContain('over the cut: The moon links to “The sun”');
    expect(await readdir(folderAt)).not.toContain('1.imscc');
  });

  it('writes none of the parts where a file of one is damaged', async () => {
    const bytes = await readFile(file);
    // In the middle of the second film: neither is read for its words.
    const spoiled = at('spoiled.imscc');
    const middle = bytes.length - 40_000;
    bytes.writeUInt8(bytes.readUInt8(middle) ^ 0xff, middle);
    await writeFile(spoiled, bytes);
    const { code, said } = await treenail('split', spoiled, '--out', at('none'), '--json');
    expect(code).toBe(2);
    expect(Trouble.parse(JSON.parse(said)).code).toBe('entry-damaged');
    expect(await readdir(folderAt)).not.toContain('none');
  });

  it('cuts it into packages of their own, and joins them to what it was', async () => {
    const { parts } = await told(SPLIT, 'split', file, '--out', at('parts'));
    expect(parts.map((p) => p.items.map((i) => i.title))).toEqual([
      ['First page', 'Start here', 'The moon'],
      ['First page', 'Start here', 'The sun'],
    ]);
    const [one = '', other = ''] = parts.map((p) => p.written?.file ?? '');
    expect(await outlineOf(one)).toEqual(['First page', 'Start here', 'Autumn half', 'The moon']);
    expect(execFileSync('unzip', ['-l', other], { encoding: 'utf8' })).not.toContain('moon.html');
    for (const part of [one, other]) execFileSync('unzip', ['-tqq', part]);
    const { doubles, written } = await told(JOIN, 'join', one, other, '--out', at('whole.imscc'), '--title', 'Tides');
    expect(doubles.map((d) => [d.title, d.by, d.same])).toEqual([
      ['First page', 'identifier', true],
      ['Start here', 'identifier', true],
    ]);
    expect(written?.items).toBe(4);
    expect(await outlineOf(at('whole.imscc'))).toEqual([
      'First page',
      'Start here',
      'Autumn half',
      'The moon',
      'Spring half',
      'The sun',
    ]);
    expect(execFileSync('unzip', ['-p', at('whole.imscc'), 'moon.html'], { encoding: 'utf8' })).toContain(
      'href="sun.html"',
    );
  });

  it('takes a plan that a person corrected', async () => {
    const { plan } = await told(SPLIT, 'split', file, '--by', 'names');
    const [first] = Object.keys(plan.of);
    await writeFile(at('plan.json'), JSON.stringify({ ...plan, of: { ...plan.of, [first ?? '']: 1 } }));
    const { parts } = await told(SPLIT, 'split', file, '--plan', at('plan.json'));
    expect(parts.map((p) => p.items.length)).toEqual([2, 3]);
  });

  it('refuses what can’t be, with what to do', async () => {
    await writeFile(at('bad.json'), '{"parts": 2}');
    await writeFile(at('no.json'), 'no');
    const { plan } = await told(SPLIT, 'split', file);
    await writeFile(at('empty.json'), JSON.stringify({ ...plan, of: {} }));
    for (const [args, code] of [
      [['split', file, '--by', 'weather'], 'usage'],
      [['split', file, '--by', 'dates'], 'no-cut'],
      [['split', file, '--term', 'Autumn'], 'usage'],
      [['split', file, '--plan', at('bad.json')], 'usage'],
      [['split', file, '--plan', at('no.json')], 'usage'],
      [['split', file, '--plan', at('none.json')], 'no-such-file'],
      [['split', file, '--plan', at('empty.json')], 'part-empty'],
      [['split', file, '--out', file], 'file-there'],
      [['join', file, file, '--out', at('never.imscc')], 'join-itself'],
      [['join', file], 'usage'],
      [['join', file, file, '--doubles', 'some'], 'usage'],
    ] as const) {
      const { code: exit, said } = await treenail(...args);
      expect([exit, Trouble.parse(JSON.parse(said)).code])
        .withContext(args.join(' '))
        .toEqual([2, code]);
    }
    expect(await readdir(folderAt)).not.toContain('never.imscc');
    expect((await readFile(file)).length).toBeGreaterThan(100);
  });
});
