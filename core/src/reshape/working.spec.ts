import fc from 'fast-check';
import { nodeEngine } from '../container/node.ts';
import { openPackage, bytesSource, type Package } from '../container/index.ts';
import { readCourse, targetById, writePackage } from '../formats/index.ts';
import { FINDING_KINDS, survey, type Finding, type KnownAddresses } from '../inspect/index.ts';
import { decodeText } from '../markup/index.ts';
import { courses } from '../testing/courses.ts';
import { memorySink, packageOf, type Files } from '../testing/packages.ts';
import type { Course } from '../model/index.ts';
import type { Decision } from './decisions.ts';
import { MEND_KINDS } from './mends/index.ts';
import { beforeAfter } from './before-after.ts';
import { workingCopy } from './working.ts';

const TODAY = '2026-11-25';
const KNOWN: KnownAddresses = {
  platform: ['https://learn.old.example'],
  course: 'q1',
  items: ['/course/(?<course>[^/]+)/(?<item>[^/?#]+)'],
  courses: ['/course/(?<course>[^/?#]+)'],
  repository: ['https://learn.old.example/repository/'],
};

async function looked(pkg: Package, course: Course, known?: KnownAddresses) {
  return survey(pkg, course, { engine: nodeEngine, findings: { today: TODAY, ...(known ? { known } : {}) } });
}

/** Pages of a folder without a manifest, so that everything in them is the test's own. */
async function lookedAt(files: Files) {
  const pkg = await packageOf(files);
  const { course } = await readCourse(pkg);
  return { pkg, ...(await looked(pkg, course, KNOWN)) };
}

const decide = (finding: Finding, mend: string, params: Record<string, string> = {}): Decision => ({
  id: `d-${finding.key}-${mend}`,
  match: { kind: finding.kind, groupKey: null, key: finding.key },
  mend,
  params,
  reason: '',
});
const asSuggested = (finding: Finding): Decision[] => {
  const [first] = finding.suggestions;
  return first ? [decide(finding, first.mend, first.params)] : [];
};

async function mended(files: Files, choose: (f: Finding) => Decision[]) {
  const before = await lookedAt(files);
  const work = await workingCopy(before.pkg, before, before.findings, before.findings.flatMap(choose), {
    engine: nodeEngine,
  });
  return { before, work, text: async (path: string) => decodeText(await work.pkg.bytes(path)) };
}

describe('Mends', () => {
  it('are there for every finding that names them', () => {
    const mends = new Set(MEND_KINDS.map((m) => m.id));
    for (const kind of FINDING_KINDS) {
      expect(kind.mends.filter((m) => !mends.has(m)))
        .withContext(kind.id)
        .toEqual([]);
    }
  });
});

describe('What Treenail wrote itself', () => {
  it('is told of once, and scripts of others at every page, whatever they call themselves', async () => {
    const own = '<script src="play/runtime.js" data-treenail="player"></script>';
    const sly = '<script src="evil.js" data-treenail="player"></script><script src="play/runtime.js"></script>';
    const { findings } = await lookedAt({
      'a.html': `<p>A</p>${own}<script type="application/json" id="quiz-key">[]</script>`,
      'b.html': `<p>B</p>${own}`,
      'c.html': `<p>C</p>${sly}`,
      'play/runtime.js': '1',
      'evil.js': '2',
    });
    expect(findings.filter((f) => f.kind === 'script').map((f) => f.title)).toEqual(['c', 'c']);
    expect(findings.filter((f) => f.kind === 'own-player').map((f) => f.evidence)).toEqual([
      '3 pages load play/runtime.js',
    ]);
  });
});

describe('A working copy', () => {
  it('is the course itself where nothing is decided', async () => {
    const before = await lookedAt({ 'a.html': '<p>See <a href="gone.html">this</a></p>' });
    const work = await workingCopy(before.pkg, before, before.findings, [], { engine: nodeEngine });
    expect(work.course).toBe(before.course);
    expect(work.pkg).toBe(before.pkg);
  });

  it('leads links elsewhere, takes them off, and leaves every other letter as it was', async () => {
    const page =
      '<!DOCTYPE html>\n<P class=x>See <A HREF="B.html#s">the other</a>, <a href=gone.pdf>a <b>lost</b> one</a>\n<img src=PIC%2520A.png>&eacute;</P>';
    const { work, text } = await mended({ 'a.html': page, 'b.html': '<h1 id="s">B</h1>', 'pic a.png': 'P' }, (f) =>
      f.kind === 'link-broken' ? [decide(f, 'unlink')] : f.kind === 'link-written-otherwise' ? asSuggested(f) : [],
    );
    expect(work.failed).toEqual([]);
    expect(await text('a.html')).toBe(
      '<!DOCTYPE html>\n<P class=x>See <A HREF="b.html#s">the other</a>, a <b>lost</b> one\n<img src=pic%20a.png>&eacute;</P>',
    );
    expect(work.links.filter((l) => l.state === 'broken')).toEqual([]);
    expect(work.course.origin.untouched).toBeFalse();
  });

  it('leads addresses of the old platform to the items they meant', async () => {
    const { before, text, work } = await mended(
      {
        'a.html':
          '<a href="https://learn.old.example/course/q1/b.html">B</a><a href="https://learn.old.example/course/q9/x">other</a><a href="https://learn.old.example/help">help</a><a href="https://learn.old.example/repository/s/tool-book.pdf">book</a><a href="//outside.example/x">out</a>',
        'b.html': '<p>B</p>',
        'files/tool-book.pdf': '%PDF',
      },
      (f) =>
        f.kind === 'link-other-course' || f.kind === 'link-old-platform' ? [decide(f, 'unlink')] : asSuggested(f),
    );
    expect(before.links.map((l) => l.state)).toEqual(['item', 'elsewhere', 'platform', 'repository', 'outside']);
    expect(work.failed).toEqual([]);
    expect(await text('a.html')).toBe(
      '<a href="b.html">B</a>otherhelp<a href="files/tool-book.pdf">book</a><a href="https://outside.example/x">out</a>',
    );
  });

  it('mends what pages show badly, each as suggested', async () => {
    const { work, text, before } = await mended(
      {
        'a.html':
          '<h1>{~course.title~}</h1><h3 onclick="x()">Jump</h3><i class="ico-anchor"></i><img src="p.png" title="A plate"><table><tr><td>A</td><td>B</td></tr><tr><td>1</td><td>2</td></tr></table><iframe src="https://sim.example/t" title="Tides"></iframe><script>track()</script>',
        'p.png': 'P',
      },
      asSuggested,
    );
    expect(work.failed).toEqual([]);
    expect(before.findings.map((f) => f.kind)).toEqual([
      'placeholder',
      'embed',
      'script',
      'script',
      'icon-font',
      'picture-without-words',
      'table-without-header',
      'heading-jump',
    ]);
    const title = before.course.title;
    expect(await text('a.html')).toBe(
      `<h1>${title}</h1><h2>Jump</h2>⚓<img src="p.png" title="A plate" alt="A plate"><table><tr><th scope="col">A</th><th scope="col">B</th></tr><tr><td>1</td><td>2</td></tr></table><a href="https://sim.example/t" target="_blank" rel="noopener">Tides</a>`,
    );
  });

  it('never lets two mends change one place', async () => {
    const { work, text } = await mended(
      { 'a.html': '<iframe src="https://sim.example/{~course.title~}"></iframe><p>ok</p>' },
      asSuggested,
    );
    expect(work.failed.length).toBe(1);
    expect(work.failed[0]?.why).toBe('another mend changes the same place');
    expect(await text('a.html')).toContain('<p>ok</p>');
  });

  it('shows before it is done what a mend would do', async () => {
    const before = await lookedAt({ 'a.html': '<p>See <a href="gone.html">this</a></p>', 'loose.txt': 'x' });
    const [link] = before.findings;
    if (!link) throw new Error('a finding was expected');
    const loose: Finding = { ...link, kind: 'file-unused', spot: null, item: null, file: 'loose.txt' };
    const shown = (f: Finding, mend: string, params = {}) => beforeAfter(before.pkg, before, f, { mend, params });
    expect(await shown(link, 'unlink')).toEqual({
      before: '<p>See <a href="gone.html">this</a></p>',
      after: '<p>See this</p>',
      line: 1,
      why: null,
    });
    expect((await shown(link, 'retarget', { to: 'javascript:alert(1)' })).why).toMatch(/would run/);
    expect((await shown(link, 'no-such-mend')).why).toBe('there is no mend no-such-mend');
    expect((await shown(loose, 'leave-out')).after).toBe('left out');
    expect(decodeText(await before.pkg.bytes('a.html'))).toContain('gone.html');
  });

  it('renames a file with everything that leads to it', async () => {
    const before = await lookedAt({
      'a.html': '<a href="files/x%20y.pdf?v=1">x</a><img alt="" src="p.png">',
      'style.css': 'p { background: url(files/x%20y.pdf) }',
      'files/x y.pdf': '%PDF',
      'p.png': 'P',
    });
    const finding: Finding = {
      key: 'k',
      kind: 'name-unfit',
      weight: 'weakens',
      groupKey: ' ',
      item: null,
      node: null,
      title: 'files/x y.pdf',
      part: '',
      file: 'files/x y.pdf',
      line: null,
      evidence: '',
      spot: null,
      suggestions: [{ mend: 'rename', params: { name: 'x-y.pdf' }, words: '' }],
    };
    const work = await workingCopy(before.pkg, before, [finding], asSuggested(finding), { engine: nodeEngine });
    expect(decodeText(await work.pkg.bytes('a.html'))).toContain('href="files/x-y.pdf?v=1"');
    expect(decodeText(await work.pkg.bytes('style.css'))).toContain('url(files/x-y.pdf)');
    expect([...work.pkg.entries.keys()]).not.toContain('files/x y.pdf');
    expect(work.links.filter((l) => l.state === 'broken')).toEqual([]);
    // What is written carries the name in both of its headers.
    const { format, target } = targetById('site');
    const sink = memorySink();
    await writePackage(target, await format.plan(work.course, target, work.pkg), work.pkg, sink, {
      engine: nodeEngine,
    });
    const again = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
    const path = [...again.entries.keys()].find((p) => p.endsWith('x-y.pdf')) ?? '';
    expect(decodeText(await again.bytes(path))).toBe('%PDF');
  });

  it('leaves out what a person leaves out, with the files that only it used', async () => {
    const before = await lookedAt({
      'a.html': '<img alt="" src="only.png"><img alt="" src="both.png">',
      'b.html': '<img alt="" src="both.png"><a href="a.html">a</a>',
      'only.png': '1',
      'both.png': '2',
    });
    const a = before.course.items.find((i) => i.kind === 'page' && i.file === 'a.html');
    const work = await workingCopy(before.pkg, before, before.findings, [], {
      engine: nodeEngine,
      leftOut: [a?.id ?? ''],
    });
    expect([...work.pkg.entries.keys()].sort()).toEqual(['b.html', 'both.png']);
    expect(work.links.find((l) => l.value === 'a.html')?.state).toBe('broken');
    expect(before.course.items.length).toBe(work.course.items.length + 1);
  });

  it('holds nothing personal once all that was found is taken out', async () => {
    const files = {
      'a.html':
        '<p>Ask <a href="mailto:tutor@marrowick.example">the tutor</a> or M1234567, tutor@marrowick.example</p>',
      'people/class-list.csv': 'number,mail\nM1234567,a@marrowick.example\nM7654321,b@marrowick.example\n',
      'notes.txt': 'first@marrowick.example second@marrowick.example',
      'report.pdf': '%PDF-1.4\n1 0 obj << /Author (E. Harbour) /Title (x) >> endobj',
      'other.pdf': '%PDF-1.4\n1 0 obj << /Author 17 0 R >> endobj\n17 0 obj\n(E. Harbour) endobj',
      'letter.docx': await documentBy('E. Harbour'),
      'photo.jpg': photoBy('E. Harbour'),
    };
    const { before, work } = await mended(files, (f) => (f.weight === 'exposes' ? asSuggested(f) : []));
    expect(before.findings.filter((f) => f.weight === 'exposes').length).toBe(9);
    expect(work.failed).toEqual([]);
    // The link that wrote to somebody is gone with the address, and its words are not.
    expect(decodeText(await work.pkg.bytes('a.html'))).toBe(
      '<p>Ask the tutor or [student number removed], [mail address removed]</p>',
    );
    const after = await looked(work.pkg, work.course, KNOWN);
    expect(after.findings.filter((f) => f.weight === 'exposes')).toEqual([]);
    for (const path of work.pkg.entries.keys()) {
      const raw = new TextDecoder('latin1').decode(await work.pkg.bytes(path));
      expect(raw)
        .withContext(path)
        .not.toMatch(/@marrowick\.example|M\d{7}|Harbour/);
    }
  });

  it('keeps the law: what is mended is not found again, and the original is as it was', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(1000)), async ({ course, bodies }, picks) => {
        const pkg = await packageOf(bodies);
        const before = await looked(pkg, course);
        const copy = structuredClone({ course: before.course, findings: before.findings });
        const able = before.findings.filter((f) => f.suggestions.length > 0);
        const picked = new Set(picks.flatMap((n) => (able.length > 0 ? [able[n % able.length]] : [])));
        const chosen = [...picked].flatMap((f) => (f ? asSuggested(f) : []));
        const work = await workingCopy(pkg, before, before.findings, chosen, { engine: nodeEngine });
        expect({ course: before.course, findings: before.findings }).toEqual(copy);
        const after = await looked(work.pkg, work.course);
        const left = new Set(after.findings.map((f) => `${f.kind}|${f.item ?? f.title}|${f.evidence}`));
        for (const finding of before.findings) {
          if (!work.mended.includes(finding.key)) continue;
          const same = `${finding.kind}|${finding.item ?? finding.title}|${finding.evidence}`;
          const twins = before.findings.filter((f) => `${f.kind}|${f.item ?? f.title}|${f.evidence}` === same);
          if (twins.some((t) => !work.mended.includes(t.key))) continue;
          expect(left.has(same)).withContext(same).toBeFalse();
        }
        expect(after.course.files.every((f) => work.pkg.entries.has(f.path))).toBeTrue();
        expect(new Set(after.course.items.map((i) => i.fingerprint))).toEqual(
          new Set(work.course.items.map((i) => i.fingerprint)),
        );
      }),
      { numRuns: 60 },
    );
  });
});

async function documentBy(author: string): Promise<Uint8Array> {
  const { zipOf } = await import('../testing/packages.ts');
  return zipOf({
    'word/document.xml': '<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>Words</w:t></w:r></w:p></w:body></w:document>',
    'docProps/core.xml': `<cp:coreProperties xmlns:cp="c" xmlns:dc="d"><dc:creator>${author}</dc:creator><cp:lastModifiedBy>${author}</cp:lastModifiedBy></cp:coreProperties>`,
  });
}

/** The shortest JPEG with an Exif segment that names an artist (Exif 2.32, 4.6.4). */
function photoBy(artist: string): Uint8Array {
  const name = Buffer.from(`${artist}\0`, 'latin1');
  const tiff = Buffer.alloc(8 + 2 + 12 + 4 + name.length);
  tiff.write('MM', 0, 'latin1');
  tiff.writeUInt16BE(42, 2);
  tiff.writeUInt32BE(8, 4);
  tiff.writeUInt16BE(1, 8);
  tiff.writeUInt16BE(0x013b, 10);
  tiff.writeUInt16BE(2, 12);
  tiff.writeUInt32BE(name.length, 14);
  tiff.writeUInt32BE(26, 18);
  name.copy(tiff, 26);
  const exif = Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), tiff]);
  const length = Buffer.alloc(2);
  length.writeUInt16BE(exif.length + 2);
  return new Uint8Array(
    Buffer.concat([
      Buffer.from([0xff, 0xd8, 0xff, 0xe1]),
      length,
      exif,
      Buffer.from([0xff, 0xda, 0x00, 0x02, 0xff, 0xd9]),
    ]),
  );
}
