import { momentOf } from '../../model/index.ts';
import { nodeEngine } from '../../container/node.ts';
import type { Finding } from '../../inspect/index.ts';
import { survey } from '../../inspect/index.ts';
import type { Course, Item } from '../../model/index.ts';
import { common, page, text } from '../../testing/made.ts';
import { packageOf, zipOf, type Files } from '../../testing/packages.ts';
import { workingCopy } from '../working.ts';
import { mend, question } from './testing.ts';

describe('Mends of items and files', () => {
  it('leave out items, folders and files', async () => {
    const outline = [{ id: 'f', title: 'F', children: [] }];
    expect((await mend({ outline }, { kind: 'folder-empty', groupKey: 'f' }, 'leave-out')).work.course.outline).toEqual(
      [],
    );
    expect(
      (
        await mend(
          { items: [page('p', 'p.html')], files: { 'p.html': '' } },
          { kind: 'hidden', item: 'p' },
          'leave-out',
        )
      ).work.course.items,
    ).toEqual([]);
    expect([
      ...(
        await mend({ files: { a: '1', b: '2' } }, { kind: 'file-unused', file: 'a' }, 'leave-out')
      ).work.pkg.entries.keys(),
    ]).toEqual(['b']);
    expect((await mend({}, { kind: 'points-do-not-add-up' }, 'leave-out')).why).toMatch(/nothing/);
  });

  it('change quizzes: a question less, a bank’s questions, points, guards, dates, who sees them', async () => {
    const quiz = (settings: Item['settings'], questions = [question('k'), question('l')]): Item => ({
      ...common('z'),
      kind: 'quiz',
      questions,
      settings,
    });
    const bank: Item = { ...common('b'), kind: 'bank', questions: [question('m')] };
    const settingsAfter = async (settings: Item['settings'], kind: string, id: string, params = {}, more = {}) =>
      (await mend({ items: [quiz(settings)] }, { kind, item: 'z', ...more }, id, params)).item('z')?.settings;
    const less = await mend(
      { items: [quiz({})] },
      { kind: 'question-without-key', item: 'z', part: 'question k: prompt' },
      'leave-out-question',
    );
    const z = less.item('z');
    expect(z?.kind === 'quiz' && z.questions.map((q) => q.id)).toEqual(['l']);
    expect(less.shown.after).toBe('1 question in place of 2');
    const sections = [
      { id: 's', title: 'First', parts: ['k'] },
      { id: 't', title: 'Second', parts: ['l'] },
    ];
    const sectioned = await mend(
      { items: [quiz({ sections })] },
      { kind: 'question-without-key', item: 'z', part: 'question k: prompt' },
      'leave-out-question',
    );
    expect(sectioned.item('z')?.settings.sections?.map((s) => s.title)).toEqual(['Second']);
    const filled = await mend(
      { items: [quiz({ draws: { b: '1' } }, []), bank] },
      { kind: 'quiz-without-questions', item: 'z' },
      'ask-bank',
      { bank: 'b' },
    );
    const full = filled.item('z');
    expect(full?.kind === 'quiz' && full.questions.map((q) => q.id)).toEqual(['z-m']);
    expect(full?.settings.draws).toBeUndefined();
    expect(
      (await mend({ items: [quiz({})] }, { kind: 'quiz-without-questions', item: 'z' }, 'ask-bank', { bank: 'x' })).why,
    ).toMatch(/no such bank/);
    expect(await settingsAfter({ points: 5 }, 'points-do-not-add-up', 'set-points', { points: '4' })).toEqual({
      points: 4,
    });
    expect((await mend({ items: [quiz({})] }, { kind: 'x', item: 'z' }, 'set-points', { points: '' })).why).toMatch(
      /how many/,
    );
    expect(await settingsAfter({ password: 'x', lockdown: true, attempts: 2 }, 'guarded', 'drop-guards')).toEqual({
      attempts: 2,
    });
    expect(
      await settingsAfter(
        { due: momentOf('x'), opens: momentOf('y') },
        'date-past',
        'drop-dates',
        {},
        { groupKey: 'due' },
      ),
    ).toEqual({
      opens: momentOf('y'),
    });
    expect(await settingsAfter({ hidden: true, audience: 'Instructor' }, 'hidden', 'show')).toEqual({});
    expect(await settingsAfter({ repository: 'r/x.pdf' }, 'file-in-repository', 'keep-own')).toEqual({});
    expect((await mend({}, { kind: 'hidden' }, 'show')).why).toMatch(/no item/);
  });

  it('are done to folders and further places, and nowhere else', async () => {
    const closed = { hidden: true, due: momentOf('2026-10-01') };
    const outline: Course['outline'] = [
      {
        id: 'f',
        title: 'Week 1',
        settings: closed,
        children: [
          { id: 'n1', title: 'Pay', item: 'z', children: [] },
          { id: 'n2', title: 'Caulk', item: 'y', children: [] },
        ],
      },
      { id: 'g', title: 'Pay again', item: 'z', settings: closed, children: [] },
    ];
    const items = [page('z'), page('y')];
    const shown = await mend({ items, outline }, { kind: 'hidden', node: 'f' }, 'show');
    expect(shown.work.course.outline.map((n) => n.settings)).toEqual([{ due: closed.due }, closed]);
    expect(shown.shown.after).toBe('hidden in the outline: not set');
    const undated = await mend({ items, outline }, { kind: 'date-past', node: 'g', groupKey: 'due' }, 'drop-dates');
    expect(undated.work.course.outline.map((n) => n.settings)).toEqual([closed, { hidden: true }]);
    const left = await mend({ items, outline }, { kind: 'hidden', node: 'f' }, 'leave-out');
    expect(left.work.course.outline.map((n) => n.title)).toEqual(['Pay again']);
    expect(left.work.course.items.map((i) => i.id)).toEqual(['z']);
  });

  it('make a tool a web link, and give titles', async () => {
    const tool: Item = {
      ...common('t', 'Tool'),
      kind: 'tool',
      url: 'https://x.example/',
      description: '',
      settings: { vendor: 'v' },
    };
    const linked = await mend({ items: [tool] }, { kind: 'tool', item: 't' }, 'to-web-link');
    expect(linked.item('t')).toEqual(
      jasmine.objectContaining({ kind: 'link', url: 'https://x.example/', title: 'Tool', settings: {} }),
    );
    expect(linked.shown.after).toBe('web link “Tool”');
    const named = await mend({ items: [tool] }, { kind: 'name-unfit', item: 't', groupKey: 'title' }, 'rename', {
      name: 'Short',
    });
    expect(named.item('t')?.title).toBe('Short');
  });

  it('refuse names that are none, or taken', async () => {
    const files = { 'd/a.txt': '1', 'd/b.txt': '2' };
    const renamed = (name: string) => mend({ files }, { kind: 'name-unfit', file: 'd/a.txt' }, 'rename', { name });
    for (const name of ['', ' ', '..', 'x/y', 'x\\y', 'a:b', 'a?'])
      expect((await renamed(name)).why)
        .withContext(name)
        .not.toBeNull();
    expect((await renamed('b.txt')).why).toBe('there is a file d/b.txt already');
    expect([...(await renamed('c.txt')).work.pkg.entries.keys()].sort()).toEqual(['d/b.txt', 'd/c.txt']);
  });

  it('merge a file with its twin in links, attachments and items', async () => {
    const task: Item = {
      ...common('t'),
      kind: 'assignment',
      text: text('<a href="u.pdf">u</a>'),
      settings: { attachments: ['u.pdf', 'w.pdf'] },
    };
    const item: Item = { ...common('f'), kind: 'file', file: 'u.pdf', definitionPath: 'u.pdf' };
    const files = { 'u.pdf': 'same', 'v/u 2.pdf': 'same', 'w.pdf': 'other' };
    const after = await mend({ items: [task, item], files }, { kind: 'doubled', file: 'u.pdf' }, 'merge-file', {
      into: 'v/u 2.pdf',
    });
    const t = after.item('t');
    expect(t?.kind === 'assignment' && t.text.text).toBe('<a href="v/u%202.pdf">u</a>');
    expect(t?.settings.attachments).toEqual(['v/u 2.pdf', 'w.pdf']);
    const f = after.item('f');
    expect(f?.kind === 'file' && f.file).toBe('v/u 2.pdf');
    expect([...after.work.pkg.entries.keys()].sort()).toEqual(['v/u 2.pdf', 'w.pdf']);
  });

  it('tell of files that nothing can be taken out of', async () => {
    const spoiled = await zipOf({ 'docProps/core.xml': '<x/>' });
    const files = { 'a.webp': 'x', 'b.docx': spoiled.slice(0, 60) };
    const strip = (file: string) => workingWith(files, file);
    expect(await strip('a.webp')).toMatch(/files of this type/);
    expect(await strip('b.docx')).not.toBeNull();
  });

  it('strip records of students, with the files that hold them', async () => {
    const personal = { people: 2, submissions: 1, grades: 0, posts: 0, files: ['people/list.csv'] };
    const after = await mend(
      { files: { 'people/list.csv': 'x', a: '' }, personal },
      { kind: 'people-records' },
      'strip-people',
    );
    expect(after.work.course.personal).toBeUndefined();
    expect([...after.work.pkg.entries.keys()]).toEqual(['a']);
    expect(after.shown.after).toBe('none of them');
  });
});

/** Why a file's marks could not be taken out; the file is then as it was. */
async function workingWith(files: Files, file: string): Promise<string | null> {
  const pkg = await packageOf(files);
  const course: Course = {
    title: 'T',
    origin: { format: 't', version: '1', untouched: true },
    metadata: { keywords: [] },
    outline: [],
    items: [],
    files: [...pkg.entries.values()].map((e) => ({
      path: e.path,
      size: e.size,
      mediaType: 'x/y',
      role: 'content' as const,
    })),
  };
  const finding: Finding = {
    key: 'k',
    kind: 'file-tells-of-people',
    weight: 'exposes',
    groupKey: '',
    item: null,
    node: null,
    title: file,
    part: '',
    file,
    line: null,
    evidence: '',
    spot: null,
    suggestions: [],
  };
  const match = { kind: finding.kind, groupKey: null, key: null };
  const decision = { id: 'd', match, mend: 'strip-marks', params: {}, reason: '' };
  const surveyed = await survey(pkg, course, { engine: nodeEngine });
  const work = await workingCopy(pkg, surveyed, [finding], [decision], { engine: nodeEngine });
  expect(await work.pkg.bytes(file)).toEqual(await pkg.bytes(file));
  expect(work.mended).toEqual([]);
  return work.failed[0]?.why ?? null;
}
