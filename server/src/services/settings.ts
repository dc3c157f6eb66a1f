import {
  FINDING_SETTINGS,
  FindingSettings,
  NAMING_RULE,
  Refusal,
  checkNamingRule,
  count,
  problem,
  whyUnfit,
} from '@treenail/core';
import * as z from 'zod';
import { ClosedDay, Term, Zone, type Person } from '../contract/index.ts';
import { SettingRow } from '../db/models/index.ts';
import type { Services } from './context.ts';
import { audit, mustBe } from './people.ts';

/** The rule by which copies and packages are named. */
export async function namingRule(): Promise<string> {
  const row = await SettingRow.findByPk('naming-rule');
  return row ? z.string().parse(row.value) : NAMING_RULE;
}

/** The time zone that the days of the house are days of. */
export async function zone({ config }: Pick<Services, 'config'>): Promise<string> {
  const row = await SettingRow.findByPk('zone');
  return row ? Zone.parse(row.value) : config.zone;
}

export async function setZone(person: Person, name: string): Promise<string> {
  mustBe(person, 'administrator');
  await SettingRow.upsert({ name: 'zone', value: name });
  await audit(person, 'time zone set', name);
  return name;
}

/** The terms of the house, with their breaks. */
export async function terms(): Promise<Term[]> {
  const row = await SettingRow.findByPk('terms');
  return row ? z.array(Term).parse(row.value) : [];
}

export async function setTerms(person: Person, list: readonly Term[]): Promise<Term[]> {
  mustBe(person, 'administrator');
  for (const term of list) {
    if (term.from > term.to || term.breaks.some((b) => b.from > b.to || b.from < term.from || b.to > term.to)) {
      throw new Refusal(problem('term-dates', `The dates of ${term.name} are not in order.`));
    }
  }
  const sorted = [...list].sort((a, b) => (a.from < b.from ? -1 : 1));
  await SettingRow.upsert({ name: 'terms', value: sorted });
  await audit(person, 'term calendar set', `${sorted.length} terms`);
  return sorted;
}

/** Days on which the house is closed, the earliest first. */
export async function closedDays(): Promise<ClosedDay[]> {
  const row = await SettingRow.findByPk('closed-days');
  return row ? z.array(ClosedDay).parse(row.value) : [];
}

/** A day that is named twice is closed once. */
export async function setClosedDays(person: Person, list: readonly ClosedDay[]): Promise<ClosedDay[]> {
  mustBe(person, 'administrator');
  const byDay = new Map(list.map((day) => [day.on, day]));
  const sorted = [...byDay.values()].sort((a, b) => (a.on < b.on ? -1 : 1));
  await SettingRow.upsert({ name: 'closed-days', value: sorted });
  await audit(person, 'closed days set', count(sorted.length, 'day'));
  return sorted;
}

export async function setNamingRule(person: Person, rule: string): Promise<string> {
  mustBe(person, 'administrator');
  const checked = checkNamingRule(rule.trim());
  await SettingRow.upsert({ name: 'naming-rule', value: checked });
  await audit(person, 'naming rule set', checked.slice(0, 190));
  return checked;
}

/** What findings look for by the habits of the house: placeholders, patterns of people, icons. */
export async function findingSettings(): Promise<FindingSettings> {
  const row = await SettingRow.findByPk('house-rules');
  return row ? FindingSettings.parse(row.value) : FINDING_SETTINGS;
}

export async function setFindingSettings(person: Person, rules: FindingSettings): Promise<FindingSettings> {
  mustBe(person, 'administrator');
  const patterns = [...rules.placeholders, ...rules.personal.map((p) => p.pattern), rules.peopleFiles];
  for (const pattern of patterns) checkPattern(pattern);
  await SettingRow.upsert({ name: 'house-rules', value: rules });
  await audit(person, 'house rules set', `${patterns.length} patterns`);
  return rules;
}

/** @throws Refusal `pattern-unfit` */
function checkPattern(pattern: string): void {
  const why = whyUnfit(pattern);
  if (why === null) return;
  throw new Refusal(problem('pattern-unfit', `The pattern ${pattern} ${why}.`));
}
