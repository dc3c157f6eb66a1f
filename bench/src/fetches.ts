import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import * as z from 'zod';
import { PEOPLE, bringUp } from '../../scripts/demo.mjs';
import { stopAll } from '../../scripts/machine.mjs';

/**
 * Forty fetches of about 20 MB from one platform that builds one export at a time: the wall time from asking to the last
 * kept copy, beside the platform's own time added up. What is more is Treenail's share.
 */
const PACE = 2000;
const Jobs = z.array(z.object({ id: z.number(), state: z.string(), words: z.string() }));
const Courses = z.object({ rows: z.array(z.object({ id: z.number(), instance: z.object({ name: z.string() }) })) });
const Copies = z.object({ rows: z.array(z.object({ size: z.number() })) });
const Bundles = z.object({ bundles: z.array(z.object({ took: z.number() })) });

const folder = await mkdtemp(join(tmpdir(), 'treenail-fetches-'));
try {
  const up = await bringUp({
    data: folder,
    port: 4900,
    web: undefined,
    fresh: true,
    quick: true,
    pace: PACE,
    poll: 500,
    log: 'error',
    workers: 2,
    padding: 20e6,
    films: 0.02,
  });
  const [admin] = PEOPLE;
  const signed = await fetch(`${up.address}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: admin?.email, password: admin?.password }),
  });
  const cookie = signed.headers.get('set-cookie')?.split(';')[0] ?? '';
  const ask = async (path: string, body?: unknown): Promise<unknown> => {
    const answer = await fetch(`${up.address}/api${path}`, {
      headers: { cookie, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) }),
    });
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
    return answer.json();
  };
  const turn = () => new Promise((done) => setTimeout(done, 200));
  let live: number[] = [];
  while (live.length < 26) {
    live = Courses.parse(await ask('/courses?limit=1000')).rows.flatMap((c) =>
      c.instance.name === 'Marrowick Live' ? [c.id] : [],
    );
    await turn();
  }
  const options = { parts: null, copyLinked: true, personal: false, reason: '', removeAfter: false };
  const began = Date.now();
  const asked = [
    ...Jobs.parse(await ask('/fetches', { courseIds: live, options: { ...options, form: 'archive' } })),
    ...Jobs.parse(await ask('/fetches', { courseIds: live.slice(0, 14), options: { ...options, form: 'standard' } })),
  ].map((j) => j.id);
  for (;;) {
    const open = Jobs.parse(await ask('/jobs')).filter((j) => asked.includes(j.id));
    const failed = open.find((j) => j.state === 'failed');
    if (failed) throw new Error(failed.words);
    if (open.filter((j) => j.state === 'done').length === asked.length) break;
    await turn();
  }
  const wall = (Date.now() - began) / 1000;
  const copies = Copies.parse(await ask('/copies?limit=1000')).rows;
  const told = await fetch(`${up.quernhold}/api/bundles?all=1`, {
    headers: { 'X-Quernhold-Token': up.tokens.quernhold },
  });
  const own = Bundles.parse(await told.json()).bundles.reduce((sum, b) => sum + b.took, 0) / 1000;
  const size = Math.round(copies.reduce((sum, c) => sum + c.size, 0) / copies.length / 1e6);
  console.log(
    `${asked.length} fetches of ${size} MB: ${wall.toFixed(1)} s, the platform's own queue ${own.toFixed(1)} s; Treenail's share ${(100 * (1 - own / wall)).toFixed(1)} % (to reach: under 10 %)`,
  );
} finally {
  await stopAll();
  await rm(folder, { recursive: true, force: true });
}
