/**
 * npm start: makes the machine ready, brings everything up, prints the address.
 *   npm start -- --fresh    begins anew
 *   TREENAIL_PORT=4800 TREENAIL_DATA=/somewhere npm start    beside another clone
 */
import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join, resolve } from 'node:path';
import { ROOT, ensureDebian, ensureNpm, ensureWeb, fail, stopAll } from './machine.mjs';

const [major, minor] = process.versions.node.split('.').map(Number);
if (major < 20 || (major === 20 && minor < 19)) fail(`Treenail needs Node 20.19 or newer; this is ${process.version}.`);

const known = ['--fresh'];
const strange = process.argv.slice(2).filter((a) => !known.includes(a));
if (strange.length > 0) fail(`Not understood: ${strange.join(' ')}. Known: ${known.join(', ')}`);

let stopping = false;
const stop = async () => {
  if (stopping) return;
  stopping = true;
  console.log('\nStopping');
  await stopAll();
  process.exit(0);
};
process.on('SIGINT', stop);
process.on('SIGTERM', stop);

ensureDebian([{ program: 'mariadbd', debian: 'mariadb-server' }]);
ensureNpm();
const web = ensureWeb();
const { bringUp, PEOPLE } = await import('./demo.mjs');
const { makePast } = await import('./past.mjs');
const data = resolve(process.env.TREENAIL_DATA ?? join(ROOT, '.data'));
const begins = process.argv.includes('--fresh') || !existsSync(join(data, 'database'));
const up = await bringUp({
  data,
  port: Number(process.env.TREENAIL_PORT ?? 4700),
  web,
  fresh: process.argv.includes('--fresh'),
  pace: Number(process.env.TREENAIL_PACE_MS ?? 5000),
  workers: Math.min(4, availableParallelism()),
  supervised: true,
}).catch(async (error) => {
  await stopAll();
  fail(error.message);
});
console.log(`
Treenail is at ${up.address}

${PEOPLE.map((p) => `  ${p.role.padEnd(14)} ${p.email.padEnd(32)} ${p.password}`).join('\n')}

The stand-in platforms: Quernhold ${up.quernhold}, Oxlea ${up.oxlea}, Tarnhall ${up.tarnhall}; the mailbox ${up.mailbox}
Data and logs are in ${data}. Ctrl-C stops everything.`);
if (begins && process.env.TREENAIL_PAST !== 'no') {
  const began = Date.now();
  await makePast(up, PEOPLE[0])
    .then(() => {
      console.log(`\nThe demo has its past, after ${Math.round((Date.now() - began) / 1000)} s.`);
    })
    // Treenail is there all the same.
    .catch((error) => console.error(`\nThe demo's past could not be made: ${error.message}`));
}
