import { count, findingsOutside } from '@treenail/core';
import type { Services } from '../services/context.ts';
import { readDocument, writeDocument } from '../services/documents.ts';
import { MOST_ADDRESSES, answersKept, askAddress, keepAnswer, outsideAddresses, unasked } from '../services/outside.ts';
import { noteTidy } from '../services/tidy.ts';
import type { Handler } from '../jobs/worker.ts';
import { ofMove } from './of-move.ts';

/** Hosts that are asked at one time; one host is asked one address at a time. */
const HOSTS_AT_ONCE = 4;

/** Asks the outside addresses of a course that were not asked lately, and adds what is found to its findings. */
export const askOutside = (services: Services): Handler<'outside'> => ({
  run: async (context) => {
    const { move } = await ofMove(services, context.job);
    const [{ course }, { links }] = await Promise.all([readDocument(move.id, 'look'), readDocument(move.id, 'links')]);
    const addresses = outsideAddresses(course, links).slice(0, MOST_ADDRESSES);
    const left = await unasked(addresses);
    const byHost = new Map<string, string[]>();
    for (const address of left) {
      const host = new URL(address).host;
      byHost.set(host, [...(byHost.get(host) ?? []), address]);
    }
    let done = addresses.length - left.length;
    const queue = [...byHost.values()];
    const one = async () => {
      for (let host = queue.shift(); host; host = queue.shift()) {
        for (const address of host) {
          await keepAnswer(await askAddress(address, services.config.examplesAt, context.signal));
          done++;
          await context.report({ words: 'asking outside addresses', done, total: addresses.length, unit: 'addresses' });
        }
      }
    };
    await Promise.all(Array.from({ length: HOSTS_AT_ONCE }, one));
    const answers = await answersKept(addresses);
    const { findings } = await readDocument(move.id, 'findings');
    const found = findingsOutside(course, links, answers);
    const kept = findings.filter((f) => f.kind !== 'link-outside-gone');
    const at = kept.findIndex((f) => !f.kind.startsWith('link-'));
    const all = at === -1 ? [...kept, ...found] : [...kept.slice(0, at), ...found, ...kept.slice(at)];
    await writeDocument(move.id, 'findings', { findings: all });
    await noteTidy(move, all);
    await context.report({
      words: `${count(addresses.length, 'outside address', 'outside addresses')} asked, ${count(found.length, 'finding')}`,
    });
  },
});
