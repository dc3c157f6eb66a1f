import { provideHttpClient } from '@angular/common/http';
import { provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { NO_REDATING, Refusal, ZipWriter, targetById } from '@treenail/core';
import { firstValueFrom } from 'rxjs';
import { BenchService } from './bench.service';
import { folderSources } from './dropped';
import type { Source } from './messages';

const MANIFEST = `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1"><metadata><schema>IMS Common Cartridge</schema><schemaversion>1.1.0</schemaversion></metadata>
<organizations><organization identifier="o"><item identifier="r"><item identifier="i" identifierref="p"><title>A page</title></item></item></organization></organizations>
<resources><resource identifier="p" type="webcontent" href="a.html"><file href="a.html"/></resource></resources></manifest>`;

async function fileOf(files: Record<string, string>, name = 'x.imscc'): Promise<File> {
  const parts: BlobPart[] = [];
  const writer = new ZipWriter({ write: async (bytes) => void parts.push(new Uint8Array(bytes)) });
  for (const [path, text] of Object.entries(files)) await writer.add(path, new TextEncoder().encode(text));
  await writer.finish();
  return new File(parts, name);
}

const sourceOf = (file: File): Source => ({ name: file.name, size: file.size, file });

describe('The Bench', () => {
  let bench: BenchService;
  beforeEach(() => {
    TestBed.configureTestingModule({ providers: [BenchService, provideHttpClient(), provideHttpClientTesting()] });
    bench = TestBed.inject(BenchService);
  });

  it('reads a dropped cartridge in its worker, previews it and converts it to the other version and back', async () => {
    const file = await fileOf({ 'imsmanifest.xml': MANIFEST, 'a.html': '<p>Words</p>' });
    const opened = await bench.open(sourceOf(file));
    expect([opened.label, opened.inventory.items, opened.targets.map((t) => t.id)]).toEqual([
      'Common Cartridge 1.1',
      1,
      [
        'cc12',
        'cc13',
        'thin13',
        'scorm12',
        'scorm12one',
        'scorm2004',
        'scorm2004one',
        'cp',
        'quernhold',
        'oxlea',
        'tarnhall',
        'site',
      ],
    ]);
    const item = opened.course.items[0];
    if (!item) throw new Error('no item');
    const preview = await firstValueFrom(bench.inside.preview(item, { learner: false, question: '', mended: false }));
    expect(preview.form === 'page' && preview.html.includes('Words')).toBeTrue();
    const { blob, fileName } = await bench.convert('cc13');
    expect(fileName).toBe('x_cc13.imscc');
    const again = await bench.open(sourceOf(new File([blob], fileName)));
    expect([again.label, again.targets.map((t) => t.id)]).toEqual([
      'Common Cartridge 1.3',
      [
        'cc11',
        'cc12',
        'thin13',
        'scorm12',
        'scorm12one',
        'scorm2004',
        'scorm2004one',
        'cp',
        'quernhold',
        'oxlea',
        'tarnhall',
        'site',
      ],
    ]);
  });

  const HALVES = MANIFEST.replace(
    '<item identifier="i" identifierref="p"><title>A page</title></item>',
    '<item identifier="f1"><title>Autumn half</title><item identifier="i" identifierref="p"><title>A page</title></item></item>' +
      '<item identifier="f2"><title>Spring half</title><item identifier="j" identifierref="q"><title>B page</title></item></item>',
  ).replace(
    '</resources>',
    '<resource identifier="q" type="webcontent" href="b.html"><file href="b.html"/></resource></resources>',
  );
  const AUTUMN = { name: 'Autumn 2026', from: '2026-09-14', to: '2026-12-18', breaks: [] };
  const SPRING = { name: 'Spring 2027', from: '2027-01-11', to: '2027-04-09', breaks: [] };
  const HOUSE = { terms: [AUTUMN, SPRING], closed: [], zone: 'Europe/London' };
  const textIn = async (blob: Blob, title: string) => {
    const again = await bench.open(sourceOf(new File([blob], 'again.imscc')));
    const item = again.course.items.find((i) => i.title === title);
    if (!item) throw new Error(`no ${title}`);
    const preview = await firstValueFrom(bench.inside.preview(item, { learner: false, question: '', mended: false }));
    return preview.form === 'page' ? preview.html : '';
  };

  it('knows the dates of what lies here, and writes what is converted with those that are used', async () => {
    const file = await fileOf({ 'imsmanifest.xml': MANIFEST, 'a.html': '<p>Hand it in by Friday 18 September.</p>' });
    await bench.open(sourceOf(file));
    const data = await firstValueFrom(bench.dates(HOUSE));
    expect(data.written.map(({ finding }) => finding.groupKey)).toEqual(['Friday 18 September']);
    // They are none of the findings that are tidied.
    await bench.tidy();
    expect(bench.tidied()?.findings.some((f) => f.kind === 'date-in-words')).toBeFalse();
    bench.redate({ ...NO_REDATING, rule: { is: 'term', from: AUTUMN, to: SPRING }, allTexts: true }, HOUSE.zone);
    expect(await textIn((await bench.convert('cc13')).blob, 'A page')).toContain('by Friday 15 January.');
  });

  it('splits what lies here where it is told to, and joins the parts again', async () => {
    const files = { 'imsmanifest.xml': HALVES, 'a.html': '<p>See <a href="b.html">b</a></p>', 'b.html': '<p>b</p>' };
    await bench.open(sourceOf(await fileOf(files)));
    const { proposals } = await firstValueFrom(bench.cuts(HOUSE));
    const [first] = proposals;
    if (!first) throw new Error('nothing is proposed');
    expect([first.by, first.plan.parts.map((p) => p.term?.name)]).toEqual(['names', ['Autumn 2026', 'Spring 2027']]);
    const parts = await firstValueFrom(bench.parts(first.plan));
    expect(parts.map((p) => [p.items.length, p.dangling.length])).toEqual([
      [1, 1],
      [1, 0],
    ]);
    const [one, other] = await bench.split(first.plan, 'cc13');
    if (!one || !other) throw new Error('two parts were asked for');
    expect([one.losses, other.losses]).toEqual([[], []]);
    // What a format does not hold is told with what was made.
    const [thin] = await bench.split(first.plan, 'thin13');
    expect(thin?.losses.map((loss) => loss.title)).toContain('A page');
    const opened = await bench.open(sourceOf(new File([one.blob], one.fileName)));
    expect(opened.course.items.map((i) => i.title)).toEqual(['A page']);
    const common = await bench.doubles(sourceOf(new File([other.blob], other.fileName)));
    expect([common.items, common.doubles]).toEqual([1, []]);
    const whole = await bench.join({ title: 'Whole', doubles: 'first', of: {}, folders: 'joined' }, 'cc13');
    const joined = await bench.open(sourceOf(new File([whole.blob], whole.fileName)));
    expect([joined.course.title, joined.course.items.map((i) => i.title)]).toEqual(['Whole', ['A page', 'B page']]);
    await expectAsync(firstValueFrom(bench.parts({ ...first.plan, of: {} }))).toBeRejectedWithError(Refusal);
  });

  it('searches, tidies what lies here, and converts what was decided', async () => {
    const file = await fileOf({
      'imsmanifest.xml': MANIFEST,
      'a.html': '<p>Cotton words, <a href="gone.html">lost</a> <i class="ico-anchor"></i></p>',
    });
    await bench.open(sourceOf(file));
    const found = await firstValueFrom(bench.inside.search('cotton'));
    expect(found.hits.map((h) => h.excerpt?.text)).toEqual(['Cotton words, lost']);
    const related = await firstValueFrom(bench.inside.relations());
    expect(related.pointsAt).toEqual({});
    await bench.compare(sourceOf(file)).then(({ comparison }) => expect(comparison.totals.whole).toBe(1));
    const asked = { mend: 'unlink', params: {}, reason: '' };
    await bench.tidy();
    await firstValueFrom(bench.tidying.choose({ leftOut: [], hiddenUntil: null }));
    const { profile } = targetById('cc11').target;
    const titleLength = { at: 3, reason: 'Titles are short' };
    const strict = { ...profile, limits: { ...profile.limits, titleLength } };
    const seen = await firstValueFrom(bench.destine(strict));
    expect(seen.kinds.map((k) => k.id)).toContain('name-unfit');
    expect((await firstValueFrom(bench.destine(null))).kinds.map((k) => k.id)).not.toContain('name-unfit');
    const [broken, icon] = bench.tidied()?.findings ?? [];
    if (!broken || !icon) throw new Error('two findings were expected');
    expect([broken.kind, icon.kind]).toEqual(['link-broken', 'icon-font']);
    const tried = await firstValueFrom(bench.tidying.beforeAfter({ key: broken.key, ...asked }));
    expect(tried.after).toContain('words, lost');
    const match = { kind: broken.kind, groupKey: null, key: broken.key };
    const decided = await firstValueFrom(bench.tidying.decide({ match, ...asked }));
    expect(decided.decisions.length).toBe(1);
    const given = await firstValueFrom(bench.tidying.give(new File(['GIF89a'], 'map.gif')));
    const own = { key: broken.key, mend: 'give-file', params: { given } };
    expect((await firstValueFrom(bench.tidying.beforeAfter(own))).after).toContain('href="given/map.gif"');
    const [first] = bench.surveyed()?.course.items ?? [];
    if (!first) throw new Error('no item');
    const view = { learner: false, question: '' };
    expect(bench.inside.mendable()).toBeTrue();
    const came = await firstValueFrom(bench.inside.preview(first, { ...view, mended: false }));
    const after = await firstValueFrom(bench.inside.preview(first, { ...view, mended: true }));
    expect([came, after].map((p) => p.form === 'page' && /<a /.test(p.html))).toEqual([true, false]);
    const { blob } = await bench.convert('cc13');
    const again = await bench.open(sourceOf(new File([blob], 'mended.imscc')));
    const page = again.course.items[0];
    if (!page) throw new Error('no item');
    const shown = await firstValueFrom(
      bench.inside.preview(page, { learner: false, question: 'cotton', mended: false }),
    );
    expect(shown.form === 'page' && shown.html).toContain('<mark>Cotton</mark> words, lost');
  });

  it('refuses the wrong file with what to do, and reads the next one', async () => {
    const refusal = await bench.open(sourceOf(new File(['%PDF'], 'x.pdf'))).then(
      () => null,
      (error: unknown) => error,
    );
    expect(refusal instanceof Refusal && refusal.problem.code).toBe('not-a-zip');
    expect(
      (await bench.open(sourceOf(await fileOf({ 'imsmanifest.xml': MANIFEST, 'a.html': 'x' })))).inventory.items,
    ).toBe(1);
  });

  it('packs a loose folder, reads it as a package, and glances at others beside it', async () => {
    const loose = (path: string, text: string) => ({ path, file: new File([text], path.split('/').pop() ?? path) });
    const [folder] = folderSources('ropes', [
      loose('imsmanifest.xml', MANIFEST),
      loose('a.html', '<p>Words</p>'),
      loose('.DS_Store', 'x'),
    ]);
    if (!folder) throw new Error('no source');
    const opened = await bench.open(folder);
    expect([opened.label, opened.inventory.items, opened.notes.length]).toEqual(['Common Cartridge 1.1', 1, 0]);
    const other = await bench.glance(sourceOf(await fileOf({ 'one.html': '<title>One</title>' }, 'one.zip')));
    expect([other.label, other.items]).toEqual(['Folder of pages', 1]);
    const preview = await firstValueFrom(
      bench.inside.preview(opened.course.items[0] as never, { learner: false, question: '', mended: false }),
    );
    expect(preview.form).toBe('page');
    const again = await bench.open(sourceOf(new File([opened.blob ?? ''], 'packed.zip')));
    expect(again.label).toBe('Common Cartridge 1.1');
  });

  it('takes a folder of packages for a pile, and one with a page or a manifest for a course', () => {
    const files = (...paths: string[]) => paths.map((path) => ({ path, file: new File(['x'], path) }));
    const names = (...paths: string[]) => folderSources('f', files(...paths)).map((s) => s.name);
    expect(names('a.imscc', 'b/c.zip', 'Thumbs.db')).toEqual(['a.imscc', 'b/c.zip']);
    expect(names('a.imscc', 'index.html')).toEqual(['f']);
    expect(names('imsmanifest.xml', 'inner.zip')).toEqual(['f']);
    expect(names('notes.txt')).toEqual(['f']);
  });
});
