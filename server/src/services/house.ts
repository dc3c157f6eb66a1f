import { NAMING_RULE, checkNamingRule } from '@treenail/core';
import * as z from 'zod';
import type { Person } from '../api/contract.ts';
import { House } from '../db/models.ts';
import { audit, mustBe } from './people.ts';

/** The rule by which copies and packages are named. */
export async function namingRule(): Promise<string> {
  const row = await House.findByPk('naming-rule');
  return row ? z.string().parse(row.value) : NAMING_RULE;
}

export async function setNamingRule(person: Person, rule: string): Promise<string> {
  mustBe(person, 'administrator');
  const checked = checkNamingRule(rule.trim());
  await House.upsert({ name: 'naming-rule', value: checked });
  await audit(person, 'naming rule set', checked.slice(0, 190));
  return checked;
}
