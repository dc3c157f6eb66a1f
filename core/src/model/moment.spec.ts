import fc from 'fast-check';
import { Moment, comparableMoment, momentOf, momentWords, timeOf, writtenMoment } from './moment.ts';

describe('Dates of a course', () => {
  it('are a point in time with its zone, a time on a wall, a whole day, or words', () => {
    expect(momentOf('2026-10-16T17:00:00Z')).toEqual({ is: 'instant', at: '2026-10-16T17:00:00Z', zone: 'UTC' });
    expect(momentOf('2026-10-16T17:00+01:00')).toEqual({ is: 'instant', at: '2026-10-16T16:00:00Z', zone: '+01:00' });
    expect(momentOf('2026-10-16T17:00:00.250+0100')).toEqual(
      jasmine.objectContaining({ is: 'instant', zone: '+01:00' }),
    );
    expect(momentOf('2026-10-16 17:00')).toEqual({ is: 'wall', at: '2026-10-16T17:00' });
    expect(momentOf('2026-10-16')).toEqual({ is: 'day', on: '2026-10-16' });
    for (const words of ['', 'week 3', '2026-13-01', '2026-10-16T25:00', '2026-10-16T25:00Z']) {
      expect(momentOf(words)).withContext(words).toEqual({ is: 'unread', words });
    }
  });

  it('are read as strings, as courses were kept before, and as what they are', () => {
    expect(Moment.parse('2026-10-16')).toEqual({ is: 'day', on: '2026-10-16' });
    expect(Moment.parse({ is: 'wall', at: '2026-10-16T17:00' })).toEqual({ is: 'wall', at: '2026-10-16T17:00' });
    expect(Moment.safeParse({ is: 'wall' }).success).toBe(false);
  });

  it('mean the same however they are written, but a clock without a zone means nothing else', () => {
    const same = (a: string, b: string) => comparableMoment(momentOf(a)) === comparableMoment(momentOf(b));
    expect(same('2026-10-16T17:00+01:00', '2026-10-16T16:00:00Z')).toBe(true);
    expect(same('2026-10-16T17:00', '2026-10-16T17:00:00')).toBe(true);
    expect(same('2026-10-16T17:00', '2026-10-16T17:00Z')).toBe(false);
    expect(same('2026-10-16', '2026-10-16T00:00')).toBe(false);
  });

  it('are written as they are read, whichever they are', () => {
    const dates = fc.date({ min: new Date('1970-01-01'), max: new Date('2200-01-01'), noInvalidDate: true });
    fc.assert(
      fc.property(dates, fc.constantFrom(10, 16, 19, 24), fc.string(), (date, letters, words) => {
        const moment = momentOf(letters === 10 ? words : date.toISOString().slice(0, letters));
        expect(momentOf(writtenMoment(moment))).toEqual(moment.is === 'instant' ? { ...moment, zone: 'UTC' } : moment);
        expect(timeOf(moment) === null).toBe(moment.is === 'unread');
      }),
    );
  });

  it('say no zone where none was meant', () => {
    expect(
      ['2026-10-16T17:00Z', '2026-10-16T17:00', '2026-10-16', 'soon'].map((d) => momentWords(momentOf(d))),
    ).toEqual(['Fri 16 Oct 2026 17:00 UTC', 'Fri 16 Oct 2026 17:00', 'Fri 16 Oct 2026', 'soon']);
  });
});
