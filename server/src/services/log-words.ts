import { Refusal, problem } from '@treenail/core';
import * as z from 'zod';
import type { DeliverAnswer, LogAnswer, Person } from '../contract/index.ts';
import { Instance, SettingRow } from '../db/models/index.ts';
import { readLog } from './documents.ts';
import { moveById, together } from './move-rows.ts';
import { audit, mustBe } from './people.ts';

/** Words that people gave to lines of a platform's log which Treenail does not know, kept for the next time. */

/** By the form of the line. */
const Given = z.record(z.string(), z.string());

const nameOf = (platform: string) => `log-words:${platform}`;

async function givenOf(platform: string): Promise<z.infer<typeof Given>> {
  const row = await SettingRow.findByPk(nameOf(platform));
  return row ? Given.parse(row.value) : {};
}

/** Longer than a word of a log is: a name or a hash of one thing. */
const LONG = 24;

/** What lines that say the same have in common: numbers, names and identifiers of single things are told from it. */
export function formOf(line: string): string {
  const [code = '', ...rest] = line.trim().split(/\s+/);
  return [code, ...rest.map((word) => (/\d/.test(word) || word.length > LONG ? '…' : word))].join(' ');
}

/** The log of a move's delivery, with the words that people gave where Treenail knows none. */
export async function toldLog(moveId: number): Promise<LogAnswer> {
  const [{ log }, given] = await Promise.all([readLog(moveId), givenOf(await platformOf(moveId))]);
  return { log: log.map((entry) => told(entry, given)) };
}

function told(entry: DeliverAnswer['log'][number], given: z.infer<typeof Given>): LogAnswer['log'][number] {
  const form = formOf(entry.line);
  const own = entry.words === null ? (given[form] ?? null) : null;
  return { ...entry, words: entry.words ?? own, form, given: own !== null };
}

async function platformOf(moveId: number): Promise<string> {
  const { destinationId } = await moveById(moveId);
  const { platform } = await Instance.findByPk(destinationId, { rejectOnEmpty: true });
  return platform;
}

/** Gives words to all lines of the form of one, at all instances of its platform; '' takes them away again. */
export async function giveWords(
  person: Person,
  moveId: number,
  { line, words }: { line: string; words: string },
): Promise<LogAnswer> {
  mustBe(person, 'administrator');
  const { log } = await readLog(moveId);
  const entry = log.find((one) => one.line === line);
  if (entry?.words !== null) {
    throw new Refusal(problem('not-found', 'There is no such line in the log, or what it means is known.'));
  }
  const platform = await platformOf(moveId);
  const form = formOf(line);
  await together(async (transaction) => {
    const name = nameOf(platform);
    // Two who give words at once lose none of them.
    const row = await SettingRow.findByPk(name, { transaction, lock: transaction.LOCK.UPDATE });
    const others = Object.entries(row ? Given.parse(row.value) : {}).filter(([of]) => of !== form);
    const value = Object.fromEntries(words.trim() === '' ? others : [...others, [form, words.trim()]]);
    await SettingRow.upsert({ name, value }, { transaction });
  });
  await audit(person, 'gave words to a line of a log', platform, { form, words: words.trim() });
  return toldLog(moveId);
}
