import { bytesSource } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { declaredLosses, profileOn } from './fit/index.ts';
import { survey } from './inspect/index.ts';
import { itemAddress, settingOf, type Item } from './model/index.ts';
import { common, courseOf, page, question, text } from './testing/made.ts';
import { memorySink, packageOf, type Files } from './testing/packages.ts';
import { openCourse, planPackage, readCourse, targetById, writePackage } from './formats/index.ts';

const QUIZ: Item = { ...common('q', 'The quiz'), kind: 'quiz', questions: [question('q1')] };
const TASK: Item = {
  ...common('t', 'The task'),
  kind: 'assignment',
  text: text(`<p>First <a href="${itemAddress('q')}">the quiz</a>.</p>`),
};
const BODY = `<html><body><p><a href="${itemAddress('q')}#top">Go on</a> or <a href="other.html">read</a></p></body></html>`;
const FILES: Files = { 'start.html': BODY, 'other.html': '<p>More</p>' };
const ITEMS: Item[] = [page('start'), page('other'), QUIZ, TASK];

async function as(id: string, items = ITEMS, files = FILES) {
  const source = await packageOf(files);
  const outline = items.map(({ id, title }) => ({ id: `node-${id}`, title, item: id, children: [] }));
  const { course } = await survey(source, courseOf(items, files, { outline }), { engine: nodeEngine });
  const { format, target } = targetById(id);
  const plan = await planPackage(format, course, target, source);
  const sink = memorySink();
  await writePackage(target, plan, source, sink, { engine: nodeEngine });
  const pkg = await openCourse(bytesSource(sink.bytes()), { engine: nodeEngine });
  const texts = async (path: string | RegExp) => {
    const found = [...pkg.entries.keys()].find((p) => (typeof path === 'string' ? p === path : path.test(p)));
    return found === undefined ? '' : new TextDecoder().decode(await pkg.bytes(found));
  };
  return { course, target, pkg, texts };
}

describe('A link to an item that is neither page nor file', () => {
  it('is known for what it is, and of an item that is not there it is broken', async () => {
    const { course } = await as('cc13');
    const [start, other, , task] = course.items;
    if (!start || !other || !task) throw new Error('the items are not there');
    expect(settingOf(start, 'leads')).toEqual({ q: 'The quiz' });
    expect(settingOf(other, 'leads')).toBeNull();
    expect(settingOf(task, 'leads')).toEqual({ q: 'The quiz' });
    const files = { 'start.html': BODY.replace('item/q', 'item/none') };
    const gone = await survey(await packageOf(files), courseOf([page('start')], files), { engine: nodeEngine });
    expect(gone.links.find((l) => l.value.startsWith('treenail:'))?.state).toBe('broken');
  });

  it('leads to its definition in a cartridge, from pages and from other definitions', async () => {
    const { texts } = await as('cc13');
    expect(await texts('start.html')).toContain('<a href="quiz/q.xml">Go on</a> or <a href="other.html">');
    expect(await texts('assignment/t.xml')).toContain('href=&quot;$IMS-CC-FILEBASE$../quiz/q.xml&quot;');
    const { texts: old } = await as('cc11');
    expect(await old('assignment/t.html')).toContain('<a href="../quiz/q.xml">the quiz</a>');
  });

  it('leads to the page that stands for it where there is one, and that is told', async () => {
    for (const id of ['cp', 'scorm12', 'scorm2004one', 'site']) {
      const { texts, course, target } = await as(id);
      expect(await texts('start.html'))
        .withContext(id)
        .toContain('<a href="quiz/q.html">Go on</a>');
      const lost = declaredLosses(course, profileOn(course, target)).find((l) => l.source === 'item:start');
      expect(lost?.settings.find((s) => s.name === 'leads')?.reason).toContain('“The quiz” is a page there');
    }
  });

  it('bears the number of its entry in a crate, and is read from there again', async () => {
    const { texts, pkg } = await as('tarnhall');
    expect(await texts(/entries\/e1\.json/)).toContain('entry:e3');
    const { course } = await readCourse(pkg);
    const again = await survey(pkg, course, { engine: nodeEngine });
    expect(again.course.items.filter((i) => i.settings.leads !== undefined).map((i) => i.title)).toEqual([
      'start',
      'The task',
    ]);
    expect(again.links.filter((l) => l.state === 'broken')).toEqual([]);
  });

  it('is taken off where the format has no address for it: the words stay, and the loss is declared', async () => {
    const { pkg, course, target } = await as('quernhold');
    for (const path of pkg.entries.keys()) {
      const said = new TextDecoder().decode(await pkg.bytes(path));
      expect(said).withContext(path).not.toContain('treenail:');
      if (path === 'start.html') expect(said).toContain('<p>Go on or <a href="other.html">read</a></p>');
    }
    const lost = declaredLosses(course, profileOn(course, target)).map((l) => l.source);
    expect(lost).toContain('item:start');
    expect(lost).toContain('item:t');
  });

  it('is taken off where what it leads to was left out, and that is declared', async () => {
    const left = ITEMS.filter((i) => i.id !== 'q');
    for (const id of ['cc13', 'tarnhall', 'scorm12', 'quernhold']) {
      const { pkg, course, target } = await as(id, left);
      for (const path of pkg.entries.keys()) {
        const said = new TextDecoder().decode(await pkg.bytes(path));
        expect(said)
          .withContext(`${id} ${path}`)
          .not.toMatch(/treenail:|href=\\?"\\?"/);
        expect(said.includes('Go on'))
          .withContext(`${id} ${path}`)
          .toBe(/start\.html|e1\.|quernhold/.test(path) || path.endsWith('texts/e1.html'));
      }
      const lost = declaredLosses(course, profileOn(course, target));
      const leads = lost.find((l) => l.source === 'item:start')?.settings.find((s) => s.name === 'leads');
      expect(leads?.outcome).withContext(id).toBe('left behind');
    }
  });

  it('follows what was a definition of a cartridge when that becomes something else', async () => {
    const first = await as('cc13');
    const { course: read } = await readCourse(first.pkg);
    const { course } = await survey(first.pkg, read, { engine: nodeEngine });
    expect(course.items.find((i) => i.id === 'start')?.settings).toEqual({ leads: { q: 'The quiz' } });
    const { format, target } = targetById('site');
    const plan = await planPackage(format, course, target, first.pkg);
    const start = plan.find((e) => e.path === 'start.html');
    expect(start && 'make' in start ? await start.make() : '').toContain('<a href="quiz/q.html">Go on</a>');
  });
});
