import fc from 'fast-check';
import { linkedName, missingOf, readWords, type SourceFacts } from './source.ts';

const facts = (more: Partial<SourceFacts>): SourceFacts => ({
  label: 'Oxlea parcel 2',
  counted: 19,
  shown: 19,
  lacks: [],
  partial: false,
  ofPlatform: true,
  linked: null,
  ...more,
});

describe('What is known to be missing of a package', () => {
  it('is nothing where all that the platform counts was read', () => {
    expect(missingOf(facts({}))).toEqual([]);
    expect(readWords(facts({}))).toBe('all 19 items that the platform counts');
  });

  it('is told with both numbers where fewer or more were read', () => {
    expect(missingOf(facts({ shown: 16 }))).toEqual([
      'The platform counts 19 items, and 16 were read: 3 items are not in this package.',
    ]);
    expect(missingOf(facts({ shown: 18 }))[0]).toContain('1 item is not in this package');
    expect(missingOf(facts({ shown: 20 }))[0]).toContain('1 item more than it says there are');
    expect(readWords(facts({ shown: 16 }))).toBe('16 of the 19 items that the platform counts');
  });

  it('tells of files that texts only link to how many came, and names those that could not', () => {
    const came = [{ address: 'https://old.example/repository/a%20knot.pdf', size: 10 }];
    const missing = (n: number) => Array.from({ length: n }, (_, i) => ({ address: `https://x/${i}`, why: 'gone.' }));
    const linked = (of: Partial<NonNullable<SourceFacts['linked']>>) =>
      facts({ linked: { came, missing: [], unread: 0, ...of } });
    expect(readWords(linked({}))).toBe('all 19 items that the platform counts, with 1 linked file beside it');
    expect(missingOf(linked({}))).toEqual([]);
    expect(readWords(linked({ came: [] }))).toBe('all 19 items that the platform counts');
    expect(readWords(linked({ missing: missing(2) }))).toContain('1 linked file beside it and 2 that could not be had');
    expect(missingOf(linked({ missing: missing(1) }))).toEqual(['The linked file https://x/0 could not be had: gone.']);
    expect(missingOf(linked({ missing: missing(20), unread: 1 })).slice(-2)).toEqual([
      '12 more linked files could not be had.',
      '1 text could not be read for links to files that are shared.',
    ]);
    expect(linkedName(came[0]?.address ?? '')).toBe('a knot.pdf');
  });

  it('names what its form leaves out, and chosen parts', () => {
    const poor = facts({ lacks: ['tests', 'dates'], label: 'Common Cartridge 1.3', shown: 16 });
    expect(missingOf(poor)[0]).toBe('A Common Cartridge 1.3 leaves out tests and dates: nothing below speaks of them.');
    expect(readWords(poor)).toBe('16 of the 19 items that the platform counts, without tests and dates');
    expect(missingOf(facts({ partial: true, shown: 3 }))).toEqual([
      'Only chosen parts of the course were fetched: nothing below speaks of the rest.',
    ]);
  });

  it('says of a platform that does not count that it is not known, and nothing of the kind of a file', () => {
    expect(missingOf(facts({ counted: null }))[0]).toContain('is not known');
    expect(missingOf(facts({ counted: null, ofPlatform: false }))).toEqual([]);
  });

  it('says all only of what was counted and read alike, and never keeps silent about a difference', () => {
    const number = fc.nat(50);
    fc.assert(
      fc.property(fc.option(number), number, fc.boolean(), (counted, shown, partial) => {
        const of = facts({ counted, shown, partial });
        const all = !partial && counted === shown;
        expect(/^all /.test(readWords(of))).toBe(all);
        expect(missingOf(of).length === 0).toBe(all);
      }),
    );
  });
});
