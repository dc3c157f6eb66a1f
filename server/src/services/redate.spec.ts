import { NO_REDATING, Refusal, momentOf, type RedatePlan, type Term } from '@treenail/core';
import { AuditEntry, isDone, planOf, type WholeMove } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { until } from '../testing/database.ts';
import { testHouse, type House } from '../testing/house.ts';
import { keptCourse } from '../testing/moves.ts';
import type { Person } from '../contract/index.ts';
import type { Services } from './context.ts';
import { readDocument } from './documents.ts';
import { acceptFit, moveById, moveSummary } from './moves.ts';
import { openDates, redateOf, setRedate, undoRedate } from './redate.ts';
import { setClosedDays, setTerms, setZone } from './settings.ts';
import { withWorkingCopy } from './working.ts';
import * as tidy from './tidy.ts';

const AUTUMN: Term = { name: 'Autumn 2026', from: '2026-09-14', to: '2026-12-18', breaks: [] };
const SPRING: Term = { name: 'Spring 2031', from: '2031-01-13', to: '2031-04-11', breaks: [] };
const PAGE = '<html lang="en"><body><h1>Start</h1><p>Hand it in by Friday 18 September.</p></body></html>';
const CALENDAR = [
  'BEGIN:VCALENDAR',
  'VERSION:2.0',
  'BEGIN:VEVENT',
  'DTSTART;VALUE=DATE:20260922',
  'SUMMARY:Spring tide',
  'END:VEVENT',
  'END:VCALENDAR',
  '',
].join('\r\n');
const PLAN: RedatePlan = { ...NO_REDATING, rule: { is: 'term', from: AUTUMN, to: SPRING }, allTexts: true };

describe('Re-dating a move', () => {
  let house: House;
  let services: Services;
  let person: Person;
  let newMove: () => Promise<WholeMove>;
  let moveId: number;

  beforeAll(async () => {
    house = await testHouse();
    ({ services, person } = house);
    await setTerms(person, [AUTUMN, SPRING]);
    await setZone(person, 'Europe/London');
    const between = {
      from: await house.addInstance('Old', 'quernhold'),
      to: await house.addInstance('New', 'tarnhall'),
    };
    const files = { 'start.html': PAGE, 'tides.ics': CALENDAR, 'old.html': '<h1>Old</h1><p>until 2 October 2026</p>' };
    const of = { ...between, remoteId: 'c7', createdBy: person.id };
    ({ newMove } = await keptCourse(services, house.folder, files, of));
    house.startWorker();
  }, 120_000);

  beforeEach(async () => {
    moveId = (await newMove()).id;
    await enqueue({ kind: 'look', key: `look:move-${moveId}`, course: 'BTB', moveId, input: { round: 0 } });
    await until(async () => isDone(await moveById(moveId), 'look'));
  });

  afterAll(() => house?.close());

  const line = async () => {
    const { steps } = await moveSummary(await moveById(moveId));
    const step = steps.find((s) => s.step === 're-date');
    return [step?.state, step?.result, step?.by];
  };
  const inWorkingCopy = () =>
    until(async () => {
      const plan = planOf(await moveById(moveId));
      return plan.workedVersion === plan.tidyVersion;
    });
  const text = async (path: string) => {
    const move = await moveById(moveId);
    return withWorkingCopy(services, move, async ({ pkg }) => Buffer.from(await pkg.bytes(path)).toString('utf8'));
  };

  it('knows the dates of texts and calendars before anything is decided, and says that they go as they are', async () => {
    const told = await redateOf(services, moveId);
    expect(told.dates.map((d) => [d.key, d.at])).toEqual([
      ['calendar tides.ics 0.dtstart.0.0', { is: 'day', on: '2026-09-22' }],
    ]);
    expect(told.written.map(({ finding }) => finding.groupKey)).toEqual(['Friday 18 September', '2 October 2026']);
    expect([told.plan, told.from, told.to, told.zone, told.searched]).toEqual([
      null,
      'Autumn 2026',
      'Spring 2031',
      'Europe/London',
      true,
    ]);
    expect(await line()).toEqual(['open', '1 date, as they were', null]);
    expect(await openDates(moveId)).toBe('1 date, as they were');
    // They are not decided on at Tidy.
    const { findings } = await tidy.tidyOf(services, moveId);
    expect(findings.some((f) => f.kind === 'date-in-words')).toBeFalse();
  });

  it('puts new dates into the working copy, and takes them out again', async () => {
    await setRedate(person, moveId, PLAN);
    await inWorkingCopy();
    expect(await text('start.html')).toBe(PAGE.replace('Friday 18 September', 'Friday 17 January'));
    expect(await text('tides.ics')).toContain('DTSTART;VALUE=DATE:20310121');
    expect(await text('old.html')).toContain('until 31 January 2031');
    expect(await line()).toEqual(['done', '1 date into Spring 2031', 'Ada']);
    expect(await openDates(moveId)).toBe('');
    const entry = await AuditEntry.findOne({ where: { subject: `move ${moveId}`, act: 'dates decided' } });
    expect(entry).not.toBeNull();
    await undoRedate(person, moveId);
    await inWorkingCopy();
    expect(await text('start.html')).toBe(PAGE);
    expect(await line()).toEqual(['open', '1 date, as they were', null]);
    // Pressed twice, it is undone once.
    const { tidyVersion } = planOf(await moveById(moveId));
    await undoRedate(person, moveId);
    expect(planOf(await moveById(moveId)).tidyVersion).toBe(tidyVersion);
  });

  it('says what has to be looked at, and goes on all the same', async () => {
    await setClosedDays(person, [
      { on: '2031-01-21', name: 'Founder’s day' },
      { on: '2031-01-21', name: 'Founders’ day' },
    ]);
    await setRedate(person, moveId, PLAN);
    await inWorkingCopy();
    expect(await line()).toEqual(['open', '1 date into Spring 2031, 1 to look at', 'Ada']);
    expect((await redateOf(services, moveId)).closed).toEqual([{ on: '2031-01-21', name: 'Founders’ day' }]);
    await acceptFit(person, moveId);
    expect(planOf(await moveById(moveId)).accepted).toEqual(jasmine.objectContaining({ redate: PLAN }));
    await expectAsync(setRedate(person, moveId, PLAN)).toBeRejectedWithError(Refusal);
    await setClosedDays(person, []);
  });

  it('speaks of no date of what does not go', async () => {
    const { course } = await readDocument(moveId, 'look');
    const old = course.items.find((i) => i.kind === 'page' && i.file === 'old.html');
    await tidy.choose(services, person, moveId, { leftOut: [old?.id ?? ''], hiddenUntil: null });
    const told = await redateOf(services, moveId);
    expect(told.written.map(({ finding }) => finding.groupKey)).toEqual(['Friday 18 September']);
  });

  it('refuses what contradicts itself, and half of it is not kept', async () => {
    const scope = { is: 'name' as const, name: 'due' as const };
    const twice = { ...PLAN, others: [PLAN.rule, PLAN.rule].map((rule) => ({ scope, rule })) };
    await expectAsync(setRedate(person, moveId, twice)).toBeRejectedWithError(/both say/);
    expect((await redateOf(services, moveId)).plan).toBeNull();
    await expectAsync(setRedate({ ...person, role: 'instructor' }, moveId, PLAN)).toBeRejectedWithError(Refusal);
  });

  it('keeps what is set by hand beside what the rule says', async () => {
    const byHand = { 'calendar tides.ics 0.dtstart.0.0': momentOf('2031-02-05') };
    await setRedate(person, moveId, { ...PLAN, byHand });
    await inWorkingCopy();
    expect(await text('tides.ics')).toContain('DTSTART;VALUE=DATE:20310205');
  });
});
