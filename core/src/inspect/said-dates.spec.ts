import fc from 'fast-check';
import { saidBy, saidDates, tongueOf } from './said-dates.ts';

/** Phrases that are found, each with what is read of it: day, month, year and weekday, or a week. */
function read(source: string, language = 'en'): string[] {
  return [...saidDates(source, language, true)].map(({ phrase, said }) => {
    if (said === null) return `${phrase} = ?`;
    if (said.is === 'week') return `${phrase} = week ${said.week}`;
    return `${phrase} = ${[said.day, said.month, said.year ?? '-', said.weekday ?? '-'].join(' ')}`;
  });
}

describe('Dates in texts', () => {
  it('are found as people write them, and their times left alone', () => {
    expect(read('Hand it in by Friday 18 September.')).toEqual(['Friday 18 September = 18 9 - 5']);
    expect(read('<p>On the 18th of Sept. 2026 at 17:00, and Fri, 25 Sep</p>')).toEqual([
      '18th of Sept. 2026 = 18 9 2026 -',
      'Fri, 25 Sep = 25 9 - 5',
    ]);
    expect(read('until 12.10.2026 or 2026-10-14')).toEqual(['12.10.2026 = 12 10 2026 -', '2026-10-14 = 14 10 2026 -']);
    expect(read('We sail on September 22, and on OCTOBER 3rd, 2026.')).toEqual([
      'September 22 = 22 9 - -',
      'OCTOBER 3rd, 2026 = 3 10 2026 -',
    ]);
    expect(read('Read it in week 3; weeks 4 too.')).toEqual(['week 3 = week 3', 'weeks 4 = week 4']);
  });

  it('in digits alone are dates only where the words around them speak of time', () => {
    expect(read('due 3/10 before noon')).toEqual(['3/10 = 3 10 - -']);
    expect(read('Mix 1/2 cup of tar. She got 3/10 for it. Version 1.2 is out.')).toEqual([]);
  });

  it('are shown, and not read, where they are more than one or mark-up stands within', () => {
    expect(read('from 3 to 7 October')).toEqual(['3 to 7 October = ?']);
    expect(read('by Friday <b>18 September</b>')).toEqual(['Friday <b>18 September = ?']);
    expect(read('by 18 Sep&nbsp;2026')).toEqual(['18 Sep&nbsp;2026 = ?']);
  });

  it('are read in the language of the text, and in English beside it', () => {
    expect(read('التسليم يوم الجمعة 18 سبتمبر', 'ar')).toEqual(['الجمعة 18 سبتمبر = 18 9 - 5']);
    expect(read('Abgabe bis Freitag, 18. September 2026', 'de-AT')).toEqual([
      'Freitag, 18. September 2026 = 18 9 2026 5',
    ]);
    expect(read('à rendre avant le vendredi 18 septembre', 'fr')).toEqual(['vendredi 18 septembre = 18 9 - 5']);
    expect(read('antes del 18 de septiembre de 2026', 'es')).toEqual(['18 de septiembre de 2026 = 18 9 2026 -']);
    expect(read('hand in by 18 September', 'de')).toEqual(['18 September = 18 9 - -']);
    expect([tongueOf('pl'), tongueOf(undefined), tongueOf('DE_at')]).toEqual(['en', 'en', 'de']);
  });

  it('are not sought in what is no text: mark-up, scripts, styles', () => {
    expect(read('<img src="18 September.png" alt=""><script>"by 18 September"</script><!-- 18 September -->')).toEqual(
      [],
    );
    expect(read('<p>by Friday</p><p>18 September we sail</p>')).toEqual(['18 September = 18 9 - -']);
  });

  it('stand where they are said to stand, whatever is around them', () => {
    const around = fc.string({
      unit: fc.constantFrom('<p>', '</p>', '<b>', 'rope ', '\n', '  ', '&amp; ', 'tar. '),
      maxLength: 12,
    });
    fc.assert(
      fc.property(around, around, (before, after) => {
        const source = `${before} on 18 September 2026 ${after}`;
        const found = [...saidDates(source, 'en', true)];
        expect(found.map((f) => source.slice(f.start, f.end))).toEqual(['18 September 2026']);
        expect(found[0]?.said).toEqual(saidBy('18 September 2026', 'en'));
      }),
    );
  });

  it('are all found in a sentence that does not end', () => {
    expect(read('18 September, '.repeat(2_000)).length).toBe(2_000);
  });

  it('are read in texts that mean harm, where nothing is ever closed', () => {
    for (const [begins, found] of [
      ['1/2 ', 1],
      ['<', 1],
      ['<!--', 0],
      ['<script>', 0],
      ['September ', 1],
      ['week ', 1],
      ['1', 1],
    ] as const) {
      const phrases = read(`${begins.repeat(20_000)} 18 September`);
      expect(phrases.length).withContext(begins).toBe(found);
    }
  });
});
