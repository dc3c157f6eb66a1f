import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import * as z from 'zod';
import { zipOf } from '../testing/packages.ts';
import { run } from './run.ts';

const PAGE = '<html lang="en"><body><p>Hand it in by Friday 18 September; read week 3 first.</p></body></html>';
const CALENDAR = [
  'BEGIN:VCALENDAR',
  'VERSION:2.0',
  'BEGIN:VEVENT',
  'DTSTART;VALUE=DATE:20261103',
  'SUMMARY:Spring tide',
  'END:VEVENT',
  'END:VCALENDAR',
  '',
].join('\r\n');
const TERMS = ['--from', '2026-09-14..2026-12-18', '--into', '2027-01-11..2027-04-09'];
const BREAKS = ['--break', '2026-10-26..2026-10-30', '--break', '2027-02-15..2027-02-19'];
const Told = z.object({
  dates: z.number(),
  moved: z.number(),
  rows: z.array(z.object({ key: z.string(), title: z.string(), said: z.object({ will: z.string().nullable() }) })),
  written: z.object({ sha256: z.string(), made: z.object({ format: z.string() }) }).nullable(),
});
const Trouble = z.object({ code: z.string(), detail: z.string(), line: z.number().optional() });

describe('Re-dating at the command line', () => {
  let folder: string;
  let file: string;
  const at = (name: string) => join(folder, name);
  const treenail = async (...args: string[]) => {
    const lines: string[] = [];
    const code = await run(['redate', ...args], (line) => void lines.push(line));
    return { code, said: lines.join('\n') };
  };

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-redate-'));
    file = at('course.zip');
    await writeFile(file, await zipOf({ 'start.html': PAGE, 'tides.ics': CALENDAR }));
  });
  afterAll(() => rm(folder, { recursive: true, force: true }));

  it('tells the dates as they were and as they will be, and writes nothing unless it is asked to', async () => {
    const { code, said } = await treenail(file, ...TERMS, ...BREAKS);
    expect(code).toBe(0);
    expect(said.split('\n')).toEqual([
      '1 date, 1 moved, 1 to look at; 2 in texts, 0 written anew',
      '  Spring tide [on]: Tue 3 Nov 2026 → Tue 2 Mar 2027',
      '  start [written]: “Friday 18 September” → “Friday 15 January”   (Put it in, or leave it)',
      '  start [written]: “week 3” → “week 3”',
    ]);
    expect((await readdir(folder)).filter((name) => /imscc|zip/.test(name))).toEqual(['course.zip']);
  });

  it('writes the package with them, in texts and calendars too', async () => {
    const { code, said } = await treenail(
      file,
      ...TERMS,
      '--texts',
      '--out',
      at('new.imscc'),
      '--to',
      'cc13',
      '--json',
    );
    expect(code).withContext(said).toBe(0);
    const told = Told.parse(JSON.parse(said));
    expect([told.dates, told.moved, told.written?.made.format]).toEqual([1, 1, 'cc13']);
    const inside = execFileSync('unzip', ['-p', at('new.imscc')], { encoding: 'utf8' });
    expect(inside).toContain('Hand it in by Friday 15 January; read week 3 first.');
    expect(inside).toContain('DTSTART;VALUE=DATE:20270302');
    await rm(at('new.imscc'));
  });

  it('gives the dates as a table, and takes back one that was changed', async () => {
    await treenail(file, '--from', '2026-09-14', '--into', '2026-09-15', '--csv', at('dates.csv'));
    const csv = await readFile(at('dates.csv'), 'utf8');
    expect(csv).toContain('2026-11-03,2026-11-04');
    await writeFile(at('mine.csv'), csv.replace('2026-11-04', '2026-11-20'));
    const { said } = await treenail(file, '--table', at('mine.csv'), '--json');
    expect(Told.parse(JSON.parse(said)).rows[0]?.said.will).toBe('Fri 20 Nov 2026');
    await writeFile(at('wrong.csv'), csv.replace('2026-11-04', '31 Nov 2026'));
    const refused = Trouble.parse(JSON.parse((await treenail(file, '--table', at('wrong.csv'))).said));
    expect([refused.code, refused.line]).toEqual(['dates-table', 2]);
  });

  it('refuses what it does not understand, with what to do, and leaves nothing behind', async () => {
    await writeFile(at('none.ics'), 'no calendar');
    for (const [args, code, words] of [
      [['--from', '2026-09-14..2026-12-18'], 'usage', '--from and --into belong together'],
      [['--from', 'autumn', '--into', 'spring'], 'usage', 'autumn is not'],
      [['--from', '2026-09-14', '--into', '2027-01-11..2027-04-09'], 'usage', 'both terms, or both single days'],
      [['--from', '2026-12-18..2026-09-14', '--into', '2027-01-11..2027-04-09'], 'term-dates', 'not in order'],
      [['--away', ...TERMS], 'usage', '--away takes dates off'],
      [[...TERMS, '--break', '2026-10-26'], 'usage', 'A break is its first and last day'],
      [[...TERMS, '--zone', 'Atlantis/Harbour'], 'usage', 'no time zone'],
      [[...TERMS, '--closed', at('none.ics')], 'calendar-unread', 'no calendar that can be read'],
      [[...TERMS, '--closed', at('nowhere.ics')], 'no-such-file', 'nowhere.ics'],
      [[...TERMS, '--out', file], 'file-there', 'there already'],
      [[...TERMS, '--out', at('new.zip'), '--to', 'cc99'], 'unknown-target', 'cc99'],
    ] as const) {
      const told = await treenail(file, ...args);
      const trouble = Trouble.parse(JSON.parse(told.said));
      expect([told.code, trouble.code]).withContext(args.join(' ')).toEqual([2, code]);
      expect(trouble.detail).toContain(words);
    }
    expect(await readdir(folder)).not.toContain('new.zip');
  });
});
