import { readFile, writeFile } from 'node:fs/promises';
import * as z from 'zod';
import { nodeEngine } from '../container/node.ts';
import { planPackage, targetById, writePackage } from '../formats/index.ts';
import { byStep } from '../inspect/index.ts';
import { Refusal, count, problem, type Term } from '../model/index.ts';
import {
  NO_REDATING,
  calendarDates,
  checkPlan,
  clockWords,
  closedDaysOf,
  datesAsCsv,
  datesFromCsv,
  datesOf,
  redated,
  workingCopy,
  writtenDates,
  type DateRule,
  type RedatePlan,
  type RedateRow,
} from '../reshape/index.ts';
import { look, readCall, standing, usage, withFile, type Say } from './call.ts';
import { daysOf } from './days.ts';
import { lossesOf, targetFor } from './target.ts';
import { writing } from './writing.ts';

const OPTIONS = {
  from: { type: 'string' },
  into: { type: 'string' },
  break: { type: 'string', multiple: true },
  closed: { type: 'string' },
  zone: { type: 'string' },
  stretch: { type: 'boolean' },
  away: { type: 'boolean' },
  texts: { type: 'boolean' },
  csv: { type: 'string' },
  table: { type: 'string' },
} as const;

const Options = z.object({
  from: z.string().default(''),
  into: z.string().default(''),
  break: z.array(z.string()).default([]),
  closed: z.string().default(''),
  zone: z.string().default('UTC'),
  stretch: z.boolean().default(false),
  away: z.boolean().default(false),
  texts: z.boolean().default(false),
  csv: z.string().default(''),
  table: z.string().default(''),
});
type Options = z.output<typeof Options>;

/** Tells the dates of a package as a rule makes them, and writes it with them where that is asked for. */
export async function redate(args: readonly string[], say: Say): Promise<void> {
  const call = await readCall(args, 1, OPTIONS);
  const options = Options.parse(call.own);
  const { files, json, out, to, opening } = call;
  const plan: RedatePlan = { ...NO_REDATING, rule: ruleOf(options), allTexts: options.texts };
  checkPlan(plan);
  mustBeZone(options.zone);
  for (const path of [out, options.csv]) {
    if (path !== '' && (await standing(path)) !== null)
      throw new Refusal(problem('file-there', `${path} is there already.`, { file: path }));
  }
  const closed = options.closed === '' ? [] : closedDaysOf(await textOf(options.closed));
  const today = new Date().toISOString().slice(0, 10);
  await withFile(files[0] ?? '', opening, async (pkg) => {
    const looked = await look(pkg, opening, { today });
    const written = writtenDates(looked.course, byStep(looked.findings).redate);
    const calendars = await calendarDates(pkg, looked.course);
    const dates = [...datesOf(looked.course), ...calendars.dates];
    const context = { zone: options.zone, closed, today, written };
    const byRule = redated(dates, plan, context);
    const set = options.table === '' ? plan : await withTable(plan, byRule.rows, options);
    const { rows, sums } = set === plan ? byRule : redated(dates, set, context);
    if (options.csv !== '') await writeFile(options.csv, datesAsCsv(rows, options.zone), { flag: 'wx' });
    const made =
      out === ''
        ? null
        : await writing(out, async (sink) => {
            const target = targetFor(looked.course, to);
            const redates = { rows, written };
            const work = await workingCopy(pkg, looked, [], [], { engine: nodeEngine, redates });
            const entries = await planPackage(targetById(target.id).format, work.course, target, work.pkg);
            await writePackage(target, entries, work.pkg, sink, { engine: nodeEngine });
            return {
              format: target.id,
              label: target.label,
              failed: work.failed,
              losses: lossesOf(work.course, target),
            };
          });
    const notes = [...looked.notes, ...calendars.notes];
    if (json)
      say(
        JSON.stringify({ ...sums, rows: rows.map((row) => toldOf(row, options.zone)), notes, written: made }, null, 2),
      );
    else tell(rows, options, sums, say);
    if (made && !json) {
      const { label, losses, failed } = made.made;
      say(`${out}: ${label}, SHA-256 ${made.sha256}`);
      say(losses.length === 0 ? 'Nothing is lost.' : `${count(losses.length, 'item')} not whole:`);
      for (const { item, kind, outcome, why } of losses) say(`  ${item} [${kind}]: ${outcome}. ${why}`);
      for (const { why } of failed) say(`  a date in a text could not be written: ${why}`);
    }
  });
}

function ruleOf({ from, into, away, stretch, break: breaks }: Options): DateRule {
  if (away) {
    if (from !== '' || into !== '') throw usage('--away takes dates off: it goes with neither --from nor --into.');
    return { is: 'away' };
  }
  if (from === '' && into === '') return { is: 'keep' };
  if (from === '' || into === '') throw usage('--from and --into belong together.');
  const [first, last] = [from, into].map((words) => daysOf(words));
  if (!first || !last) throw usage('--from and --into are needed.');
  if (first.length !== last.length) throw usage('--from and --into are both terms, or both single days.');
  if (first.length === 1) {
    if (stretch) throw usage('--stretch needs terms: their first and last days.');
    return { is: 'days', from: first[0] ?? '', to: last[0] ?? '' };
  }
  const pauses = breaks.map((words) => {
    const days = daysOf(words);
    if (days.length !== 2) throw usage(`A break is its first and last day, 2026-10-26..2026-10-30; ${words} is not.`);
    return { name: 'break', from: days[0] ?? '', to: days[1] ?? '' };
  });
  const termOf = (words: string, [a = '', b = '']: readonly string[]): Term => ({
    name: words,
    from: a,
    to: b,
    breaks: pauses.filter((p) => a <= p.from && p.to <= b),
  });
  return { is: stretch ? 'stretch' : 'term', from: termOf(from, first), to: termOf(into, last) };
}

function mustBeZone(zone: string): void {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
  } catch {
    throw usage(`There is no time zone ${zone}; one is Europe/London.`);
  }
}

async function textOf(path: string): Promise<string> {
  if ((await standing(path)) !== 'file')
    throw new Refusal(problem('no-such-file', `There is no file ${path}.`, { file: path }));
  return readFile(path, 'utf8');
}

/** @throws Refusal `dates-table` with the first line that is wrong, and how many are */
async function withTable(plan: RedatePlan, rows: readonly RedateRow[], { table, zone }: Options): Promise<RedatePlan> {
  const { byHand, texts, problems } = datesFromCsv(await textOf(table), rows, zone, table);
  const [first, ...more] = problems;
  if (first) {
    const rest = more.length === 0 ? '' : ` ${count(more.length, 'line')} more can’t be taken either.`;
    throw new Refusal({ ...first, message: first.message + rest });
  }
  return { ...plan, byHand, texts };
}

function toldOf({ key, name, kind, title, was, will, state, byHand, notes, words }: RedateRow, zone: string) {
  const said = (at: typeof was) => (at === null ? null : clockWords(at, zone));
  return { key, name, kind, title, was, will, state, byHand, notes, words, said: { was: said(was), will: said(will) } };
}

function tell(
  rows: readonly RedateRow[],
  { zone }: Options,
  { dates, moved, look: open, texts }: ReturnType<typeof redated>['sums'],
  say: Say,
): void {
  say(`${count(dates, 'date')}, ${moved} moved, ${open} to look at; ${texts.all} in texts, ${texts.put} written anew`);
  for (const { title, name, was, will, words, notes } of rows) {
    const before = words ? `“${words.phrase}”` : was ? clockWords(was, zone) : '';
    const after = words
      ? words.becomes === null
        ? 'read it'
        : `“${words.becomes}”`
      : will
        ? clockWords(will, zone)
        : 'taken away';
    const said = notes.map((note) => note.words).join('; ');
    say(`  ${title} [${name}]: ${before} → ${after}${said === '' ? '' : `   (${said})`}`);
  }
}
