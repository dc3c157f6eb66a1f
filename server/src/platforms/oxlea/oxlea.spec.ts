import { jsonOf, scriptedPlatform, textOf, type ScriptedPlatform } from '../../testing/platform.ts';
import { ExportGone } from '../http.ts';
import type { Connector, SourceSide } from '../contract.ts';
import { oxlea } from './index.ts';

const parcel = (more: object = {}) => ({ id: 'p1', state: 'wrapping', share: 0.256, size: null, until: null, ...more });
const named = (key: string) => ({ key, name: `Name of ${key}` });
const HALVES = {
  halves: [
    {
      ...named('h1'),
      lessons: [
        { ...named('l1'), parts: [] },
        { ...named('l2'), parts: [] },
      ],
    },
    { ...named('h2'), lessons: [{ ...named('l3'), parts: [{ ...named('x'), sort: 'reading', weighs: 70 }] }] },
  ],
};

describe('The connector of Oxlea', () => {
  let platform: ScriptedPlatform;
  let connector: Connector;
  let sourceSide: SourceSide;

  beforeEach(async () => {
    platform = await scriptedPlatform();
    connector = oxlea.connect({ baseUrl: platform.baseUrl, credential: 'key' });
    if (!connector.source) throw new Error('gives');
    sourceSide = connector.source;
    const book = { code: 'TID 200', group: 'A', year: '2026/27', name: 'Tides', author: 'H', parts: 80 };
    platform.routes['GET /v1/books'] = { books: [{ ...book, id: 'k1', edited: '2026-09-14T00:00:00Z', size: 4000 }] };
    platform.routes['GET /v1/about'] = { each: 30 };
    platform.routes['GET /v1/books/k1/lessons'] = HALVES;
    platform.routes['POST /v1/books/k1/parcels'] = parcel();
  });
  afterEach(() => platform.close());

  it('is given from and never delivered into', () => {
    expect(connector.destination).toBeNull();
    expect(sourceSide.sharedFile).toBeNull();
  });

  it('calls its books courses', async () => {
    const [course] = await connector.listCourses();
    expect(course).toEqual({
      remoteId: 'k1',
      code: 'TID 200',
      section: 'A',
      term: '2026/27',
      title: 'Tides',
      owner: 'H',
      size: 4000,
      changedAt: new Date('2026-09-14T00:00:00Z'),
      parts: 80,
    });
    expect(platform.asked[0]?.headers.authorization).toBe('Bearer key');
    expect(await connector.about()).toEqual({ queue: 0, each: 30 });
  });

  it('offers halves and their lessons, and takes a half for all of its lessons', async () => {
    const parts = await sourceSide.parts('k1');
    const shown = parts.map((half) => [half.ref, half.inside.map((l) => l.ref)]);
    expect(shown).toEqual([
      ['h1', ['l1', 'l2']],
      ['h2', ['l3']],
    ]);
    // Down to the item, with what it weighs.
    const item = { ref: 'x', title: 'Name of x', kind: 'page', bytes: 70, inside: [] };
    expect(parts[1]?.inside[0]).toEqual({ ref: 'l3', title: 'Name of l3', kind: 'folder', bytes: 70, inside: [item] });
    await sourceSide.startExport(
      'k1',
      { form: 'archive', parts: ['h1', 'l3'], copyLinked: true, personal: true },
      'key-1',
    );
    expect(jsonOf(platform.asked.at(-1))).toEqual({
      as: 'parcel',
      reference: 'key-1',
      lessons: ['l1', 'l2', 'l3'],
      readers: true,
    });
  });

  it('asks for all lessons without listing them', async () => {
    const whole = { form: 'standard' as const, parts: null, copyLinked: true, personal: false };
    expect(await sourceSide.startExport('k1', whole, 'key-2')).toBe('p1');
    expect(jsonOf(platform.asked.at(-1))).toEqual({
      as: 'cartridge',
      reference: 'key-2',
      lessons: null,
      readers: false,
    });
    expect(platform.calls()).toEqual(['POST /v1/books/k1/parcels']);
  });

  it('reckons with the size of the book, and with what is chosen of it by its weight', async () => {
    const whole = { form: 'archive' as const, parts: null, copyLinked: true, personal: false };
    expect(await sourceSide.estimate('k1', whole)).toEqual({ bytes: 4000, items: 80, ahead: 0, seconds: 30 });
    expect(await sourceSide.estimate('k1', { ...whole, parts: ['l3', 'x'] })).toEqual({
      bytes: 70,
      items: 1,
      ahead: 0,
      seconds: 30,
    });
    expect((await sourceSide.estimate('k1', { ...whole, parts: ['l1'] })).items).toBe(0);
    expect((await sourceSide.estimate('unknown', whole)).bytes).toBeNull();
  });

  it('lists the parcels that lie there, and who asked for them', async () => {
    const lying = { book: 'k1', reference: 'treenail fetch', begun: '2026-11-27T10:00:00.000Z' };
    platform.routes['GET /v1/parcels'] = {
      parcels: [parcel({ ...lying, state: 'wrapped', size: 12 }), parcel({ id: 'p2', state: 'expired' })],
    };
    const made = new Date('2026-11-27T10:00:00Z');
    const one = { id: 'p1', remoteId: 'k1', bytes: 12, ready: true, madeAt: made, note: 'treenail fetch' };
    expect(await sourceSide.exports()).toEqual([one]);
  });

  it('says how a parcel stands, and until when it is there', async () => {
    const until = '2026-11-27T10:00:00Z';
    const states = [
      [parcel(), { state: 'working', done: 26, total: 100, unit: '%' }],
      [parcel({ state: 'wrapped', size: 12, until }), { state: 'ready', size: 12, expiresAt: new Date(until) }],
      [parcel({ state: 'wrapped', size: 12 }), { state: 'ready', size: 12, expiresAt: null }],
      [parcel({ state: 'expired' }), { state: 'gone' }],
      [parcel({ state: 'torn' }), { state: 'failed', why: 'Oxlea could not wrap the parcel.' }],
    ] as const;
    for (const [answer, expected] of states) {
      platform.routes['GET /v1/parcels/p1'] = answer;
      expect(await sourceSide.exportState('p1')).toEqual(expected);
    }
  });

  it('goes on with a download where it broke off, and says when the parcel was thrown away meanwhile', async () => {
    const signal = AbortSignal.timeout(20_000);
    platform.routes['GET /v1/parcels/p1/parcel'] = ({ headers }) => Buffer.from(headers.range ?? 'whole');
    expect(await textOf(await sourceSide.download('p1', 0, signal))).toBe('whole');
    expect(await textOf(await sourceSide.download('p1', 7, signal))).toBe('bytes=7-');
    platform.routes['GET /v1/parcels/p1/parcel'] = 410;
    await expectAsync(sourceSide.download('p1', 7, signal)).toBeRejectedWith(jasmine.any(ExportGone));
    platform.routes['DELETE /v1/parcels/p1'] = {};
    await sourceSide.removeExport('p1');
    expect(platform.calls().at(-1)).toBe('DELETE /v1/parcels/p1');
  });
});
