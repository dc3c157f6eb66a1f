import type { Package } from '../../container/index.ts';
import { child, descendants, elements, parseXml, textOf, type XmlElement } from '../../markup/index.ts';
import type { Course, Item } from '../../model/index.ts';
import { common, courseOf, page, question } from '../../testing/made.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import { targetById } from '../index.ts';

const FILES: Files = {
  'a.html': '<html><body><h1>Oak</h1></body></html>',
  'plain.html': 'No body at all',
  'tracked.html': '<body><script src="api.js"></script></body>',
  'm/rope.pdf': 'pdf',
  'm/old name é.png': 'png',
};
const tracked: Item = { ...page('tracked', 'tracked.html'), settings: { tracked: true } };
const quiz: Item = { ...common('q/1 <x>', 'Check & see'), kind: 'quiz', questions: [question('ask')] };
const file: Item = { ...common('f', 'Rope'), kind: 'file', file: 'm/rope.pdf', definitionPath: 'm/rope.pdf' };
const link: Item = { ...common('l', 'Tides'), kind: 'link', url: 'https://tides.example/?a=1&b=2' };

async function written(target: string, course: Course, files: Files = FILES) {
  const source: Package = await packageOf(files);
  const found = targetById(target);
  const plan = await found.format.plan(course, found.target, source);
  const texts = new Map<string, string>();
  const copies = new Map<string, string>();
  for (const entry of plan) {
    if ('copy' in entry) copies.set(entry.path, entry.copy);
    else texts.set(entry.path, 'text' in entry ? entry.text : await entry.make());
  }
  const root = parseXml(texts.get('imsmanifest.xml') ?? '', 'imsmanifest.xml');
  const resources = new Map(
    elements(child(root, 'resources'), 'resource').map((r) => [r.attrs['identifier'] ?? '', r] as const),
  );
  return { plan, texts, copies, root, resources };
}
const typeOf = (resource: XmlElement | undefined) => resource?.attrs['scormtype'] ?? resource?.attrs['scormType'];
const filesIn = (resource: XmlElement | undefined) => elements(resource, 'file').map((f) => f.attrs['href']);

describe('A course as a package that plays', () => {
  const course = courseOf([page('a', 'a.html'), page('plain', 'plain.html'), tracked, quiz, file, link], FILES);

  for (const target of ['scorm12', 'scorm2004']) {
    it(`gives every page and quiz a SCO of its own (${target})`, async () => {
      const { resources } = await written(target, course);
      expect([...resources].map(([id, r]) => [id, typeOf(r)])).toEqual(
        jasmine.arrayWithExactContents([
          ['a', 'sco'],
          ['plain', 'sco'],
          ['tracked', 'sco'],
          ['q/1 <x>', 'sco'],
          ['l', 'sco'],
          ['f', 'asset'],
          ['file_1', 'asset'],
          ['treenail-runtime', 'asset'],
        ]),
      );
      // What no item is comes along all the same, under a name that a URI can have.
      expect(filesIn(resources.get('file_1'))).toEqual(['m/old%20name%20%C3%A9.png']);
    });
  }

  it('puts one script at the end of a page, and leaves a page alone that reports already', async () => {
    const { texts, copies } = await written('scorm12', course);
    expect(texts.get('a.html')).toBe(
      '<html><body><h1>Oak</h1><script src="play/runtime.js" data-treenail="player"></script></body></html>',
    );
    expect(texts.get('plain.html')).toBe(
      'No body at all<script src="play/runtime.js" data-treenail="player"></script>',
    );
    expect(texts.has('tracked.html')).toBeFalse();
    expect([...copies.keys()].sort()).toEqual(['m/old name é.png', 'm/rope.pdf', 'tracked.html']);
    expect(texts.get('play/runtime.js')).toContain('LMSInitialize');
  });

  it('writes pages as UTF-8 and says so, whatever they were', async () => {
    const latin = Buffer.from('<html><head><meta charset="iso-8859-1"></head><body>Cáit</body></html>', 'latin1');
    const files = { 'a.html': latin };
    const { texts } = await written('scorm12', courseOf([page('a', 'a.html')], files), files);
    expect(texts.get('a.html')).toContain('<meta charset="utf-8">');
    expect(texts.get('a.html')).toContain('Cáit<script');
  });

  it('takes the last end of the body, and only that', async () => {
    const files = { 'a.html': '<body><pre>&lt;/body></pre><!-- </body> --><p>x</p></BODY >\n<!-- end -->' };
    const { texts } = await written('scorm12', courseOf([page('a', 'a.html')], files), files);
    const made = texts.get('a.html') ?? '';
    expect(made.match(/<script/g)?.length).toBe(1);
    expect(made).toContain('<p>x</p><script src="play/runtime.js" data-treenail="player"></script></BODY >');
  });

  it('finds free places for what it adds, and a script from any depth', async () => {
    const files = { 'play/runtime.js': 'theirs', 'u/1/a.html': '<body>x</body>', 'quiz/q.html': 'theirs' };
    const own: Item = { ...common('q', 'Own'), kind: 'quiz', questions: [question('one')] };
    const { texts, copies, resources } = await written(
      'scorm12',
      courseOf([page('a', 'u/1/a.html'), own], files),
      files,
    );
    expect(copies.get('play/runtime.js')).toBe('play/runtime.js');
    expect(texts.get('u/1/a.html')).toContain('<script src="../../play/runtime-2.js" data-treenail="player">');
    expect(resources.get('q')?.attrs['href']).toBe('quiz/q-2.html');
    expect(texts.get('quiz/q-2.html')).toContain('src="../play/runtime-2.js"');
  });

  it('writes a quiz so that no text of it can end its key', async () => {
    const sly = question('sly', {
      type: 'short answer',
      choices: [],
      answers: [{ text: '</script><img src=x onerror=alert(1)>', caseSensitive: false, match: 'equal' }],
    });
    const { texts, resources } = await written(
      'scorm12',
      courseOf([{ ...common('q', 'T</title><script>'), kind: 'quiz', questions: [sly] }], {}),
      { 'a.txt': 'x' },
    );
    const made = texts.get(decodeURIComponent(resources.get('q')?.attrs['href'] ?? '')) ?? '';
    const key = /id="quiz-key">([\s\S]*?)<\/script>/.exec(made)?.[1] ?? '';
    expect(JSON.stringify(JSON.parse(key))).toContain('</script><img src=x onerror=alert(1)>');
    expect(made).not.toContain('<img src=x');
    expect(made).toContain('<title>T&lt;/title&gt;&lt;script&gt;</title>');
  });

  it('says what each edition has words for', async () => {
    const set: Item = {
      ...page('a', 'a.html'),
      settings: {
        masteryScore: 80,
        launchData: 'seed=7&x',
        timeAllowed: 'PT30M',
        timeLimitAction: 'exit,message',
        attempts: 2,
        completionThreshold: '0.75',
        prerequisites: 'a&b',
      },
    };
    const outlined: Course = {
      ...courseOf([set], FILES),
      outline: [{ id: 'n', title: 'Oak & ash', item: 'a', children: [] }],
    };
    const said = async (target: string) => {
      const { root } = await written(target, outlined);
      const found = descendants(root).filter((e) => !['item', 'title'].includes(e.name));
      const value = (name: string) => {
        const element = found.find((e) => e.name === name);
        return element && (textOf(element) || element.attrs);
      };
      return {
        title: descendants(root)
          .filter((e) => e.name === 'item')
          .map((e) => textOf(child(e, 'title'))),
        value,
      };
    };
    const old = await said('scorm12');
    expect(old.title).toEqual(['Oak & ash']);
    expect([
      old.value('masteryscore'),
      old.value('datafromlms'),
      old.value('maxtimeallowed'),
      old.value('prerequisites'),
      old.value('timelimitaction'),
    ]).toEqual(['80', 'seed=7&x', '0000:30:00', 'a&b', 'exit,message']);
    const now = await said('scorm2004');
    expect([now.value('minNormalizedMeasure'), now.value('dataFromLMS')]).toEqual(['0.8', 'seed=7&x']);
    expect(now.value('limitConditions')).toEqual({ attemptLimit: '2', attemptAbsoluteDurationLimit: 'PT30M' });
    expect(now.value('timeLimitAction')).toBe('exit,message');
    expect(now.value('completionThreshold')).toEqual({ minProgressMeasure: '0.75', completedByMeasure: 'true' });
  });

  it('is one SCO for all of it where that is chosen, with the outline beside it', async () => {
    const { texts, resources, root } = await written('scorm2004one', {
      ...course,
      outline: [{ id: 'w', title: 'Week 1', children: [{ id: 'n', title: 'Oak', item: 'a', children: [] }] }],
    });
    const scos = [...resources].filter(([, r]) => typeOf(r) === 'sco').map(([id]) => id);
    expect(scos).toEqual(['treenail-player']);
    const player = resources.get('treenail-player');
    expect(player?.attrs['href']).toBe('play/course.html');
    expect(filesIn(player)).toContain('m/rope.pdf');
    const stops = /id="stops">([\s\S]*?)<\/script>/.exec(texts.get('play/course.html') ?? '')?.[1] ?? '';
    const titles = (JSON.parse(stops) as { title: string; href?: string }[]).map((s) => [
      s.title,
      s.href !== undefined,
    ]);
    // First the outline as its author built it, then what stands in no outline.
    expect(titles.slice(0, 2)).toEqual([
      ['Week 1', false],
      ['Oak', true],
    ]);
    expect(titles.length).toBe(2 + course.items.length - 1);
    expect(child(root, 'organizations')?.attrs['default']).toBe('whole');
  });

  describe('of the other edition', () => {
    const old = {
      ...courseOf([tracked], FILES),
      origin: { format: 'scorm', version: '1.2', untouched: true },
    };

    it('holds what reports in a page that speaks for it, and is read as what it holds', async () => {
      const { texts, resources, plan } = await written('scorm2004', old);
      expect(resources.get('tracked')?.attrs['href']).toBe('play/object/tracked.html');
      expect(texts.get('play/object/tracked.html')).toContain('data-object="../../tracked.html"');
      expect(texts.get('play/bridge.js')).toContain('API_1484_11');
      const files = Object.fromEntries(
        plan.map((e) => [e.path, 'copy' in e ? (FILES[e.copy] ?? '') : (texts.get(e.path) ?? '')]),
      );
      const { course: again } = await targetById('scorm2004').format.read(await packageOf(files));
      expect(again.items.find((i) => i.id === 'tracked')).toEqual(
        jasmine.objectContaining({ kind: 'page', file: 'tracked.html', settings: { tracked: true } }),
      );
    });

    it('needs no such page in its own, nor where it does not report', async () => {
      const plain = { ...old, items: [page('a', 'a.html')] };
      for (const [target, made] of [
        ['scorm12', { ...old, origin: { ...old.origin, untouched: false } }],
        ['scorm2004', plain],
      ] as const) {
        const { texts } = await written(target, made);
        expect([...texts.keys()].filter((path) => path.startsWith('play/object'))).toEqual([]);
      }
    });
  });

  it('keeps the sequencing of earlier editions of 2004: only what the 4th says otherwise is exchanged', async () => {
    const manifest = `<?xml version="1.0" encoding="UTF-16"?><manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_v1p3" xmlns:imsss="http://www.imsglobal.org/xsd/imsss"><metadata><schema>ADL SCORM</schema><schemaversion>2004 3rd Edition</schemaversion></metadata><organizations default="o"><organization identifier="o"><title>Course</title><item identifier="i" identifierref="r"><title>Test</title><adlcp:completionThreshold>0.75</adlcp:completionThreshold><imsss:sequencing><imsss:rollupRules rollupObjectiveSatisfied="false"/></imsss:sequencing></item></organization></organizations><resources><resource identifier="r" type="webcontent" adlcp:scormType="sco" href="a.html"><file href="a.html"/></resource></resources></manifest>`;
    const files = { ...FILES, 'imsmanifest.xml': manifest };
    const { format, target } = targetById('scorm2004');
    const { course: read } = await format.read(await packageOf(files));
    expect(target.passthrough?.(read.origin)).toBe('exchanged');
    const { texts, copies } = await written('scorm2004', read, files);
    expect(texts.get('imsmanifest.xml')).toBe(
      manifest
        .replace('UTF-16', 'UTF-8')
        .replace('3rd', '4th')
        .replace(
          '<adlcp:completionThreshold>0.75</adlcp:completionThreshold>',
          '<adlcp:completionThreshold completedByMeasure="true" minProgressMeasure="0.75"/>',
        ),
    );
    expect(copies.size).toBe(Object.keys(files).length - 1);
  });

  it('looks through the files of a large course once, not once for every item', async () => {
    const many = 4000;
    const files = Object.fromEntries(Array.from({ length: many }, (_, i) => [`m/${i}.pdf`, 'x']));
    const links = Array.from({ length: many }, (_, i): Item => ({ ...link, id: `l${i}`, title: `Link ${i}` }));
    const large = courseOf(links, files);
    let looked = 0;
    const counted = new Proxy(large.files, {
      get(target, name, receiver) {
        if (typeof name === 'string' && /^\d+$/.test(name)) looked++;
        return Reflect.get(target, name, receiver) as unknown;
      },
    });
    const { texts } = await written('scorm12', { ...large, files: counted }, files);
    expect(texts.size).toBe(many + 2);
    expect(looked).toBeLessThan(20 * many);
  });
});
