import { mkdtempSync, rmSync } from 'node:fs';
import { mkdtemp, readFile, readdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import yazl from 'yazl';
import { importBook } from './oxlea/importer.ts';
import { importCartridge } from './quernhold/importer.ts';
import { untouched, type QCourse } from './quernhold/model.ts';
import { NOTHING } from './quernhold/rich.ts';

const ROOT = mkdtempSync(join(tmpdir(), 'importers-'));
process.once('exit', () => rmSync(ROOT, { recursive: true, force: true }));

const item = (id: string, title: string, inside = '', to = id) =>
  `<item identifier="i-${id}"${to === '' ? '' : ` identifierref="${to}"`}><title>${title}</title>${inside}</item>`;
const folder = (id: string, title: string, inside: string) => item(id, title, inside, '');
const resource = (id: string, type: string, href: string) =>
  `<resource identifier="${id}" type="${type}" href="${href}"><file href="${href}"/></resource>`;
const manifest = (outline: string, resources: string, title = 'Rigging') =>
  `<manifest><metadata><lom><general><title><string>${title}</string></title></general></lom></metadata>
  <organizations><organization><item identifier="root">${outline}</item></organization></organizations>
  <resources>${resources}</resources></manifest>`;

const PAGE =
  '<html><head><title>x</title></head><body><h1>Splices</h1><p>Take <em>three</em> strands &amp; tuck.</p><img src="rope.png"></body></html>';
const QUESTION = (profile: string, body: string, scoring: string) =>
  `<item ident="q1" title="One"><itemmetadata><qtimetadata><qtimetadatafield><fieldlabel>cc_profile</fieldlabel><fieldentry>${profile}</fieldentry></qtimetadatafield><qtimetadatafield><fieldlabel>cc_weighting</fieldlabel><fieldentry>3</fieldentry></qtimetadatafield></qtimetadata></itemmetadata><presentation><material><mattext>Which? &lt;img src="$IMS-CC-FILEBASE$/rope.png"&gt;</mattext></material>${body}</presentation><resprocessing><respcondition><conditionvar>${scoring}</conditionvar><setvar>100</setvar></respcondition></resprocessing><itemfeedback ident="general_fb"><flow_mat><material><mattext>Look again.</mattext></material></flow_mat></itemfeedback></item>`;
const CHOICES =
  '<response_lid ident="r"><render_choice><response_label ident="a"><material><mattext>this</mattext></material></response_label><response_label ident="b"><material><mattext>that</mattext></material></response_label></render_choice></response_lid>';
const TYPED = '<response_str ident="r"><render_fib/></response_str>';

const CARTRIDGE = {
  'imsmanifest.xml': manifest(
    folder(
      'w1',
      'Week 1',
      item('p', 'Splices') +
        folder('deep', 'Deeper', item('f', 'Chart') + folder('deeper', 'Deepest', item('w', 'Harbour office'))) +
        item('t', 'Ask away') +
        item('a', 'Log book') +
        item('x', 'Simulator') +
        item('k', 'Check') +
        item('gone', 'Nothing behind it'),
    ),
    [
      resource('p', 'webcontent', 'Read/Splices.html'),
      resource('f', 'webcontent', 'Chart%20One.pdf'),
      resource('w', 'imswl_xmlv1p1', 'w.xml'),
      resource('t', 'imsdt_xmlv1p1', 'talk/t.xml'),
      resource('a', 'assignment_xmlv1p0', 'a.xml'),
      resource('x', 'imsbasiclti_xmlv1p0', 'x.xml'),
      resource('k', 'imsqti_xmlv1p2/imscc_xmlv1p1/assessment', 'k.xml'),
      resource('b', 'imsqti_xmlv1p2/imscc_xmlv1p1/question-bank', 'b.xml'),
    ].join(''),
  ),
  'Read/Splices.html': PAGE,
  'Chart One.pdf': '%PDF chart',
  'w.xml': '<webLink><title>x</title><url href="https://harbour.example/" target="_blank"/></webLink>',
  'talk/t.xml':
    '<topic><title>x</title><text texttype="text/html">&lt;p&gt;Say &lt;a href="plan.pdf"&gt;what&lt;/a&gt; you see.&lt;/p&gt;</text><attachments><attachment href="plan%201.pdf"/></attachments></topic>',
  'talk/plan 1.pdf': '%PDF plan',
  'a.xml':
    '<assignment><title>x</title><text>&lt;p&gt;Keep it.&lt;/p&gt;</text><instructor_text>Look at dates.</instructor_text><gradable points_possible="20">true</gradable><submission_formats><format type="file"/><format type="text"/></submission_formats></assignment>',
  'x.xml':
    '<cartridge_basiclti_link><title>x</title><description>Steers.</description><launch_url>http://sim.example/</launch_url><secure_launch_url>https://sim.example/</secure_launch_url></cartridge_basiclti_link>',
  'k.xml': `<questestinterop><assessment ident="k"><qtimetadata><qtimetadatafield><fieldlabel>cc_maxattempts</fieldlabel><fieldentry>2</fieldentry></qtimetadatafield></qtimetadata><section>${QUESTION('cc.multiple_choice.v0p1', CHOICES, '<varequal respident="r">b</varequal>')}</section></assessment></questestinterop>`,
  'b.xml': `<questestinterop><objectbank ident="b">${QUESTION('cc.fib.v0p1', TYPED, '<varequal respident="r">whipping</varequal>')}${QUESTION('cc.essay.v0p1', TYPED, '<other/>')}</objectbank></questestinterop>`,
};

async function archiveOf(files: Record<string, string>): Promise<{ archive: string; place: string }> {
  const zip = new yazl.ZipFile();
  for (const [path, body] of Object.entries(files)) zip.addBuffer(Buffer.from(body), path);
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  const place = await mkdtemp(join(ROOT, 'one-'));
  const archive = join(place, 'sent.zip');
  await writeFile(archive, Buffer.concat(parts));
  return { archive, place };
}

describe("Quernhold's importer", () => {
  async function imported(files: Record<string, string>) {
    const { archive, place } = await archiveOf(files);
    const course: QCourse = {
      ...{ id: 'c9', code: 'RIG 140', section: '01', term: 'Spring 2027', title: 'Rigging', owner: '', about: '' },
      ...{ keywords: [], changedAt: '2026-11-01T00:00:00Z', nodes: [], banks: [], rich: NOTHING, quota: 1000 },
      ...untouched(),
    };
    const log: string[] = [];
    await importCartridge(archive, course, place, (line) => log.push(line), 'R1');
    return { course, log, place };
  }

  it('keeps the folders as deep as they are, and takes in what it knows', async () => {
    const { course, log } = await imported(CARTRIDGE);
    const [week] = course.nodes;
    if (week?.kind !== 'folder') throw new Error('no folder');
    const told = week.inside.map((n) => [n.kind, n.title]);
    expect(told).toEqual([
      ['page', 'Splices'],
      ['folder', 'Deeper'],
      ['talk', 'Ask away'],
      ['task', 'Log book'],
      ['tool', 'Simulator'],
      ['quiz', 'Check'],
      // What nothing stands behind is a folder to it.
      ['folder', 'Nothing behind it'],
    ]);
    const [, deeper, talk, task, tool, quiz] = week.inside;
    expect(deeper).toEqual(
      jasmine.objectContaining({
        inside: [
          jasmine.objectContaining({ kind: 'file', path: 'content/chart one.pdf' }),
          jasmine.objectContaining({
            title: 'Deepest',
            inside: [jasmine.objectContaining({ kind: 'link', url: 'https://harbour.example/', newWindow: true })],
          }),
        ],
      }),
    );
    expect(talk).toEqual(jasmine.objectContaining({ attached: ['content/talk/plan 1.pdf'] }));
    // Texts that stood beside their files name them from the root; the names in them stay as they were.
    expect((talk as { text: string }).text).toContain('href="content/talk/plan.pdf"');
    expect(task).toEqual(
      jasmine.objectContaining({ points: 20, ways: ['file', 'text'], notes: 'Look at dates.', attached: [] }),
    );
    expect(tool).toEqual(jasmine.objectContaining({ url: 'https://sim.example/', about: 'Steers.', parameters: {} }));
    // Habit: a time limit never comes along; attempts do.
    expect(quiz).toEqual(jasmine.objectContaining({ tries: 2, minutes: 0 }));
    const [question] = (quiz as { questions: { prompt: string }[] }).questions;
    expect(question).toEqual(
      jasmine.objectContaining({
        type: 'choice',
        points: 3,
        feedback: 'Look again.',
        choices: [
          { text: 'this', right: false },
          { text: 'that', right: true },
        ],
      }),
    );
    expect(question?.prompt).toContain('src="content/rope.png"');
    expect(course.banks.map((b) => b.questions.map((q) => [q.type, q.answers]))).toEqual([
      [
        ['blank', ['whipping']],
        ['essay', []],
      ],
    ]);
    expect(log).toEqual(['restored: 1 at the top, 1 banks', '3 files, names made lower case']);
  });

  it('puts files under lower-case names, whatever names them', async () => {
    const { place } = await imported(CARTRIDGE);
    expect((await readdir(join(place, 'content'), { recursive: true })).sort()).toEqual([
      'chart one.pdf',
      'read',
      'read/splices.html',
      'talk',
      'talk/plan 1.pdf',
    ]);
  });

  it('leaves out what it has no form for, with a line, and refuses what is neither archive nor cartridge', async () => {
    const odd = manifest(item('s', 'A survey'), resource('s', 'x-own/survey', 's.xml'));
    const { course, log } = await imported({ 'imsmanifest.xml': odd, 's.xml': '<survey/>' });
    expect(course.nodes).toEqual([]);
    expect(log[0]).toBe('left out: A survey, a x-own/survey');
    await expectAsync(imported({ 'notes.txt': 'x' })).toBeRejectedWithError('neither an archive nor a cartridge');
  });
});

describe("Oxlea's importer", () => {
  async function imported(files: Record<string, string>) {
    const { archive, place } = await archiveOf(files);
    const library = join(place, 'library');
    return { ...(await importBook(archive, 'b7', library)), library };
  }

  it('makes one half of a cartridge, and one lesson of a folder, however deep', async () => {
    const { book, log, library } = await imported(CARTRIDGE);
    expect([book.name, book.halves.map((h) => h.name)]).toEqual(['Rigging', ['First half']]);
    const [lesson] = book.halves[0]?.lessons ?? [];
    expect(lesson?.parts.map((p) => [p.sort, p.name])).toEqual([
      ['reading', 'Splices'],
      ['handout', 'Chart'],
      ['web', 'Harbour office'],
      ['talk', 'Ask away'],
    ]);
    // Habit: of a page only its words are taken, in the light mark-up; pictures are lost.
    expect((lesson?.parts[0] as { text: string }).text).toBe('# Splices\n\nTake *three* strands & tuck.');
    expect(await readFile(join(library, 'Chart One.pdf'), 'utf8')).toBe('%PDF chart');
    expect(log).toEqual([
      'stepped over: Log book (assignment_xmlv1p0)',
      'stepped over: Simulator (imsbasiclti_xmlv1p0)',
      'stepped over: Check (imsqti_xmlv1p2/imscc_xmlv1p1/assessment)',
    ]);
  });

  it('gives everything a key of its own', async () => {
    const { book } = await imported(CARTRIDGE);
    const keys = book.halves.flatMap((h) => [
      h.key,
      ...h.lessons.flatMap((l) => [l.key, ...l.parts.map((p) => p.key)]),
    ]);
    expect(new Set(keys).size).toBe(keys.length);
    expect(keys.every((k) => k.startsWith('b7.'))).toBeTrue();
  });

  it('reads a parcel exactly: halves, lessons in their order, texts under their heads, readers', async () => {
    const { book, library } = await imported({
      'book.yaml':
        'code: TID 200\nname: Tides\nhalves:\n  - { key: h1, name: Autumn }\n  - { key: h2, name: Spring, loose: true }\n',
      '1/02-springs/lesson.yaml': 'key: l2\nname: Springs\nfrom: "2026-10-05"\n',
      '1/02-springs/1.md': '---\nsort: reading\nkey: r1\nname: Why\n---\n# Why\n\nThe *moon*.\n',
      '1/02-springs/2.yaml': 'sort: web\nkey: w1\nname: Tables\nto: https://tides.example/\n',
      '1/01-neaps/lesson.yaml': 'key: l1\nname: Neaps\n',
      'library/chart.pdf': '%PDF',
      'readers.yaml': '- { name: A Reader, mail: reader@marrowick.example }\n',
    });
    expect([book.id, book.code, book.halves.map((h) => [h.name, h.loose, h.lessons.map((l) => l.name)])]).toEqual([
      'b7',
      'TID 200',
      [
        ['Autumn', undefined, ['Neaps', 'Springs']],
        ['Spring', true, []],
      ],
    ]);
    expect(book.halves[0]?.lessons[1]?.parts).toEqual([
      { sort: 'reading', key: 'r1', name: 'Why', text: '# Why\n\nThe *moon*.' },
      { sort: 'web', key: 'w1', name: 'Tables', to: 'https://tides.example/' },
    ]);
    expect(book.readers).toEqual([{ name: 'A Reader', mail: 'reader@marrowick.example' }]);
    expect(await readFile(join(library, 'chart.pdf'), 'utf8')).toBe('%PDF');
  });

  it('refuses what is neither, and a parcel whose lesson can not be read', async () => {
    await expectAsync(imported({ 'notes.txt': 'x' })).toBeRejectedWithError('neither a parcel nor a cartridge');
    const spoiled = {
      'book.yaml': 'name: Tides\nhalves: [{ key: h1, name: Autumn }]\n',
      '1/01/lesson.yaml': 'key: l1\nname: Neaps\n',
      '1/01/1.yaml': 'sort: riddle\nkey: x\nname: y\n',
    };
    await expectAsync(imported(spoiled)).toBeRejected();
  });
});
