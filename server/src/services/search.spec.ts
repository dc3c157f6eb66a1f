import { Copy, CourseRow, Instance } from '../db/models/index.ts';
import { testDatabase } from '../testing/database.ts';
import { indexItems } from './kept-items.ts';
import { search } from './search.ts';

describe('The finder', () => {
  let drop: () => Promise<void>;
  let courseId: number;
  const copyOf = (n: number) =>
    Copy.create({
      courseId,
      fileName: `${n}.quern`,
      code: 'BTB 210',
      section: '01',
      term: 'T',
      title: 'Wooden Boat Repair',
      instanceName: 'Live',
      format: 'Quernhold archive 4',
      size: 1,
      sha256: `${n}`.repeat(64).slice(0, 64),
      items: 1,
      keptAt: new Date(),
      sourceKey: `k${n}`,
    });
  const course = (title: string) => ({
    title: 'Wooden Boat Repair',
    origin: { format: 'quernhold', version: '4', untouched: true },
    metadata: { keywords: [] },
    outline: [],
    files: [],
    items: [
      { kind: 'page' as const, id: 'p1', title, place: 'p', file: 'p', settings: {} },
      {
        kind: 'quiz' as const,
        id: 'q1',
        title: 'Knots and Whippings',
        definitionPath: null,
        settings: {},
        questions: [
          {
            id: 'a',
            title: '',
            type: 'essay' as const,
            prompt: { format: 'html' as const, text: '<p>Why is a <b>sheet bend</b> doubled?</p>' },
            choices: [],
            answers: [],
            points: 1,
            feedback: {},
          },
        ],
      },
    ],
  });

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    const files = await Instance.findOne({ where: { platform: 'files' }, rejectOnEmpty: true });
    const row = { code: 'BTB 210', section: '01', term: 'T', title: 'Wooden Boat Repair', owner: '', size: 1 };
    ({ id: courseId } = await CourseRow.create({ ...row, instanceId: files.id, remoteId: 'c', changedAt: new Date() }));
  });
  afterAll(() => drop());

  const items = async (words: string) =>
    (await search(words)).filter((f) => f.kind === 'item').map((f) => [f.title, f.detail, f.link]);

  it('finds items, quizzes and questions of what is kept, small and capital letters alike', async () => {
    const first = await copyOf(1);
    await indexItems(first, course('Parts of a Clinker Hull') as never);
    const where = 'BTB 210-01 Wooden Boat Repair';
    expect(await items('clinker')).toEqual([
      ['Parts of a Clinker Hull', `page in ${where}`, `/bench?copy=${first.id}&item=p1`],
    ]);
    expect((await items('WHIPPINGS'))[0]?.[1]).toBe(`quiz in ${where}`);
    expect(await items('sheet bend')).toEqual([
      ['Why is a sheet bend doubled?', `question in ${where}`, `/bench?copy=${first.id}&item=q1`],
    ]);
    expect(await items('%')).toEqual([]);
  });

  it('finds each once, in the copy that was kept last, and nothing of one that was removed', async () => {
    const second = await copyOf(2);
    await indexItems(second, course('Steaming a plank') as never);
    expect(await items('clinker')).toEqual([]);
    expect((await items('plank')).length).toBe(1);
    await second.update({ removedAt: new Date() });
    expect(await items('plank')).toEqual([]);
  });
});
