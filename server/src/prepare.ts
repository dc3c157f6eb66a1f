import { FINDING_SETTINGS } from '@treenail/core';
import * as z from 'zod';
import { configFromEnvironment } from './config.ts';
import { bindModels, connect, migrate } from './db/index.ts';
import { ClosedDay, Term } from './contract/index.ts';
import { SettingRow } from './db/index.ts';
import { addInstance } from './services/instances.ts';
import { addPerson } from './services/people.ts';

/** Brings the database up to date and, asked by TREENAIL_DEMO, puts the demo's people and instances into it. */
const Demo = z.object({
  people: z.array(
    z.object({
      name: z.string(),
      email: z.email(),
      role: z.enum(['administrator', 'instructor']),
      password: z.string(),
    }),
  ),
  instances: z.array(
    z.object({
      name: z.string(),
      platform: z.string(),
      baseUrl: z.url(),
      credential: z.string(),
      cutOff: z.object({ at: z.iso.datetime(), why: z.string() }).optional(),
    }),
  ),
  terms: z.array(Term),
  closed: z.array(ClosedDay),
  noPersons: z.array(z.string()),
});

const config = configFromEnvironment();
const sequelize = connect(config.db);
bindModels(sequelize);
await migrate(sequelize);
const demo = process.env['TREENAIL_DEMO'];
if (demo !== undefined) {
  const { people, instances, terms, closed, noPersons } = Demo.parse(JSON.parse(demo));
  for (const { name, email, role, password } of people) await addPerson(name, email, role, password);
  for (const { cutOff, ...instance } of instances) {
    const row = await addInstance(config.secret, instance);
    if (cutOff && !row.cutOff) await row.update({ cutOff: new Date(cutOff.at), cutOffWhy: cutOff.why });
  }
  await SettingRow.findOrCreate({ where: { name: 'terms' }, defaults: { name: 'terms', value: terms } });
  await SettingRow.findOrCreate({ where: { name: 'closed-days' }, defaults: { name: 'closed-days', value: closed } });
  const rules = { ...FINDING_SETTINGS, noPersons };
  await SettingRow.findOrCreate({ where: { name: 'house-rules' }, defaults: { name: 'house-rules', value: rules } });
}
await sequelize.close();
