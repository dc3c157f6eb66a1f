import fc from 'fast-check';
import { momentOf, type Condition, type Course, type Moment, type Term } from '../../model/index.ts';
import { courseOf, common, text } from '../../testing/made.ts';
import { AUTUMN, SPRING } from '../../testing/terms.ts';
import type { Item } from '../../model/index.ts';
import { hoursOf, onClock, onDay } from './clock.ts';
import { dayOf, mondayOf, numberOf, weekdayOf } from './days.ts';
import { datesOf, settingsWith, withoutTaken } from './known.ts';
import { NO_REDATING, checkPlan, type DateRule, type RedatePlan } from './plan.ts';
import { redated, type RedateContext } from './redate.ts';
import { TermWeeks } from './weeks.ts';

const ZONES = ['Europe/London', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'Pacific/Apia'];
const context = (more: Partial<RedateContext> = {}): RedateContext => ({
  zone: 'Europe/London',
  closed: [],
  today: '2026-09-01',
  written: [],
  ...more,
});
const planOf = (rule: DateRule, more: Partial<RedatePlan> = {}): RedatePlan => ({ ...NO_REDATING, rule, ...more });
const task = (id: string, settings: Item['settings']): Item => ({
  ...common(id),
  kind: 'assignment',
  text: text(''),
  settings,
});
const dated = (...items: Item[]): Course => courseOf(items, {});
const toSpring: DateRule = { is: 'term', from: AUTUMN, to: SPRING };

/** What becomes of each date of a course, by its key. */
function after(course: Course, plan: RedatePlan, more: Partial<RedateContext> = {}): Record<string, string | null> {
  const { rows } = redated(datesOf(course), plan, context(more));
  return Object.fromEntries(
    rows.map((row) => [
      row.key,
      row.will && (row.will.is === 'day' ? row.will.on : row.will.is === 'unread' ? row.will.words : row.will.at),
    ]),
  );
}
const codesOf = (course: Course, plan: RedatePlan, more: Partial<RedateContext> = {}) =>
  redated(datesOf(course), plan, context(more)).rows.flatMap((row) => row.notes.map((n) => `${row.key} ${n.code}`));

const days = fc.integer({ min: numberOf('2020-01-01'), max: numberOf('2034-12-31') });
const time = fc
  .record({ h: fc.nat(23), m: fc.nat(59) })
  .map(({ h, m }) => `${String(h).padStart(2, '0')}:${String(m).padStart(2, '0')}:00`);
const instants = fc.record({ day: days, time }).map(({ day, time: at }): Moment => momentOf(`${dayOf(day)}T${at}Z`));
const moments: fc.Arbitrary<Moment> = fc.oneof(
  instants,
  days.map((day): Moment => ({ is: 'day', on: dayOf(day) })),
  fc.record({ day: days, time }).map(({ day, time: at }): Moment => ({ is: 'wall', at: `${dayOf(day)}T${at}` })),
);
const terms: fc.Arbitrary<Term> = fc
  .record({ from: days, length: fc.integer({ min: 20, max: 260 }), breakAt: fc.nat(20), breakDays: fc.nat(13) })
  .map(({ from, length, breakAt, breakDays }) => ({
    name: 'T',
    from: dayOf(from),
    to: dayOf(from + length),
    breaks:
      breakDays === 0
        ? []
        : [
            {
              name: 'pause',
              from: dayOf(from + Math.min(breakAt, length)),
              to: dayOf(from + Math.min(breakAt + breakDays, length)),
            },
          ],
  }));

describe('Days as numbers', () => {
  it('are what the calendar says', () => {
    expect(weekdayOf(numberOf('2026-09-14'))).toBe(0);
    expect(weekdayOf(numberOf('1969-12-28'))).toBe(6);
    fc.assert(fc.property(days, (day) => expect(numberOf(dayOf(day))).toBe(day)));
    fc.assert(fc.property(days, (day) => expect(weekdayOf(mondayOf(day))).toBe(0)));
  });
});

describe('Weeks of a term', () => {
  it('step over those in which nothing is taught', () => {
    const weeks = new TermWeeks(AUTUMN);
    expect(weeks.mondays.length).toBe(13);
    expect(weeks.mondays.map(dayOf).slice(5, 7)).toEqual(['2026-10-19', '2026-11-02']);
    expect(weeks.breakOn(numberOf('2026-10-28'))).toBe('reading week');
  });

  it('are stepped over only where every working day of them is a break', () => {
    const some = { ...AUTUMN, breaks: [{ name: 'two days', from: '2026-10-29', to: '2026-10-30' }] };
    expect(new TermWeeks(some).mondays.length).toBe(14);
  });

  it('tell of every day where it lies, and find it again', () => {
    fc.assert(
      fc.property(terms, days, (term, day) => {
        const weeks = new TermWeeks(term);
        expect(weeks.at(weeks.place(day))).toBe(day);
      }),
    );
  });
});

describe('The clock', () => {
  it('shows the same time on the other day, before the change to summer time and after it', () => {
    // 17:00 in London is 16:00 UTC in September and 17:00 UTC in January.
    expect(onDay(momentOf('2026-09-25T16:00:00Z'), numberOf('2027-01-22'), 'Europe/London').moment).toEqual(
      momentOf('2027-01-22T17:00:00Z'),
    );
    expect(onDay(momentOf('2026-09-25T17:00:00+01:00'), numberOf('2027-01-22'), 'Europe/London').moment).toEqual({
      is: 'instant',
      at: '2027-01-22T17:00:00Z',
      zone: '+00:00',
    });
  });

  it('keeps time and weekday in five zones, but for an hour that is not there', () => {
    fc.assert(
      fc.property(moments, fc.integer({ min: -60, max: 60 }), fc.constantFrom(...ZONES), (moment, weeks, zone) => {
        const was = onClock(moment, zone);
        if (!was) throw new Error('every such moment is read');
        const { moment: will, skipped } = onDay(moment, was.day + weeks * 7, zone);
        const now = onClock(will, zone);
        expect(will.is).toBe(moment.is);
        if (skipped) return;
        expect(now).toEqual({ day: was.day + weeks * 7, time: was.time });
        expect(weekdayOf(now?.day ?? 0)).toBe(weekdayOf(was.day));
      }),
      { numRuns: 400 },
    );
  });

  it('knows hours that are not there, and those that are there twice', () => {
    expect(hoursOf('2027-03-28', '01:30:00', 'Europe/London')).toBe('none');
    expect(hoursOf('2026-10-25', '01:30:00', 'Europe/London')).toBe('two');
    expect(hoursOf('2026-10-25', '12:30:00', 'Europe/London')).toBe('one');
    expect(onDay(momentOf('2027-03-21T01:30:00Z'), numberOf('2027-03-28'), 'Europe/London').skipped).toBeTrue();
    // The second of two hours of one name is that one still.
    const second = momentOf('2026-10-25T01:30:00Z');
    expect(onDay(second, numberOf('2026-10-25'), 'Europe/London').moment).toEqual(second);
  });
});

describe('Re-dating', () => {
  const dates = fc.array(moments, { minLength: 1, maxLength: 12 });
  const courseWith = (list: readonly Moment[]): Course => dated(...list.map((due, i) => task(`a${i}`, { due })));

  it('by zero is nothing', () => {
    fc.assert(
      fc.property(dates, terms, fc.constantFrom(...ZONES), (list, term, zone) => {
        const course = courseWith(list);
        for (const rule of [
          { is: 'term', from: term, to: term },
          { is: 'stretch', from: term, to: term },
          { is: 'days', from: term.from, to: term.from },
          { is: 'keep' },
        ] satisfies DateRule[]) {
          const { rows } = redated(datesOf(course), planOf(rule), context({ zone }));
          rows.forEach((row, i) => {
            expect(row.state).toBe('holds');
            expect(row.will).toEqual(list[i] ?? null);
          });
        }
      }),
    );
  });

  it('there and back is nothing where no break lies between', () => {
    fc.assert(
      fc.property(
        dates,
        terms,
        fc.integer({ min: -80, max: 80 }),
        fc.constantFrom(...ZONES),
        (list, given, weeks, zone) => {
          const term = { ...given, breaks: [] };
          const other = {
            ...term,
            from: dayOf(numberOf(term.from) + weeks * 7),
            to: dayOf(numberOf(term.to) + weeks * 7),
          };
          const course = courseWith(list);
          const there = redated(datesOf(course), planOf({ is: 'term', from: term, to: other }), context({ zone })).rows;
          const between = courseWith(there.map((row) => row.will ?? momentOf('1970-01-01')));
          const back = redated(datesOf(between), planOf({ is: 'term', from: other, to: term }), context({ zone })).rows;
          back.forEach((row, i) => {
            const hour = there[i]?.notes.some((n) => n.code === 'no-such-hour');
            const isFar = there[i]?.notes.some((n) => n.code === 'far');
            // What stayed where it was may lie near the other term.
            if (hour === true || isFar === true || row.notes.some((n) => n.code === 'no-such-hour')) return;
            expect(onClock(row.will ?? momentOf(''), zone)).toEqual(onClock(list[i] ?? momentOf(''), zone));
          });
        },
      ),
    );
  });

  it('by a then b equals by a and b together', () => {
    const by = (n: number): DateRule => ({ is: 'days', from: '2026-01-01', to: dayOf(numberOf('2026-01-01') + n) });
    const shift = fc.integer({ min: -900, max: 900 });
    fc.assert(
      fc.property(dates, shift, shift, (list, a, b) => {
        const once = redated(datesOf(courseWith(list)), planOf(by(a + b)), context()).rows;
        const first = redated(datesOf(courseWith(list)), planOf(by(a)), context()).rows;
        const mid = courseWith(first.map((row) => row.will ?? momentOf('')));
        const twice = redated(datesOf(mid), planOf(by(b)), context()).rows;
        twice.forEach((row, i) => {
          if (first[i]?.notes.some((n) => n.code === 'no-such-hour') === true) return;
          expect(onClock(row.will ?? momentOf(''), 'Europe/London')).toEqual(
            onClock(once[i]?.will ?? momentOf(''), 'Europe/London'),
          );
        });
      }),
    );
  });

  it('goes to the same teaching week and day, over the breaks of both terms', () => {
    const course = dated(
      task('first', { due: momentOf('2026-09-25T16:00:00Z') }),
      task('sixth', { due: momentOf('2026-10-19T08:00:00Z') }),
      task('after', { due: momentOf('2026-11-03') }),
    );
    expect(after(course, planOf(toSpring))).toEqual({
      'item:first due': '2027-01-22T17:00:00Z',
      'item:sixth due': '2027-02-22T09:00:00Z',
      'item:after due': '2027-03-02',
    });
    const { sums, rows } = redated(datesOf(course), planOf(toSpring), context());
    expect(sums).toEqual(
      jasmine.objectContaining({ dates: 3, moved: 3, sameWeekday: 3, stepped: 1, look: 0, holds: 0, away: 0 }),
    );
    expect(rows.map((row) => row.notes.map((n) => n.code))).toEqual([[], ['stepped'], []]);
  });

  it('presses a term into a shorter one week by week, and stretches it into a longer', () => {
    const half: Term = { name: 'Short', from: '2027-04-26', to: '2027-06-04', breaks: [] };
    const course = dated(
      task('first', { due: momentOf('2026-09-16') }),
      task('last', { due: momentOf('2026-12-18') }),
      task('mid', { due: momentOf('2026-11-03') }),
    );
    expect(after(course, planOf({ is: 'stretch', from: AUTUMN, to: half }))).toEqual({
      'item:first due': '2027-04-28',
      'item:last due': '2027-06-04',
      'item:mid due': '2027-05-18',
    });
    // In the order in which they were.
    fc.assert(
      fc.property(terms, terms, fc.array(fc.nat(200), { minLength: 2, maxLength: 9 }), (from, to, offsets) => {
        const sorted = [...offsets].sort((a, b) => a - b).map((n) => numberOf(from.from) + n);
        const list = sorted.map((d): Moment => ({ is: 'day', on: dayOf(d) }));
        const { rows } = redated(datesOf(courseWith(list)), planOf({ is: 'stretch', from, to }), context());
        const weeks = rows.filter((r) => !r.notes.some((n) => n.code === 'far')).map((r) => mondayOf(r.willDay ?? 0));
        expect(weeks).toEqual([...weeks].sort((a, b) => a - b));
      }),
    );
  });

  it('lets a rule of an item go before that of its folder, that before one of a name, and what is set by hand before all', () => {
    const items = ['a', 'b', 'c', 'd'].map((id) => task(id, { due: momentOf('2026-09-25') }));
    const course = courseOf(
      items,
      {},
      {
        outline: [
          {
            id: 'outer',
            title: 'Outer',
            children: [
              {
                id: 'inner',
                title: 'Inner',
                children: [
                  { id: 'na', title: 'a', item: 'a', children: [] },
                  { id: 'nb', title: 'b', item: 'b', children: [] },
                ],
              },
              { id: 'nc', title: 'c', item: 'c', children: [] },
            ],
          },
          { id: 'nd', title: 'd', item: 'd', children: [] },
        ],
      },
    );
    const by = (n: number): DateRule => ({ is: 'days', from: '2026-01-01', to: dayOf(numberOf('2026-01-01') + n) });
    const plan = planOf(by(100), {
      others: [
        { scope: { is: 'name', name: 'due' }, rule: by(1) },
        { scope: { is: 'folder', folder: 'outer' }, rule: by(2) },
        { scope: { is: 'folder', folder: 'inner' }, rule: { is: 'keep' } },
        { scope: { is: 'item', item: 'a' }, rule: { is: 'away' } },
      ],
    });
    expect(after(course, plan)).toEqual({
      'item:a due': null,
      'item:b due': '2026-09-25',
      'item:c due': '2026-09-27',
      'item:d due': '2026-09-26',
    });
    const set = { ...plan, byHand: { 'item:a due': momentOf('2026-12-01'), 'item:d due': null } };
    expect(after(course, set)).toEqual(jasmine.objectContaining({ 'item:a due': '2026-12-01', 'item:d due': null }));
    // And keeps its place when the rule changes.
    expect(after(course, { ...set, rule: toSpring })['item:a due']).toBe('2026-12-01');
  });

  it('refuses two rules for the same, and a term that ends before it begins', () => {
    const scope = { is: 'name' as const, name: 'due' as const };
    const twice = planOf(toSpring, {
      others: [
        { scope, rule: { is: 'keep' } },
        { scope, rule: { is: 'away' } },
      ],
    });
    expect(() => checkPlan(twice)).toThrowMatching((e: { problem: { code: string; message: string } }) => {
      return e.problem.code === 'rules-contradict' && e.problem.message.startsWith('Rules 1 and 2 both say');
    });
    const backward = planOf({ is: 'term', from: AUTUMN, to: { ...SPRING, to: '2026-01-01' } });
    expect(() => checkPlan(backward)).toThrowMatching(
      (e: { problem: { code: string } }) => e.problem.code === 'term-dates',
    );
    checkPlan(planOf(toSpring));
  });
});

describe('What is said of dates', () => {
  it('names breaks, closed days, weekends, days outside the term and days that are past', () => {
    const course = dated(
      task('closed', { due: momentOf('2026-11-27') }),
      task('outside', { due: momentOf('2026-12-18') }),
      task('weekend', { due: momentOf('2026-10-03') }),
      task('far', { posted: momentOf('2022-05-01') }),
      task('unread', { due: { is: 'unread', words: 'when the tide turns' } }),
    );
    const closed = [{ on: '2027-03-26', name: 'Good Friday' }];
    expect(codesOf(course, planOf(toSpring), { closed, today: '2027-03-01' })).toEqual([
      'item:closed due closed',
      'item:outside due outside',
      'item:weekend due past',
      'item:far posted far',
      'item:unread due unread',
    ]);
    // Autumn has a teaching week more than Spring: its last falls beyond.
    const short = { ...SPRING, to: '2027-04-02' };
    expect(after(course, planOf({ is: 'term', from: AUTUMN, to: short }))['item:outside due']).toBe('2027-04-16');
    const shifted = planOf({ is: 'days', from: '2026-09-14', to: '2026-09-15' });
    const friday = dated(task('friday', { due: momentOf('2026-09-25') }));
    expect(codesOf(friday, shifted)).toEqual(['item:friday due weekend']);
    const toBreak = { ...planOf(toSpring), byHand: { 'item:closed due': momentOf('2027-02-17') } };
    expect(codesOf(course, toBreak)).toContain('item:closed due in-break');
  });

  it('names what closes before it opens, and what is due before what it needs', () => {
    const needs: Condition[] = [{ is: 'all of', conditions: [{ is: 'done', item: 'quiz' }] }];
    const course = dated(
      task('quiz', { opens: momentOf('2026-10-12T08:00:00Z'), closes: momentOf('2026-10-16T16:00:00Z') }),
      task('sheet', { due: momentOf('2026-10-14'), visibleWhen: needs }),
    );
    expect(codesOf(course, planOf(toSpring))).toEqual([]);
    const plan = planOf(toSpring, {
      byHand: { 'item:quiz closes': momentOf('2027-02-01T16:00:00Z'), 'item:sheet due': momentOf('2027-02-02') },
    });
    expect(codesOf(course, plan)).toEqual(['item:quiz closes order', 'item:sheet due before-needed']);
  });

  it('names days on which three things and more are due, where they were not before', () => {
    const on = (day: string, ...ids: string[]) => ids.map((id) => task(id, { due: momentOf(day) }));
    const course = dated(...on('2026-09-25', 'a', 'b'), ...on('2026-09-26', 'c'));
    const plan = planOf({ is: 'keep' }, { byHand: { 'item:c due': momentOf('2026-09-25') } });
    const { rows } = redated(datesOf(course), plan, context());
    expect(rows.map((r) => r.notes.map((n) => n.words))).toEqual(
      Array.from({ length: 3 }, () => ['3 due on Fri 25 Sep 2026']),
    );
    const before = dated(...on('2026-09-25', 'a', 'b', 'c'));
    const moved = redated(datesOf(before), planOf(toSpring), context());
    expect(moved.sums.look).toBe(0);
    expect(moved.rows[0]?.notes[0]?.words).toContain('as before');
  });
});

describe('Dates in settings', () => {
  const conditions: Condition[] = [
    { is: 'date', side: 'from', at: momentOf('2026-10-01') },
    {
      is: 'any of',
      conditions: [
        { is: 'done', item: 'x' },
        { is: 'date', side: 'until', at: momentOf('2026-11-01') },
      ],
    },
  ];
  const settings: Item['settings'] = {
    due: momentOf('2026-10-05'),
    sessions: [momentOf('2026-09-15'), momentOf('2026-09-22')],
    visibleWhen: conditions,
  };

  it('are all known, those in conditions and sessions too', () => {
    expect(datesOf(dated(task('a', settings))).map((d) => `${d.key}: ${d.name}`)).toEqual([
      'item:a due: due',
      'item:a sessions.0: session',
      'item:a sessions.1: session',
      'item:a visibleWhen.0: from',
      'item:a visibleWhen.1.1: until',
    ]);
  });

  it('are set where they stand, and taken out without moving those beside them', () => {
    const set = settingsWith(settings, 'visibleWhen.1.1', momentOf('2027-01-01'));
    expect(set.visibleWhen?.[1]).toEqual({
      is: 'any of',
      conditions: [
        { is: 'done', item: 'x' },
        { is: 'date', side: 'until', at: momentOf('2027-01-01') },
      ],
    });
    const gone = ['sessions.0', 'visibleWhen.0', 'visibleWhen.1.1', 'due'].reduce(
      (now, path) => settingsWith(now, path, null),
      settings,
    );
    expect(withoutTaken(settingsWith(gone, 'sessions.1', momentOf('2027-01-19')))).toEqual({
      sessions: [momentOf('2027-01-19')],
      visibleWhen: [{ is: 'any of', conditions: [{ is: 'done', item: 'x' }] }],
    });
    expect(settings.sessions?.length).toBe(2);
  });
});
