import { standIns, until, zipOf } from '../testing.ts';
import { quernhold } from './app.ts';
import { untouched, type QCourse } from './model.ts';
import { NOTHING } from './rich.ts';

interface Members {
  learners: string[];
  work: string[];
  turn: number;
  refs: string[];
  files: string[];
}

const CARTRIDGE = {
  'imsmanifest.xml':
    '<manifest><organizations><organization><item><item identifierref="r1"><title>Splices</title></item></item></organization></organizations><resources><resource identifier="r1" type="webcontent" href="a/Splices.html"><file href="a/Splices.html"/></resource></resources></manifest>',
  'a/Splices.html': '<p>Short and long</p>',
};

const course = (more: Partial<QCourse> = {}): QCourse => ({
  ...{ id: 'c9', code: 'RIG 140', section: '01', term: 'Spring 2027', title: 'Rigging', owner: 'R. Tole', about: '' },
  ...{ keywords: [], changedAt: '2026-11-01T00:00:00Z', banks: [], quota: 2 ** 30 },
  nodes: [
    {
      kind: 'folder',
      ref: 'f1',
      title: 'Week 1',
      inside: [{ kind: 'link', ref: 'n1', title: 'Tides', url: 'x', newWindow: false }],
    },
    { kind: 'talk', ref: 'n2', title: 'Hello', text: '', attached: [] },
  ],
  rich: {
    ...structuredClone(NOTHING),
    people: [{ name: 'Ana Willet', mail: '', number: 'M1' }],
    work: [{ person: 'M1', item: 'n2', score: 7 }],
    rubrics: [{ ref: 'b1', title: 'Rubric', rows: [] }],
  },
  ...untouched(),
  ...more,
});

describe('A course of Quernhold that people are in', () => {
  const { settings, serve } = standIns();
  const open = async (more: Partial<QCourse> = {}) => serve(await quernhold(settings(), async () => [course(more)]));
  const asked = (base: string, path: string, method = 'GET', body?: unknown) =>
    fetch(`${base}/api${path}`, {
      method,
      headers: { 'X-Quernhold-Token': 'secret', 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  const members = async (base: string) => (await (await asked(base, '/courses/c9/members')).json()) as Members;
  const send = async (base: string, note: string) => {
    const zip = await zipOf(CARTRIDGE);
    const { id } = (await (await asked(base, '/arrivals', 'POST', { bytes: zip.length, note })).json()) as {
      id: string;
    };
    const headers = { 'X-Quernhold-Token': 'secret' };
    await fetch(`${base}/api/arrivals/${id}?from=0`, { method: 'PUT', headers, body: new Uint8Array(zip) });
    const answer = await asked(base, '/courses/c9/restores', 'POST', { arrival: id, note });
    if (!answer.ok) return answer.status;
    const restore = (await answer.json()) as { id: string };
    return until(async () => {
      const { state } = (await (await asked(base, `/restores/${restore.id}`)).json()) as { state: string };
      return state === 'restored' || state === 'failed' ? state : null;
    });
  };

  it('is emptied once for each that asks, and keeps its people', async () => {
    const base = await open();
    expect((await members(base)).refs).toEqual(['f1', 'n1', 'n2', 'b1']);
    expect((await asked(base, '/courses/c9/emptied', 'POST', { note: 'a' })).status).toBe(204);
    const after = await members(base);
    expect([after.refs, after.work, after.learners, after.turn]).toEqual([[], [], ['M1'], 1]);
    expect((await asked(base, '/courses/c9/emptied', 'POST', { note: 'a' })).status).toBe(204);
    expect((await members(base)).turn).toBe(1);
  });

  it('lets go of what is named, but of nothing that learners worked in', async () => {
    const base = await open();
    expect((await asked(base, '/courses/c9/removals', 'POST', { refs: ['n1', 'n2'], files: [] })).status).toBe(409);
    expect((await asked(base, '/courses/c9/removals', 'POST', { refs: ['f1', 'n1', 'b1'], files: [] })).status).toBe(
      204,
    );
    expect((await members(base)).refs).toEqual(['n2']);
    expect((await asked(base, '/courses/c9', 'DELETE')).status).toBe(409);
  });

  it('takes a cartridge in beside what is there, its files where nothing of theirs is written over', async () => {
    const base = await open();
    expect(await send(base, 'first')).toBe('restored');
    const once = await members(base);
    expect(await send(base, 'second')).toBe('restored');
    const twice = await members(base);
    const came = (now: Members, before: string[]) => now.refs.filter((ref) => !before.includes(ref)).length;
    expect([came(once, ['f1', 'n1', 'n2', 'b1']), came(twice, once.refs)]).toEqual([1, 1]);
    expect([once.files.length, twice.files.length]).toEqual([1, 2]);
    // What came first can be taken out again, and nothing else goes with it.
    const first = once.refs.filter((ref) => ref.startsWith('c9-n'));
    expect((await asked(base, '/courses/c9/removals', 'POST', { refs: first, files: once.files })).status).toBe(204);
    const left = await members(base);
    expect(left.refs).toEqual(twice.refs.filter((ref) => !first.includes(ref)));
    expect(left.files).toEqual(twice.files.filter((file) => !once.files.includes(file)));
  });

  it('takes nothing and loses nothing once it is closed, and goes altogether where nobody worked in it', async () => {
    const closed = await open({ closed: true });
    expect(await send(closed, 'a')).toBe(423);
    expect((await asked(closed, '/courses/c9/emptied', 'POST', { note: 'a' })).status).toBe(423);
    expect((await asked(closed, '/courses/c9', 'DELETE')).status).toBe(423);
  });

  it('is worked in as learners do, and goes altogether where nobody did', async () => {
    const base = await open({ rich: structuredClone(NOTHING) });
    expect((await asked(base, '/courses/c9/work', 'POST', { person: 'M7', item: 'n9', score: 1 })).status).toBe(404);
    expect((await asked(base, '/courses/c9', 'DELETE')).status).toBe(204);
    expect((await asked(base, '/courses/c9', 'DELETE')).status).toBe(204);
    expect((await asked(base, '/courses/c9/members')).status).toBe(404);
  });
});
