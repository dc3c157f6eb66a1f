import { execFile, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cp, mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import * as z from 'zod';
import { EXAMPLE_DESCRIPTIONS } from '../formats/index.ts';
import { run } from './run.ts';
import { FOLIO } from '../testing/archives.ts';
import { foreignZipOf, zipOf } from '../testing/packages.ts';

const MAIN = fileURLToPath(new URL('./main.ts', import.meta.url));
const SAMPLE = fileURLToPath(new URL('../testing/samples/pair-hedge-cc13.imscc', import.meta.url));

async function treenail(...args: string[]): Promise<{ code: number; said: string }> {
  const lines: string[] = [];
  const code = await run(args, (line) => void lines.push(line));
  return { code, said: lines.join('\n') };
}

/** The same in a process of its own. */
function spawned(...args: string[]): Promise<{ code: number; said: string }> {
  return new Promise((done) => {
    execFile(process.execPath, ['--import', 'tsx', MAIN, ...args], { maxBuffer: 64 << 20 }, (error, stdout) => {
      done({ code: typeof error?.code === 'number' ? error.code : 0, said: stdout });
    });
  });
}

const ProblemDocument = z.object({ code: z.string(), detail: z.string(), action: z.string() });
const Inspected = z.object({
  format: z.string(),
  version: z.string(),
  counts: z.object({ items: z.number(), kinds: z.record(z.string(), z.number()) }),
  outline: z.array(z.object({ depth: z.number(), title: z.string(), kind: z.string() })),
  questions: z.array(z.object({ id: z.string(), type: z.string(), points: z.number().nullable() })),
  links: z.array(z.object({ state: z.string() })),
  unused: z.array(z.string()),
  notes: z.array(z.unknown()),
});

describe('The command line', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-cli-'));
  });
  afterAll(() => rm(folder, { recursive: true, force: true }));

  it('stops at counts and outline where no more is asked for, and says what it left aside', async () => {
    const whole = await treenail('inspect', SAMPLE, '--json');
    const outline = await treenail('inspect', SAMPLE, '--outline', '--json');
    const part = z.object({
      counts: z.looseObject({}).transform((counts) => ({ ...counts, questions: null })),
      outline: z.unknown(),
      title: z.string(),
    });
    expect(part.parse(JSON.parse(outline.said))).toEqual(part.parse(JSON.parse(whole.said)));
    // How many questions there are stands in definitions, which a manifest needs none of to tell its outline.
    expect(JSON.parse(outline.said)).toEqual(
      jasmine.objectContaining({
        counts: jasmine.objectContaining({ items: jasmine.any(Number) }),
        notLookedAt: jasmine.arrayContaining(['links', 'definitions of items (questions, settings, texts)']),
      }),
    );
    expect(outline.said).not.toContain('"questions"');
    expect((await treenail('inspect', SAMPLE, '--outline')).said).toContain('Not looked at: definitions of items');
  });

  it('counts questions with the outline where that stands in the same file', async () => {
    const told = await treenail('inspect', SAMPLE.replace('cc13.imscc', 'qti21.zip'), '--outline', '--json');
    const { counts } = z
      .object({ counts: z.object({ questions: z.record(z.string(), z.number()) }) })
      .parse(JSON.parse(told.said));
    expect(Object.keys(counts.questions).length).toBeGreaterThan(0);
    expect(told.said).not.toContain('definitions of items');
  });

  it('says of a conversion in which texts go on as they are that nobody looked where they lead', async () => {
    const older = SAMPLE.replace('cc13', 'cc11');
    const carried = await treenail('convert', older, '--to', 'cc13', '--out', join(folder, 'carried.imscc'));
    expect(carried.said).toContain('Not looked at: links of texts.');
    const written = await treenail('convert', older, '--to', 'scorm12', '--out', join(folder, 'written.zip'));
    expect([written.code, written.said.includes('Not looked at')]).toEqual([0, false]);
  });

  it('lists what packages can be written as', async () => {
    const { code, said } = await treenail('targets', '--json');
    const list = z.array(z.object({ id: z.string(), label: z.string() })).parse(JSON.parse(said));
    expect([code, list.find((t) => t.id === 'qti30')?.label]).toEqual([0, 'QTI 3.0']);
  });

  it('runs from wherever its bundle is copied to, with its threads', async () => {
    const ended = (...args: string[]) =>
      new Promise<string>((done, failed) => {
        execFile(process.execPath, args, (error, stdout) => (error ? failed(new Error(error.message)) : done(stdout)));
      });
    await ended(fileURLToPath(new URL('../../bin/build.mjs', import.meta.url)));
    const copy = join(folder, 'copied');
    await cp(new URL('../../dist/cli', import.meta.url), copy, { recursive: true });
    const out = join(folder, 'copied.zip');
    const said = await ended(join(copy, 'main.mjs'), 'convert', SAMPLE, '--to', 'scorm2004', '--out', out, '--json');
    const { sha256 } = z.object({ sha256: z.string() }).parse(JSON.parse(said));
    expect(
      createHash('sha256')
        .update(await readFile(out))
        .digest('hex'),
    ).toBe(sha256);
  });

  it('ends with a refusal where a gzip holds no tar, whatever it began to write', async () => {
    const none = join(folder, 'none.tar.gz');
    await writeFile(none, gzipSync('no tar at all '.repeat(200)));
    const { code, said } = await spawned('inspect', none, '--json');
    expect([code, ProblemDocument.parse(JSON.parse(said)).code]).toEqual([2, 'tar-damaged']);
  });

  it('ends quietly when whoever reads has read enough', async () => {
    const pages = Object.fromEntries(Array.from({ length: 3000 }, (_, i) => [`page-${i}.html`, `<p>${i}</p>`]));
    const long = join(folder, 'long.zip');
    await writeFile(long, await zipOf(pages));
    const child = spawn(process.execPath, ['--import', 'tsx', MAIN, 'inspect', long, '--json']);
    child.stdout.destroy();
    let complaints = '';
    child.stderr.on('data', (part: Buffer) => (complaints += part.toString()));
    const code = await new Promise((done) => child.once('close', done));
    expect([code, complaints]).toEqual([0, '']);
  });

  it('reads an archive by the description that it is given, and says where one is wrong', async () => {
    const archive = join(folder, 'folio.zip');
    await writeFile(archive, await zipOf(FOLIO));
    const description = join(folder, 'dunlin.yaml');
    await writeFile(description, EXAMPLE_DESCRIPTIONS.find((e) => e.name === 'dunlin')?.text ?? '');
    const { code, said } = await treenail('inspect', archive, '--description', description, '--json');
    expect(code).toBe(0);
    const found = Inspected.parse(JSON.parse(said));
    expect([found.version, found.counts.kinds['assignment'], found.questions.length]).toEqual(['Dunlin folio 2', 1, 4]);
    const wrong = join(folder, 'wrong.yaml');
    await writeFile(wrong, 'description: 1\nid: x\n');
    const refused = await treenail('inspect', archive, '--description', wrong);
    expect([refused.code, ProblemDocument.parse(JSON.parse(refused.said)).code]).toEqual([2, 'description-malformed']);
  });

  it('inspects, converts and compares', async () => {
    const { code, said } = await treenail('inspect', SAMPLE, '--json');
    expect(code).toBe(0);
    const found = Inspected.parse(JSON.parse(said));
    expect([found.format, found.version, found.questions.length]).toEqual(['cc', '1.3', 11]);
    const out = join(folder, 'out.zip');
    const converted = await treenail('convert', SAMPLE, '--to', 'qti30', '--out', out, '--json');
    expect(converted.code).toBe(0);
    const { losses } = z
      .object({ losses: z.array(z.object({ outcome: z.string() })) })
      .parse(JSON.parse(converted.said));
    expect(losses.length).toBeGreaterThan(5);
    const read = Inspected.parse(JSON.parse((await treenail('inspect', out, '--json')).said));
    expect([read.format, read.version, read.questions.length]).toEqual(['qti', '3.0', 11]);
    const compared = await treenail('compare', SAMPLE, SAMPLE, '--json');
    const { totals, lines } = z
      .object({ totals: z.record(z.string(), z.number()), lines: z.array(z.unknown()) })
      .parse(JSON.parse(compared.said));
    expect(totals['whole']).toBe(lines.length);
  }, 300_000);

  it('reads a loose folder, and heeds the limits that are set', async () => {
    const loose = join(folder, 'loose');
    await mkdir(join(loose, 'Week 1'), { recursive: true });
    await writeFile(join(loose, 'Week 1', 'tides.html'), '<title>Tides</title><p>x</p>');
    await writeFile(join(loose, 'index.html'), '<title>Start</title>');
    const { code, said } = await treenail('inspect', loose, '--json');
    expect(code).toBe(0);
    const found = Inspected.parse(JSON.parse(said));
    expect([found.format, found.outline.map((o) => `${o.depth} ${o.title}`)]).toEqual([
      'site',
      ['0 Start', '0 Week 1', '1 Tides'],
    ]);
    const refused = await treenail('inspect', loose, '--limits', 'entries=1');
    expect([refused.code, ProblemDocument.parse(JSON.parse(refused.said)).code]).toEqual([2, 'zip-too-many']);
    const wrong = await treenail('inspect', loose, '--limits', 'sky=1');
    expect(ProblemDocument.parse(JSON.parse(wrong.said)).code).toBe('limit-unknown');
  }, 300_000);

  it('tells findings, feedback of choices and what is not read; and refuses, when it is to be strict, what is lost', async () => {
    const strange = join(folder, 'strange.imscc');
    await writeFile(
      strange,
      await zipOf({
        'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1" identifier="m" mood="calm"><metadata><schema>IMS Common Cartridge</schema><schemaversion>1.3.0</schemaversion></metadata><organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="r"><item identifier="i" identifierref="p"><title>Tides</title></item></item></organization></organizations><resources><resource identifier="p" type="webcontent" href="p.html"><file href="p.html"/></resource></resources></manifest>`,
        'p.html':
          '<title>Tides</title><p id="ebb">{~name~} <a href="#flood">there</a> <a href="gone.html">gone</a></p>',
      }),
    );
    const inspected = z
      .object({
        findings: z.array(z.object({ kind: z.string() })),
        placeholders: z.array(z.string()),
        links: z.array(z.object({ value: z.string(), lostAnchor: z.boolean() })),
        unread: z.array(z.object({ name: z.string(), times: z.number() })),
      })
      .parse(JSON.parse((await treenail('inspect', strange, '--json')).said));
    expect(inspected.findings.map((f) => f.kind)).toEqual(['link-broken', 'link-lost-place', 'placeholder']);
    expect(inspected.placeholders).toEqual(['{~name~}']);
    expect(inspected.links.find((l) => l.value === '#flood')?.lostAnchor).toBeTrue();
    expect(inspected.unread).toEqual([{ name: 'manifest@mood', times: 1 }]);
    expect((await treenail('inspect', strange)).said).toContain('1 × manifest@mood (imsmanifest.xml, line 1)');
    const out = join(folder, 'strict.zip');
    const strictly = (...more: string[]) =>
      treenail('convert', strange, '--to', 'cp', '--out', out, '--strict', '--json', ...more);
    const refused = await strictly();
    const { code, detail } = ProblemDocument.parse(JSON.parse(refused.said));
    expect([refused.code, code]).toEqual([2, 'not-whole']);
    expect(detail).toContain('unread');
    expect(await readdir(folder)).not.toContain('strict.zip');
    expect((await strictly('--allow', 'unread')).code).toBe(0);
    expect((await treenail('convert', strange, '--to', 'cp', '--out', out, '--allow', 'unread')).code).toBe(2);
    // Questions are named by themselves, and what stays behind or becomes another by its kind.
    const sample = (...names: string[]) =>
      treenail(
        'convert',
        SAMPLE,
        '--to',
        'qti30',
        '--out',
        join(folder, 'sample.zip'),
        '--strict',
        '--allow',
        names.join(),
      );
    const kinds = ['page', 'file', 'link', 'tool', 'assignment', 'discussion', 'folder', 'unread'];
    expect(ProblemDocument.parse(JSON.parse((await sample(...kinds.slice(1))).said)).detail).toContain('page (');
    const toCp = await treenail('convert', SAMPLE, '--to', 'cp', '--out', join(folder, 'no.zip'), '--strict');
    expect(ProblemDocument.parse(JSON.parse(toCp.said)).detail).toMatch(
      /quiz \(.*assignment \(|assignment \(.*quiz \(/,
    );
  }, 300_000);

  it('refuses what is damaged, or leaves it out and tells so', async () => {
    const sound = await foreignZipOf(
      { 'index.html': '<title>Start</title><p>Sound <img alt="" src="k.bin"></p>', 'k.bin': 'knots and bends' },
      false,
    );
    const spoiled = Buffer.from(sound);
    spoiled[spoiled.indexOf('knots')] = 0x4b;
    const file = join(folder, 'spoiled.zip');
    await writeFile(file, spoiled);
    const out = join(folder, 'unspoiled.zip');
    for (const target of ['cp', 'cc13']) {
      const refused = await treenail('convert', file, '--to', target, '--out', out, '--json');
      expect([refused.code, ProblemDocument.parse(JSON.parse(refused.said)).code]).toEqual([2, 'entry-damaged']);
      expect(await readdir(folder)).not.toContain('unspoiled.zip');
    }
    const left = await treenail('convert', file, '--to', 'site', '--out', out, '--json', '--without-damaged');
    expect(left.code).toBe(0);
    const { losses } = z
      .object({ losses: z.array(z.object({ item: z.string(), why: z.string() })) })
      .parse(JSON.parse(left.said));
    expect(losses.map((l) => l.item)).toContain('k.bin');
    const again = await treenail('inspect', out, '--json');
    expect(again.code).toBe(0);
    expect(again.said).not.toContain('entry-damaged');
  }, 300_000);

  it('refuses with a problem document and 2, and leaves nothing behind', async () => {
    const spoiled = join(folder, 'spoiled.imscc');
    await writeFile(spoiled, 'PK\u0003\u0004 nothing');
    for (const [args, expected] of [
      [['inspect', spoiled], 'zip-truncated'],
      [['inspect', join(folder, 'nowhere')], 'no-such-file'],
      [['convert', spoiled, '--to', 'cc13', '--out', join(folder, 'never.imscc')], 'zip-truncated'],
      [['convert', SAMPLE, '--to', 'cc99', '--out', join(folder, 'never.imscc')], 'unknown-target'],
      [['convert', SAMPLE, '--to', 'cc13', '--out', spoiled], 'file-there'],
      [['inspect'], 'usage'],
      [['bake', SAMPLE], 'unknown-command'],
    ] as const) {
      const { code, said } = await treenail(...args);
      expect([code, ProblemDocument.parse(JSON.parse(said)).code]).toEqual([2, expected]);
    }
    // Films are written while the manifest is read: what is wrong with it is then found half-way.
    const films = join(folder, 'films.imscc');
    const film = Uint8Array.from({ length: 17 << 20 }, (_, i) => Math.imul(i, 2_654_435_761) >>> 24);
    const unclosed = '<manifest xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1"><metadata>';
    await writeFile(films, await foreignZipOf({ 'imsmanifest.xml': unclosed, 'm/film.mp4': film }, false));
    const { code, said } = await treenail('convert', films, '--to', 'cc13', '--out', join(folder, 'never.imscc'));
    expect([code, ProblemDocument.parse(JSON.parse(said)).code]).toEqual([2, 'xml-malformed']);
    expect(await readdir(folder)).not.toContain('never.imscc');
    expect((await treenail('--help')).said).toContain('convert FILE --to TARGET');
    // The process ends with what the command does.
    const process = await spawned('inspect', spoiled);
    expect([process.code, ProblemDocument.parse(JSON.parse(process.said)).code]).toEqual([2, 'zip-truncated']);
    expect((await spawned('--help')).code).toBe(0);
  }, 300_000);
});
