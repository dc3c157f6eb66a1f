import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildCourse } from './demo/build.ts';
import { BTB210, EST120, NAV101 } from './demo/index.ts';
import type { NodePlan } from './demo/plan.ts';
import { oxlea } from './oxlea/app.ts';
import { buildBook } from './oxlea/build.ts';
import { quernhold } from './quernhold/app.ts';
import { QUESTIONS, standIns, until, zipOf } from './testing.ts';

describe('The stand-ins', () => {
  const { own, settings, serve } = standIns();

  describe('Quernhold', () => {
    interface Bundle {
      bundle: string;
      state: string;
      ahead: number;
      bytes: number | null;
    }
    const seed = (at: string) => buildCourse(NAV101, 'c1', join(at, 'c1')).then((course) => [course]);
    const call = async <T>(base: string, path: string, init: RequestInit = {}): Promise<T> => {
      const answer = await fetch(`${base}/api${path}`, {
        ...init,
        headers: { 'X-Quernhold-Token': 'secret', 'content-type': 'application/json' },
      });
      return (await answer.json()) as T;
    };
    const ask = (base: string) =>
      call<Bundle>(base, '/courses/c1/bundles', {
        method: 'POST',
        body: JSON.stringify({ form: 'cartridge-1.1', note: 'mine' }),
      });

    it('puts an export behind two other people and builds it in its turn', async () => {
      const base = await serve(await quernhold(settings(), seed));
      const asked = Date.now();
      const { bundle, ahead } = await ask(base);
      expect(ahead).toBe(2);
      const seen = [ahead];
      const ready = await until(async () => {
        const now = await call<Bundle>(base, `/bundles/${bundle}`);
        seen.push(now.ahead);
        return now.state === 'ready' ? now : null;
      });
      // A busy machine looks seldom and may miss a place; it never sees the queue grow, and is served at its end.
      expect(seen).toEqual([...seen].sort((a, b) => b - a));
      expect(seen.at(-1)).toBe(0);
      expect(Date.now() - asked).toBeGreaterThanOrEqual(60 * (0.6 + 0.6 + 1));
      const file = await fetch(`${base}/api/bundles/${bundle}/file`, {
        headers: { 'X-Quernhold-Token': 'secret', Range: 'bytes=4-' },
      });
      expect(file.status).toBe(206);
      expect((await file.arrayBuffer()).byteLength).toBe((ready.bytes ?? 0) - 4);
    });

    it('says what its pages call it by, and gives what lies in the repository and nothing beside it', async () => {
      const base = await serve(await quernhold(settings(), seed));
      const about = await call<{ home: string }>(base, '/about');
      expect(about.home).toMatch(/^https:\/\/[a-z.]+\.example$/);
      await mkdir(join(own.folder, 'repository', 'safety'), { recursive: true });
      await writeFile(join(own.folder, 'repository', 'safety', 'eyes.txt'), 'Goggles');
      const given = async (path: string, token = 'secret') => {
        const answer = await fetch(`${base}/api/repository/${path}`, { headers: { 'X-Quernhold-Token': token } });
        return [answer.status, answer.ok ? await answer.text() : ''];
      };
      expect(await given('safety/eyes.txt')).toEqual([200, 'Goggles']);
      expect(await given('safety/eyes.txt', 'other')).toEqual([401, '']);
      expect((await given('safety/gone.txt'))[0]).toBe(404);
      expect((await given('..%2fstate.json'))[0]).not.toBe(200);
    });

    it('keeps its queue over a restart, and turns away who has no token', async () => {
      const base = await serve(await quernhold(settings({ pace: 60_000 }), seed));
      const { bundle } = await ask(base);
      const again = await serve(await quernhold(settings({ pace: 60_000 }), seed));
      expect((await call<Bundle>(again, `/bundles/${bundle}`)).ahead).toBe(2);
      expect((await fetch(`${again}/api/courses`)).status).toBe(401);
    });
  });

  it('restores its own archive exactly, and refuses one that is cut off', async () => {
    const app = await quernhold(settings({ othersAhead: 0 }), async (at) => [
      await buildCourse(EST120, 'c1', join(at, 'c1')),
    ]);
    const base = await serve(app);
    const headers = { 'X-Quernhold-Token': 'secret' };
    const ask = { form: 'archive', note: 'n', people: true, linked: 'copy' };
    const asked = await fetch(`${base}/api/courses/c1/bundles`, {
      method: 'POST',
      headers: { ...headers, 'content-type': 'application/json' },
      body: JSON.stringify(ask),
    });
    const { bundle } = (await asked.json()) as { bundle: string };
    const file = await until(async () => {
      const answer = await fetch(`${base}/api/bundles/${bundle}/file`, { headers });
      return answer.ok ? Buffer.from(await answer.arrayBuffer()) : null;
    });
    const partsOf = async (id: string) =>
      ((await (await fetch(`${base}/api/courses/${id}/parts`, { headers })).json()) as { parts: unknown }).parts;
    const send = async <T>(path: string, body: unknown): Promise<T> =>
      (
        await fetch(`${base}/api${path}`, {
          method: 'POST',
          headers: { ...headers, 'content-type': 'application/json' },
          body: JSON.stringify(body),
        })
      ).json() as Promise<T>;
    /** In two pieces, as after a cut connection. */
    const restore = async (bytes: Buffer) => {
      const shell = { code: 'X 1', section: '02', term: 'Spring 2027', title: 'A rehearsal', note: 'n' };
      const { id } = await send<{ id: string }>('/courses', shell);
      const arrival = await send<{ id: string }>('/arrivals', { bytes: bytes.length, note: 'n' });
      for (const [from, to] of [
        [0, Math.floor(bytes.length / 2)],
        [Math.floor(bytes.length / 2), bytes.length],
      ] as const) {
        const body = new Uint8Array(bytes.subarray(from, to));
        const sent = await fetch(`${base}/api/arrivals/${arrival.id}?from=${from}`, { method: 'PUT', headers, body });
        expect(sent.status).toBe(200);
      }
      const asked = await send<{ id: string }>(`/courses/${id}/restores`, { arrival: arrival.id, note: 'n' });
      const state = await until(async () => {
        const answer = await fetch(`${base}/api/restores/${asked.id}`, { headers });
        const { state: now } = (await answer.json()) as { state: string };
        return now === 'restored' || now === 'failed' ? now : null;
      });
      return { id, state };
    };
    const whole = await restore(file);
    expect(whole.state).toBe('restored');
    expect(await partsOf(whole.id)).toEqual(await partsOf('c1'));
    // What it says an export will hold is what its list says that there is.
    const listed = (await (await fetch(`${base}/api/courses`, { headers })).json()) as {
      courses: { id: string; parts: number }[];
    };
    const cost = await send<{ parts: number }>('/courses/c1/estimate', { form: 'archive' });
    expect(cost.parts).toBe(listed.courses.find((c) => c.id === 'c1')?.parts ?? -1);
    expect((await restore(file.subarray(0, file.length / 2))).state).toBe('failed');
    // A cartridge goes beside what is there, under numbers of its own; file names are made lower case.
    const cartridge = await zipOf({
      'imsmanifest.xml':
        '<manifest><organizations><organization><item><item identifier="f"><title>Folder</title><item identifier="a" identifierref="p"><title>Page</title></item><item identifier="b" identifierref="k"><title>Check</title></item></item></item></organization></organizations><resources><resource identifier="p" type="webcontent" href="Read/One.HTML"><file href="Read/One.HTML"/></resource><resource identifier="k" type="imsqti_xmlv1p2/imscc_xmlv1p1/assessment"><file href="k.xml"/></resource></resources></manifest>',
      'Read/One.HTML': '<html><body><p>Words</p></body></html>',
      'k.xml':
        '<questestinterop><assessment ident="k"><qtimetadata><qtimetadatafield><fieldlabel>qmd_timelimit</fieldlabel><fieldentry>20</fieldentry></qtimetadatafield></qtimetadata><section><item ident="q" title="One"><itemmetadata><qtimetadata><qtimetadatafield><fieldlabel>cc_profile</fieldlabel><fieldentry>cc.multiple_choice.v0p1</fieldentry></qtimetadatafield></qtimetadata></itemmetadata><presentation><material><mattext>Which?</mattext></material><response_lid ident="r"><render_choice><response_label ident="a"><material><mattext>this</mattext></material></response_label><response_label ident="b"><material><mattext>that</mattext></material></response_label></render_choice></response_lid></presentation><resprocessing><respcondition><conditionvar><varequal respident="r">b</varequal></conditionvar><setvar>100</setvar></respcondition></resprocessing></item></section></assessment></questestinterop>',
    });
    const questions = await restore(await zipOf(QUESTIONS));
    expect(await partsOf(questions.id)).toEqual([jasmine.objectContaining({ kind: 'bank', title: 'Bank 1' })]);
    const beside = await restore(cartridge);
    expect(beside.state).toBe('restored');
    expect((await partsOf(beside.id)) as object[]).toEqual([
      jasmine.objectContaining({
        title: 'Folder',
        inside: [jasmine.objectContaining({ kind: 'page', bytes: 38 }), jasmine.objectContaining({ kind: 'quiz' })],
      }),
    ]);
  });

  it('fails as it is told to, as often as it is told to, and is well again', async () => {
    const app = await quernhold(settings({ othersAhead: 0 }), async (at) => [
      await buildCourse(NAV101, 'c1', join(at, 'c1')),
    ]);
    const base = await serve(app);
    const statusOf = async () =>
      fetch(`${base}/api/courses`, { headers: { 'X-Quernhold-Token': 'secret' } }).then(
        (r) => r.status,
        () => 'nobody there',
      );
    const arm = (failure: string, times: number) =>
      fetch(`${base}/practice`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ failure, times }),
      });
    for (const [failure, status] of [
      ['errors', 500],
      ['token', 401],
      ['down', 'nobody there'],
    ] as const) {
      await arm(failure, 2);
      expect([await statusOf(), await statusOf(), await statusOf()]).toEqual([status, status, 200]);
    }
    expect((await arm('spells', 1)).status).toBe(400);
    expect(await (await fetch(`${base}/practice`)).text()).toContain('what goes wrong next');
  });

  it('throws Oxlea parcels away when their time is over', async () => {
    const seed = async (at: string) => [await buildBook(EST120, 'b1', join(at, 'b1'))];
    const base = await serve(await oxlea(settings({ expiryMs: 50 }), seed));
    const headers = { Authorization: 'Bearer secret', 'content-type': 'application/json' };
    const body = JSON.stringify({ as: 'cartridge', reference: 'x' });
    const asked = await fetch(`${base}/v1/books/b1/parcels`, { method: 'POST', headers, body });
    const { id } = (await asked.json()) as { id: string };
    const gone = await until(async () => {
      const answer = await fetch(`${base}/v1/parcels/${id}/parcel`, { headers });
      return answer.status === 410 ? ((await answer.json()) as { error?: string }) : null;
    });
    expect(JSON.stringify(gone)).toContain('thrown away');
    const state = (await (await fetch(`${base}/v1/parcels/${id}`, { headers })).json()) as { state: string };
    expect(state.state).toBe('expired');
  });

  it('gives Oxlea parcels once for a reference, with tests only in its own form', async () => {
    const app = await oxlea(settings(), async (at) => [await buildBook(EST120, 'b1', join(at, 'b1'))]);
    const base = await serve(app);
    const headers = { Authorization: 'Bearer secret', 'content-type': 'application/json' };
    const wrapped = async (as: string, reference: string) => {
      const asked = await fetch(`${base}/v1/books/b1/parcels`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ as, reference }),
      });
      return ((await asked.json()) as { id: string }).id;
    };
    const [parcel, cartridge] = [await wrapped('parcel', 'x'), await wrapped('cartridge', 'y')];
    expect(await wrapped('parcel', 'x')).toBe(parcel);
    const namesOf = (id: string) =>
      until(async () => {
        const answer = await fetch(`${base}/v1/parcels/${id}/parcel`, { headers });
        return answer.ok ? Buffer.from(await answer.arrayBuffer()).toString('latin1') : null;
      });
    const bytes = async (id: string) =>
      Buffer.from(await (await fetch(`${base}/v1/parcels/${id}/parcel`, { headers })).arrayBuffer());
    await until(async () => ((await fetch(`${base}/v1/parcels/${parcel}/parcel`, { headers })).ok ? true : null));
    const sendIn = async (body: Buffer) => {
      const answer = await fetch(`${base}/v1/books`, { method: 'POST', headers, body: new Uint8Array(body) });
      return { status: answer.status, ...((await answer.json()) as { id: string; log?: string[] }) };
    };
    const lessonsOf = async (id: string) =>
      ((await (await fetch(`${base}/v1/books/${id}/lessons`, { headers })).json()) as { halves: unknown }).halves;
    const back = await sendIn(await bytes(parcel));
    expect(back.status).toBe(201);
    expect(await lessonsOf(back.id)).toEqual(await lessonsOf('b1'));
    await until(async () => ((await fetch(`${base}/v1/parcels/${cartridge}/parcel`, { headers })).ok ? true : null));
    const other = await sendIn(await bytes(cartridge));
    const taken = JSON.stringify(await lessonsOf(other.id));
    expect(taken).toContain('Before the first visit');
    expect(taken).not.toContain('"sort":"test"');
    expect((await sendIn(Buffer.from('neither'))).status).toBe(422);
    const questions = await sendIn(await zipOf(QUESTIONS));
    expect(questions.log).toEqual(['stepped over: r2, a question of another sort']);
    expect(JSON.stringify(await lessonsOf(questions.id))).toContain('"sort":"test"');
    expect(await namesOf(parcel)).toContain('book.yaml');
    expect(await namesOf(cartridge)).not.toContain('assessment');
  });
});

describe('The demo', () => {
  const flat = (nodes: readonly NodePlan[], depth = 0): { node: NodePlan; depth: number }[] =>
    nodes.flatMap((node) => [{ node, depth }, ...(node.kind === 'folder' ? flat(node.inside, depth + 1) : [])]);

  for (const plan of [BTB210, EST120, NAV101]) {
    it(`${plan.code} is a real course: three levels, forty items, three quizzes, a bank of all six types`, () => {
      const all = flat(plan.outline);
      const of = (kind: NodePlan['kind']) => all.filter(({ node }) => node.kind === kind);
      expect(Math.max(...of('folder').map((f) => f.depth)) + 1).toBe(3);
      expect(all.length - of('folder').length).toBeGreaterThanOrEqual(40);
      expect(of('quiz').length).toBe(3);
      expect(of('tool').length).toBeGreaterThanOrEqual(1);
      expect(of('talk').length).toBeGreaterThanOrEqual(2);
      expect(of('task').length).toBeGreaterThanOrEqual(3);
      expect(plan.bank.questions.length).toBeGreaterThanOrEqual(25);
      expect(new Set(plan.bank.questions.map((q) => q.type)).size).toBe(6);
    });
  }
});
