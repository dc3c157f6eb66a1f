import type { Person } from '../contract/index.ts';
import type { WholeMove } from '../db/models/index.ts';
import { testHouse, type House } from '../testing/house.ts';
import { keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import { writeDocument } from './documents.ts';
import { formOf, giveWords, toldLog } from './log-words.ts';

describe('A line of a log that nobody knows', () => {
  let house: House;
  let person: Person;
  let newMove: () => Promise<WholeMove>;
  const line = (text: string, words: string | null = null) => ({ line: text, words, item: null, key: null });

  beforeAll(async () => {
    house = await testHouse();
    person = house.person;
    const from = await house.addInstance('Old', 'quernhold');
    const to = await house.addInstance('New', 'tarnhall');
    const files = { 'start.html': '<title>Start</title><p>Start</p>' };
    ({ newMove } = await keptCourse(house.services, house.folder, files, {
      from,
      to,
      remoteId: 'c7',
      createdBy: person.id,
    }));
  }, 120_000);

  afterAll(() => house?.close());

  it('is of one form with others that differ in numbers and names of single things', () => {
    expect(formOf('T-777 IDX e12 rebuilt')).toBe('T-777 IDX … rebuilt');
    expect(formOf('T-777 IDX f9 rebuilt')).toBe(formOf('T-777  IDX e12 rebuilt'));
    expect(formOf('T-778 IDX e12 rebuilt')).not.toBe(formOf('T-777 IDX e12 rebuilt'));
    expect(formOf('')).toBe('');
  });

  it('is given words by a person, which hold for all of its form, in this log and the next, until they are taken away', async () => {
    const [one, next] = [await newMove(), await newMove()];
    await writeDocument(one.id, 'log', {
      log: [line('T-777 IDX e12'), line('T-777 IDX e13'), line('T-900 END', 'Finished.'), line('T-778 WHAT')],
    });
    await writeDocument(next.id, 'log', { log: [line('T-777 IDX f1')] });
    const words = async (id: number) => (await toldLog(id)).log.map((l) => [l.words, l.given]);
    expect(await words(one.id)).toEqual([
      [null, false],
      [null, false],
      ['Finished.', false],
      [null, false],
    ]);
    await giveWords(person, one.id, { line: 'T-777 IDX e12', words: ' The index was made anew. ' });
    expect(await words(one.id)).toEqual([
      ['The index was made anew.', true],
      ['The index was made anew.', true],
      ['Finished.', false],
      [null, false],
    ]);
    expect(await words(next.id)).toEqual([['The index was made anew.', true]]);
    // What Treenail knows is not said otherwise by anybody, and what is not in the log is nothing to give words to.
    expect(await code(giveWords(person, one.id, { line: 'T-900 END', words: 'x' }))).toBe('not-found');
    expect(await code(giveWords(person, one.id, { line: 'T-1', words: 'x' }))).toBe('not-found');
    const other: Person = { ...person, role: 'instructor' };
    expect(await code(giveWords(other, one.id, { line: 'T-777 IDX e12', words: 'x' }))).not.toBe('done');
    await giveWords(person, next.id, { line: 'T-777 IDX f1', words: '' });
    expect(await words(one.id)).toContain([null, false]);
    expect((await words(next.id))[0]).toEqual([null, false]);
  });
});
