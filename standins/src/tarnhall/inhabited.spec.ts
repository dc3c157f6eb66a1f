import { standIns, until, zipOf } from '../testing.ts';
import { tarnhall } from './app.ts';
import type { TSpace } from './model.ts';
import { SEED } from './seed.ts';

interface People {
  people: { name: string }[];
  work: { entry: string }[];
  turn: number;
}
interface Contents {
  units: { id: string; title: string; entries: { id: string; title: string; body: string }[] }[];
}

describe('A space of Tarnhall that people are in', () => {
  const { settings, serve } = standIns();
  const asked = async (base: string, path: string, method = 'GET', body?: unknown) => {
    const headers = { Authorization: 'Key secret', 'content-type': 'application/json' };
    return fetch(`${base}/api${path}`, {
      method,
      headers,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  };
  const told = async <T>(base: string, path: string): Promise<T> => (await (await asked(base, path)).json()) as T;
  const trial = async (change: Partial<TSpace> = {}) => {
    const seed = SEED.filter((s) => s.id === 's3').map((s) => ({ ...structuredClone(s), ...change }));
    return serve(tarnhall(settings(), () => seed));
  };
  const contents = (base: string) => told<Contents>(base, '/spaces/s3/contents');
  const people = (base: string) => told<People>(base, '/spaces/s3/people');
  const titles = async (base: string) =>
    (await contents(base)).units.map((u) => [u.title, u.entries.map((e) => e.title)]);

  it('is cleared once for each that asks, and keeps its people', async () => {
    const base = await trial();
    const before = await people(base);
    expect([before.people.length, before.work.length]).toEqual([4, 3]);
    expect((await asked(base, '/spaces/s3/clear', 'POST', { remark: 'a' })).status).toBe(204);
    expect(await titles(base)).toEqual([]);
    const after = await people(base);
    expect([after.people, after.work]).toEqual([before.people, []]);
    expect(after.turn).toBeGreaterThan(before.turn);
    // Asked again by the same, it takes nothing away that came since.
    expect((await asked(base, '/spaces/s3/clear', 'POST', { remark: 'a' })).status).toBe(204);
    expect((await people(base)).turn).toBe(after.turn);
  });

  it('lets go of what is named, but of nothing that learners worked in', async () => {
    const base = await trial();
    expect((await asked(base, '/spaces/s3/without', 'POST', { parts: ['e11', 'e12'] })).status).toBe(409);
    expect((await asked(base, '/spaces/s3/without', 'POST', { parts: ['u11', 'u12', 'e13'] })).status).toBe(204);
    // Units go only once they are empty.
    expect(await titles(base)).toEqual([
      ['Reading the sky', ['Fronts: what to know', 'A cloud diary']],
      ['Wind and pressure', ['What did the glass say?']],
    ]);
    expect((await asked(base, '/spaces/s3', 'DELETE')).status).toBe(409);
  });

  it('goes altogether where nobody worked in it, however often it is asked for', async () => {
    const base = await trial({ work: [] });
    expect((await asked(base, '/spaces/s3', 'DELETE')).status).toBe(204);
    expect((await asked(base, '/spaces/s3', 'DELETE')).status).toBe(204);
    expect((await asked(base, '/spaces/s3/people')).status).toBe(404);
  });

  it('is read and not changed where its keeper keeps it to themselves', async () => {
    const base = await trial({ sealed: true });
    expect(((await people(base)) as unknown as { may: string }).may).toBe('read');
    expect((await asked(base, '/spaces/s3/clear', 'POST', { remark: 'a' })).status).toBe(403);
    expect((await asked(base, '/spaces/s3', 'DELETE')).status).toBe(403);
    expect((await titles(base)).length).toBe(2);
  });

  it('takes nothing and loses nothing once it is shut', async () => {
    const base = await trial({ shut: true });
    const zip = await zipOf({ 'imsmanifest.xml': '<manifest/>' });
    const drop = (await (await asked(base, '/drops', 'POST', { bytes: zip.length, remark: 'r' })).json()) as {
      id: string;
    };
    const run = { drop: drop.id, mode: 'beside', remark: 'r' };
    expect((await asked(base, '/spaces/s3/runs', 'POST', run)).status).toBe(423);
    expect((await asked(base, '/spaces/s3/clear', 'POST', { remark: 'a' })).status).toBe(423);
    expect((await asked(base, '/spaces/s3/without', 'POST', { parts: ['e11'] })).status).toBe(423);
    expect((await asked(base, '/spaces/s3', 'DELETE')).status).toBe(423);
    expect((await titles(base)).length).toBe(2);
  });

  it('has what stood in it when a run that was cut short begins anew there, and what the run brings once', async () => {
    const its = settings();
    const seed = SEED.filter((s) => s.id === 's3').map((s) => structuredClone(s));
    const base = await serve(tarnhall(its, () => seed));
    const zip = await zipOf({
      'imsmanifest.xml':
        '<manifest><organizations><organization><item><item identifier="n"><title>New unit</title>' +
        Array.from(
          { length: 30 },
          (_, i) => `<item identifier="i${i}" identifierref="r${i}"><title>P${i}</title></item>`,
        ).join('') +
        '</item></item></organization></organizations><resources>' +
        Array.from(
          { length: 30 },
          (_, i) => `<resource identifier="r${i}" type="webcontent" href="p.html"><file href="p.html"/></resource>`,
        ).join('') +
        '</resources></manifest>',
      'p.html': '<p>Words</p>',
    });
    const drop = (await (await asked(base, '/drops', 'POST', { bytes: zip.length, remark: 'r' })).json()) as {
      id: string;
    };
    await fetch(`${base}/api/drops/${drop.id}?from=0`, {
      method: 'PUT',
      headers: { Authorization: 'Key secret' },
      body: new Uint8Array(zip),
    });
    const run = { drop: drop.id, mode: 'beside', remark: 'r' };
    const { run: id } = (await (await asked(base, '/spaces/s3/runs', 'POST', run)).json()) as { run: string };
    const state = (at: string) => told<{ state: string; done: number }>(at, `/runs/${id}`);
    await until(async () => ((await state(base)).done > 2 ? true : null));
    // Another process takes over what this one has written down so far.
    const again = await serve(tarnhall(its, () => []));
    await until(async () => ((await state(again)).state === 'ended' ? true : null));
    const [sky, wind, ...more] = (await contents(again)).units;
    expect([sky?.title, wind?.title, more.map((u) => [u.title, u.entries.length])]).toEqual([
      'Reading the sky',
      'Wind and pressure',
      [['New unit', 30]],
    ]);
    expect((await told<People>(again, '/spaces/s3/people')).work.length).toBe(3);
  });
});
