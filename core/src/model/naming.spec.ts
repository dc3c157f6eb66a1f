import fc from 'fast-check';
import { Refusal } from './problem.ts';
import { NAMING_RULE, checkNamingRule, guessNamed, nameByRule, toldApart, type Named } from './naming.ts';

const date = new Date('2026-11-22T16:40:00Z');
const boats: Named = { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Wooden Boat Repair' };

describe('The naming rule', () => {
  it('names by code, section, term, first words and date', () => {
    expect(nameByRule(boats, date, 'imscc')).toBe('BTB210-01_2026-Autumn_Wooden-Boat-Repair_2026-11-22.imscc');
  });

  it('leaves nothing that a file system minds, whatever a course is called', () => {
    const sly = fc.string({
      unit: fc.constantFrom('.', '-', '_', '/', '\\', ' ', 'a', '😀', '𐘙', '水'),
      maxLength: 300,
    });
    const word = fc.oneof(fc.string({ unit: 'grapheme', maxLength: 40 }), sly);
    fc.assert(
      fc.property(word, word, word, word, (code, section, term, title) => {
        const name = nameByRule({ code, section, term, title }, date, 'zip');
        expect(name).toMatch(/^[\p{L}\p{N}][\p{L}\p{N}_.-]*\.zip$/u);
        expect(name).not.toContain('..');
        expect(name.isWellFormed()).toBeTrue();
        expect(Buffer.byteLength(name)).toBeLessThanOrEqual(204);
      }),
      { numRuns: 1000 },
    );
    const titled = (title: string) => nameByRule({ code: '', section: '', term: '', title }, date, 'zip', '{title}');
    expect(titled('Tides... and streams')).toBe('Tides.-and-streams.zip');
    expect(titled('What next?..')).toBe('What-next.zip');
    expect(titled('../..')).toBe('course.zip');
    // Sixty-six signs of three bytes each.
    expect(titled('水'.repeat(100))).toBe(`${'水'.repeat(66)}.zip`);
  });

  it('can be another, and leaves no trace of an empty field', () => {
    expect(nameByRule(boats, date, 'zip', '{date}_{title:2}_{code}')).toBe('2026-11-22_Wooden-Boat_BTB210.zip');
    expect(nameByRule({ ...boats, code: '', section: '', term: '' }, date, 'zip')).toBe(
      'Wooden-Boat-Repair_2026-11-22.zip',
    );
  });

  it('is refused where it has no field, an unknown one, or a stray brace', () => {
    expect(checkNamingRule(NAMING_RULE)).toBe(NAMING_RULE);
    for (const rule of ['course', '{owner}', '{code', '{code}}']) {
      expect(() => checkNamingRule(rule))
        .withContext(rule)
        .toThrowMatching((e) => e instanceof Refusal && e.problem.code === 'naming-rule');
    }
  });

  it('is read back from a name that was made by it', () => {
    expect(guessNamed(nameByRule(boats, date, 'imscc'), 'Wooden Boat Repair')).toEqual(boats);
    expect(guessNamed('export (3).zip', 'EST 120-02 Saltmarsh Ecology')).toEqual({
      code: 'EST 120',
      section: '02',
      term: '',
      title: 'Saltmarsh Ecology',
    });
    expect(guessNamed('x.zip', 'Knots')).toEqual({ code: '', section: '', term: '', title: 'Knots' });
  });
});

describe('Names that are told apart', () => {
  it('say what the file is, and never meet another', () => {
    const taken = new Set(['a.quern', 'a_part.quern', 'a-2.quern']);
    const isTaken = (name: string) => taken.has(name);
    expect(toldApart('a.quern', [], isTaken)).toBe('a-3.quern');
    expect(toldApart('a.quern', ['part'], isTaken)).toBe('a_part-2.quern');
    expect(toldApart('a.tar.gz', ['with-personal-data'])).toBe('a_with-personal-data.tar.gz');
    expect(toldApart('b.zip', ['for-Marrowick New'])).toBe('b_for-Marrowick-New.zip');
    const name = fc.stringMatching(/^[a-c]{1,2}\.zip$/);
    fc.assert(
      fc.property(fc.array(fc.tuple(name, fc.boolean()), { maxLength: 30 }), (asked) => {
        const given = new Set<string>();
        for (const [one, personal] of asked)
          given.add(toldApart(one, personal ? ['personal'] : [], (n) => given.has(n)));
        expect(given.size).toBe(asked.length);
      }),
    );
  });
});
