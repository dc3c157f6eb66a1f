import { TARGETS } from '../formats/index.ts';
import type { Say } from './call.ts';

/** What packages can be written as. */
export async function targets(args: readonly string[], say: Say): Promise<void> {
  const list = TARGETS.map(({ id, label, version, extension }) => ({ id, label, version, extension }));
  if (args.includes('--json')) say(JSON.stringify(list, null, 2));
  else for (const { id, label } of list) say(`${id.padEnd(14)} ${label}`);
}
