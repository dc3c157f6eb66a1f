import ICAL from 'ical.js';
import fc from 'fast-check';
import { nodeEngine } from '../../container/node.ts';
import { readCourse } from '../../formats/index.ts';
import { saidBy, survey, byStep } from '../../inspect/index.ts';
import { decodeText } from '../../markup/index.ts';
import { Refusal, momentOf, type Item } from '../../model/index.ts';
import { common, courseOf, text } from '../../testing/made.ts';
import { AUTUMN, SPRING } from '../../testing/terms.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import { workingCopy } from '../working.ts';
import { calendarDates, closedDaysOf, datesAsCalendar, datesInCalendar } from './calendar-files.ts';
import { dayOf, numberOf, weekdayOf } from './days.ts';
import { datesOf, writtenDates } from './known.ts';
import { newWords } from './new-words.ts';
import { NO_REDATING, type RedatePlan } from './plan.ts';
import { redated } from './redate.ts';
import { cellOf, datesAsCsv, datesFromCsv, momentFromCell } from './table.ts';

const TO_SPRING: RedatePlan = { ...NO_REDATING, rule: { is: 'term', from: AUTUMN, to: SPRING }, allTexts: true };
const LONDON = { zone: 'Europe/London', closed: [], today: '2026-09-01' };

const CALENDAR = [
  'BEGIN:VCALENDAR',
  'VERSION:2.0',
  'PRODID:-//Boatyard//Tides//EN',
  'BEGIN:VEVENT',
  'UID:1@yard.example',
  'DTSTART;TZID=Europe/London:20260925T170000',
  'DTEND;TZID=Europe/London:20260925T183000',
  'SUMMARY:Slack water walk',
  'RRULE:FREQ=WEEKLY;UNTIL=20261016T160000Z',
  'X-YARD-BERTH:7',
  'END:VEVENT',
  'BEGIN:VEVENT',
  'UID:2@yard.example',
  'DTSTART;VALUE=DATE:20261103',
  'SUMMARY:Spring tide',
  'END:VEVENT',
  'END:VCALENDAR',
  '',
].join('\r\n');

/** What is read of pages in a folder without a manifest, and what becomes of it. */
async function carried(files: Files, plan: RedatePlan) {
  const pkg = await packageOf(files);
  const { course } = await readCourse(pkg);
  const before = await survey(pkg, course, { engine: nodeEngine, findings: { today: '2026-09-01' } });
  const written = writtenDates(before.course, byStep(before.findings).redate);
  const { dates } = await calendarDates(pkg, course);
  const { rows, sums } = redated([...datesOf(course), ...dates], plan, { ...LONDON, written });
  const work = await workingCopy(pkg, before, before.findings, [], { engine: nodeEngine, redates: { rows, written } });
  return { rows, sums, work, text: async (path: string) => decodeText(await work.pkg.bytes(path)), before };
}

describe('New words for a date', () => {
  const days = fc.integer({ min: numberOf('2024-01-01'), max: numberOf('2033-12-31') });

  it('keep the manner of writing', () => {
    const to = numberOf('2027-01-22');
    const become = (phrase: string, language = 'en') => {
      const said = saidBy(phrase, language);
      return said && newWords(phrase, language, said, said.is === 'week' ? { week: 5 } : to);
    };
    expect(
      [
        'Friday 18 September',
        'Fri, 18 Sep',
        'SEPTEMBER 18TH, 2026',
        '18th of Sept. 2026',
        '18/9',
        '18.09.2026',
        '18/09/26',
      ].map((phrase) => become(phrase)),
    ).toEqual([
      'Friday 22 January',
      'Fri, 22 Jan',
      'JANUARY 22ND, 2027',
      '22nd of Jan. 2027',
      '22/1',
      '22.01.2027',
      '22/01/27',
    ]);
    expect(become('2026-09-18')).toBe('2027-01-22');
    expect(become('Week 3')).toBe('Week 5');
    expect(become('vendredi 18 septembre', 'fr')).toBe('vendredi 22 janvier');
    expect(become('Freitag, 18. September 2026', 'de')).toBe('Freitag, 22. Januar 2027');
    expect(become('الجمعة 18 سبتمبر', 'ar')).toBe('الجمعة 22 يناير');
  });

  it('are read as that day again, or are not given', () => {
    const of = (day: number, options: Intl.DateTimeFormatOptions, locale: string) =>
      new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' }).format(day * 86_400_000);
    const manner = fc.constantFrom<[Intl.DateTimeFormatOptions, string, string]>(
      [{ weekday: 'long', day: 'numeric', month: 'long' }, 'en-GB', 'en'],
      [{ weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' }, 'en-GB', 'en'],
      [{ month: 'long', day: 'numeric', year: 'numeric' }, 'en-US', 'en'],
      [{ day: 'numeric', month: 'long', year: 'numeric' }, 'es', 'es'],
      [{ weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' }, 'fr', 'fr'],
      [{ weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' }, 'de', 'de'],
      [{ day: '2-digit', month: '2-digit', year: 'numeric' }, 'en-GB', 'en'],
    );
    let given = 0;
    fc.assert(
      fc.property(days, days, manner, (from, to, [options, locale, language]) => {
        const phrase = of(from, options, locale);
        const said = saidBy(phrase, language);
        if (said?.is !== 'day') return;
        const written = newWords(phrase, language, said, to);
        if (written === null) return;
        given++;
        const again = saidBy(written, language);
        if (again?.is !== 'day') throw new Error(`${written} is not read`);
        const [year, month, day] = dayOf(to).split('-').map(Number);
        expect([again.day, again.month]).toEqual([day ?? 0, month ?? 0]);
        if (said.year !== null) expect(again.year).toBe(year ?? 0);
        if (said.weekday !== null) expect(again.weekday).toBe(weekdayOf(to) + 1);
        // And there and back is as it was, unless nobody can tell: May is as long as May, and 12/10 has no zeros to lose.
        if (month !== 5 && !said.digits) expect(newWords(written, language, again, from)).toBe(phrase);
      }),
      { numRuns: 300 },
    );
    expect(given).toBeGreaterThan(200);
  });
});

describe('Dates in texts, re-dated', () => {
  const PAGE =
    '<html lang="en"><body><p>Hand it in by <b>Friday 18 September</b>, at noon.</p><p>In week 3 we splice.</p>' +
    '<p>due 3/11 before noon; from 3 to 7 October</p><p>Founded on 3 March 1871.</p><p>See Thursday 18 September.</p></body></html>';

  it('say the new day in the same manner, where a rule can be sure of it', async () => {
    const { rows, text: after, sums } = await carried({ 'start.html': PAGE }, TO_SPRING);
    expect(await after('start.html')).toBe(
      PAGE.replace('Friday 18 September', 'Friday 15 January').replace('3/11', '2/3'),
    );
    expect(rows.map((r) => [r.words?.phrase, r.words?.becomes, r.notes[0]?.words ?? ''])).toEqual([
      ['Friday 18 September', 'Friday 15 January', ''],
      ['week 3', 'week 3', ''],
      ['3/11', '2/3', ''],
      ['3 to 7 October', null, 'More than one date, or mark-up within: read it'],
      ['3 March 1871', null, 'Far from Autumn 2026'],
      ['Thursday 18 September', null, 'The weekday is not that of the date: read it'],
    ]);
    expect(sums.texts).toEqual({ all: 6, sure: 3, put: 2, same: 1 });
  });

  it('are put in one by one, left, or written by a person', async () => {
    const { rows: found } = await carried({ 'start.html': PAGE }, TO_SPRING);
    const keyOf = (phrase: string) => found.find((r) => r.words?.phrase === phrase)?.key ?? '';
    const plan: RedatePlan = {
      ...TO_SPRING,
      allTexts: false,
      texts: {
        [keyOf('3/11')]: { is: 'taken' },
        [keyOf('3 to 7 October')]: { is: 'words', words: '1 to 5 February & on' },
      },
    };
    const { rows, text: after } = await carried({ 'start.html': PAGE }, plan);
    expect(await after('start.html')).toBe(
      PAGE.replace('3/11', '2/3').replace('3 to 7 October', '1 to 5 February &amp; on'),
    );
    const first = rows.find((r) => r.words?.phrase === 'Friday 18 September');
    expect([first?.state, first?.words?.choice, first?.notes[0]?.weight]).toEqual(['holds', 'open', 'look']);
    const left = await carried({ 'start.html': PAGE }, { ...TO_SPRING, texts: { [keyOf('3/11')]: { is: 'left' } } });
    expect(await left.text('start.html')).toContain('due 3/11 before');
  });

  it('say nothing new where dates are kept', async () => {
    const { work, sums } = await carried({ 'start.html': PAGE }, { ...NO_REDATING, allTexts: true });
    expect(work.course.origin.untouched).toBeTrue();
    expect(sums.look).toBe(0);
  });

  it('could be of two months are not guessed', async () => {
    const { rows } = await carried({ 'a.html': '<p>due 10/11 at noon</p>' }, TO_SPRING);
    expect(rows[0]?.words?.becomes).toBeNull();
    expect(rows[0]?.notes[0]?.words).toBe('Day and month could be either: read it');
  });
});

describe('Dates of items and places, put in', () => {
  it('are in the working copy, and everything else is as it was', async () => {
    const task: Item = {
      ...common('a'),
      kind: 'assignment',
      text: text('<p>x</p>'),
      settings: { points: 5, due: momentOf('2026-09-25T16:00:00Z') },
    };
    const course = courseOf(
      [task],
      {},
      {
        settings: { opens: momentOf('2026-09-14') },
        outline: [
          {
            id: 'f',
            title: 'F',
            settings: { opens: momentOf('2026-09-21'), hidden: true },
            children: [{ id: 'n', title: 'a', item: 'a', children: [] }],
          },
          { id: 'again', title: 'a', item: 'a', settings: { due: momentOf('2026-10-02') }, children: [] },
        ],
      },
    );
    const pkg = await packageOf({});
    const { rows } = redated(datesOf(course), TO_SPRING, { ...LONDON, written: [] });
    const work = await workingCopy(pkg, { course, links: [] }, [], [], {
      engine: nodeEngine,
      redates: { rows, written: [] },
    });
    expect(work.course.items[0]?.settings).toEqual({ points: 5, due: momentOf('2027-01-22T17:00:00Z') });
    expect(work.course.settings).toEqual({ opens: momentOf('2027-01-11') });
    expect(work.course.outline.map((n) => n.settings)).toEqual([
      { opens: momentOf('2027-01-18'), hidden: true },
      { due: momentOf('2027-01-29') },
    ]);
    // The course that was read is not touched.
    expect(course.items[0]?.settings['due']).toEqual(momentOf('2026-09-25T16:00:00Z'));
  });
});

describe('Calendars in a package', () => {
  it('are known, date by date, by the clock that they name', () => {
    expect(datesInCalendar(CALENDAR, 'tides.ics', null).map((d) => [d.key, d.title, d.at])).toEqual([
      ['calendar tides.ics 0.dtstart.0.0', 'Slack water walk', { is: 'wall', at: '2026-09-25T17:00:00' }],
      ['calendar tides.ics 0.dtend.0.0', 'Slack water walk', { is: 'wall', at: '2026-09-25T18:30:00' }],
      [
        'calendar tides.ics 0.until.0.0',
        'Slack water walk',
        { is: 'instant', at: '2026-10-16T16:00:00Z', zone: 'UTC' },
      ],
      ['calendar tides.ics 1.dtstart.0.0', 'Spring tide', { is: 'day', on: '2026-11-03' }],
    ]);
  });

  it('are re-dated in their file, and keep all else that stands in it', async () => {
    const { text: after } = await carried({ 'start.html': '<p>x</p>', 'tides.ics': CALENDAR }, TO_SPRING);
    const written = await after('tides.ics');
    expect(written).toContain('DTSTART;TZID=Europe/London:20270122T170000');
    expect(written).toContain('DTEND;TZID=Europe/London:20270122T183000');
    expect(written).toMatch(/RRULE:.*UNTIL=20270212T170000Z/);
    expect(written).toContain('DTSTART;VALUE=DATE:20270302');
    expect(written).toContain('X-YARD-BERTH:7');
    expect(written).toContain('UID:1@yard.example');
  });

  it('lose the events whose dates are taken away', async () => {
    const { text: after } = await carried(
      { 'start.html': '<p>x</p>', 'tides.ics': CALENDAR },
      { ...NO_REDATING, rule: { is: 'away' } },
    );
    expect(await after('tides.ics')).not.toContain('VEVENT');
  });

  it('that can’t be read are said to be so', async () => {
    const pkg = await packageOf({ 'start.html': '<p>x</p>', 'list.ics': 'nothing of a calendar' });
    const { course } = await readCourse(pkg);
    const { dates, notes } = await calendarDates(pkg, course);
    expect([dates.length, notes.map((n) => [n.code, n.file])]).toEqual([0, [['calendar-unread', 'list.ics']]]);
  });
});

describe('Closed days of the house', () => {
  it('are read from a calendar, each day of longer ones', () => {
    const list = CALENDAR.replace(
      'DTSTART;VALUE=DATE:20261103',
      'DTSTART;VALUE=DATE:20261224\r\nDTEND;VALUE=DATE:20261227',
    );
    expect(closedDaysOf(list).map((d) => `${d.on} ${d.name}`)).toEqual([
      '2026-09-25 Slack water walk',
      '2026-12-24 Spring tide',
      '2026-12-25 Spring tide',
      '2026-12-26 Spring tide',
    ]);
  });

  it('are refused of a file that is none', () => {
    const refusal = (given: string) => {
      try {
        closedDaysOf(given);
        return null;
      } catch (error) {
        return error instanceof Refusal ? error.problem : null;
      }
    };
    expect(refusal('Christmas; 25 December')?.code).toBe('calendar-unread');
    expect(refusal('BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR')?.message).toBe(
      'There is no day in this calendar.',
    );
  });
});

describe('Dates as a file', () => {
  const items: Item[] = [
    {
      ...common('a', 'Survey, first'),
      kind: 'assignment',
      text: text(''),
      settings: { due: momentOf('2026-09-25T16:00:00Z') },
    },
    { ...common('b', '=Tide()'), kind: 'assignment', text: text(''), settings: { due: momentOf('2026-10-05') } },
  ];
  const rowsOf = (plan: RedatePlan) => redated(datesOf(courseOf(items, {})), plan, { ...LONDON, written: [] }).rows;

  it('are a calendar that other programs read', () => {
    const root = new ICAL.Component(
      ICAL.parse(datesAsCalendar(rowsOf(TO_SPRING), 'KNT 100', '2026-12-01T07:00:00Z')) as never,
    );
    expect(
      root
        .getAllSubcomponents('vevent')
        .map((e) => [String(e.getFirstPropertyValue('summary')), String(e.getFirstPropertyValue('dtstart'))]),
    ).toEqual([
      ['Survey, first: due', '2027-01-22T17:00:00Z'],
      ['=Tide(): due', '2027-02-01'],
    ]);
  });

  it('are a table that says nothing new when it is brought back as it was', () => {
    const rows = rowsOf(TO_SPRING);
    const csv = datesAsCsv(rows, 'Europe/London');
    expect(csv).toContain('item:a due,"Survey, first",assignment,due,2026-09-25 17:00,2027-01-22 17:00\r\n');
    expect(csv).toContain(`'=Tide()`);
    expect(datesFromCsv(csv, rows, 'Europe/London')).toEqual({ byHand: {}, texts: {}, problems: [] });
    // As spreadsheets of other countries write it.
    expect(
      datesFromCsv(csv.replaceAll('"Survey, first"', 'Survey').replaceAll(',', ';'), rows, 'Europe/London').problems,
    ).toEqual([]);
  });

  it('are taken back in as a person changed them', () => {
    const rows = rowsOf(TO_SPRING);
    const csv = datesAsCsv(rows, 'Europe/London')
      .replace('2027-01-22 17:00', '29 Jan 2027 09:30')
      .replace(/2027-02-01/, '');
    expect(datesFromCsv(csv, rows, 'Europe/London')).toEqual({
      byHand: { 'item:a due': momentOf('2027-01-29T09:30:00Z'), 'item:b due': null },
      texts: {},
      problems: [],
    });
  });

  it('are refused line by line, with what to do', () => {
    const rows = rowsOf(TO_SPRING);
    const csv = [
      'Key,Item,Kind,Date,As it was,As it will be',
      'item:zz due,x,x,x,x,2027-01-01',
      'item:a due,x,x,x,x,30 Feb 2027',
      'item:a due,x,x,x,x,2027-01-22 17:00',
      'item:b due,x,x,x,x,3/4/2027',
    ].join('\n');
    const { problems } = datesFromCsv(csv, rows, 'Europe/London', 'mine.csv');
    expect(problems.map((p) => [p.line, p.file, p.message])).toEqual([
      [2, 'mine.csv', 'There is no date “item:zz due” in this course.'],
      [3, 'mine.csv', '“Survey, first”: there is no day 30 Feb 2027.'],
      [4, 'mine.csv', '“Survey, first” stands in line 3 too.'],
      [
        5,
        'mine.csv',
        '“=Tide()”: 3/4/2027 could be read with the day or the month first; write 2027-01-22 or 22 Jan 2027.',
      ],
    ]);
    expect(datesFromCsv('a,b\n1,2', rows, 'UTC').problems[0]?.message).toContain('no columns');
    expect(datesFromCsv('"Key', rows, 'UTC').problems[0]?.message).toContain('no table');
    expect(momentFromCell('2027-03-28 01:30', momentOf('2026-01-01T00:00:00Z'), 'Europe/London')).toBe(
      'on 2027-03-28 the clock is put forward over 01:30.',
    );
    expect(momentFromCell('2026-10-25 01:30', momentOf('2026-01-01T00:00:00Z'), 'Europe/London')).toContain('twice');
  });

  it('are written and read as the same date, whatever it is', () => {
    const zones = fc.constantFrom('Europe/London', 'America/New_York', 'Asia/Kathmandu');
    const day = fc.integer({ min: 18_000, max: 25_000 }).map(dayOf);
    const hour = fc.integer({ min: 5, max: 22 });
    fc.assert(
      fc.property(day, hour, zones, fc.boolean(), (on, h, zone, whole) => {
        const moment = whole ? momentOf(on) : momentOf(`${on}T${String(h).padStart(2, '0')}:15:00Z`);
        expect(momentFromCell(cellOf(moment, zone), moment, zone)).toEqual(moment);
      }),
    );
  });
});
