import { jsonOf, oneChunk, scriptedPlatform, type ScriptedPlatform } from '../../testing/platform.ts';
import type { Connector, SourceSide, DestinationSide } from '../contract.ts';
import { tarnhall } from './index.ts';

type Thing = Record<string, unknown>;
const SPACE = {
  id: 's1',
  code: 'BTB 210',
  section: '02',
  term: 'Spring 2027',
  title: 'Wooden Boat Repair',
  keeper: 'A',
  bytes: 700,
  changedAt: '2026-11-01T09:00:00Z',
};
const crate = (more: object = {}) => ({ crate: 'k1', state: 'packing', percent: 30, bytes: null, ...more });
const run = (more: object = {}) => ({ run: 'r1', state: 'standing', ahead: 4, done: 0, total: 0, log: [], ...more });

describe('The connector of Tarnhall', () => {
  let platform: ScriptedPlatform;
  let connector: Connector;
  let sourceSide: SourceSide;
  let destinationSide: DestinationSide;

  beforeEach(async () => {
    platform = await scriptedPlatform();
    connector = tarnhall.connect({ baseUrl: platform.baseUrl, credential: 'key-9' });
    if (!connector.source || !connector.destination) throw new Error('gives and takes');
    sourceSide = connector.source;
    destinationSide = connector.destination;
    platform.routes['GET /api/spaces'] = ({ query }) => ({ spaces: query['remark'] === undefined ? [SPACE] : [] });
    platform.routes['GET /api/about'] = { standing: 6, each: 20 };
  });
  afterEach(() => platform.close());

  it('calls its spaces courses, and says how long its queue is', async () => {
    const { id, keeper, bytes, changedAt, ...same } = SPACE;
    expect(await connector.listCourses()).toEqual([
      { ...same, remoteId: id, owner: keeper, size: bytes, changedAt: new Date(changedAt), parts: null },
    ]);
    expect(platform.asked[0]?.headers.authorization).toBe('Key key-9');
    expect(await connector.about()).toEqual({ queue: 6, each: 20 });
    const whole = { form: 'standard' as const, parts: null, copyLinked: true, personal: false };
    expect(await sourceSide.estimate('s1', whole)).toEqual({ bytes: 700, items: null, ahead: 0, seconds: 20 });
  });

  it('asks once for a crate, a space, a drop and a run, whatever happened in between', async () => {
    const kept: Record<string, Thing[]> = { crates: [], spaces: [], drops: [], runs: [] };
    for (const name of Object.keys(kept)) platform.routes[`GET /api/${name}`] = () => ({ [name]: kept[name] ?? [] });
    const make = (name: string, thing: Thing) => () => {
      kept[name]?.push(thing);
      return thing;
    };
    platform.routes['POST /api/spaces/s1/crates'] = make('crates', crate());
    platform.routes['POST /api/spaces'] = make('spaces', SPACE);
    platform.routes['POST /api/drops'] = make('drops', { id: 'd1', bytes: 4, got: 1 });
    platform.routes['POST /api/spaces/s1/runs'] = make('runs', run());
    const { code, section, term, title } = SPACE;
    for (let i = 0; i < 2; i++) {
      const asked = { form: 'archive' as const, parts: ['u1'], copyLinked: true, personal: false };
      expect(await sourceSide.startExport('s1', asked, 'k')).toBe('k1');
      expect((await destinationSide.createShell({ code, section, term, title }, 'k')).url).toBe(
        `${platform.baseUrl}/space/s1`,
      );
      expect(await destinationSide.startUpload(4, 'k')).toEqual({ uploadId: 'd1', got: 1 });
      expect(await destinationSide.startImport('s1', 'd1', 'k')).toBe('r1');
    }
    expect(Object.values(kept).map((things) => things.length)).toEqual([1, 1, 1, 1]);
    const sent = (path: string) => jsonOf(platform.asked.find((a) => a.method === 'POST' && a.path === path));
    expect(sent('/api/spaces/s1/crates')).toEqual({ remark: 'k', as: 'crate', parts: ['u1'] });
    expect(sent('/api/spaces/s1/runs')).toEqual({ drop: 'd1', mode: 'beside', remark: 'k' });
  });

  it('begins a new drop where the one of that key is of another size', async () => {
    platform.routes['GET /api/drops'] = { drops: [{ id: 'd0', bytes: 3, got: 3 }] };
    platform.routes['POST /api/drops'] = { id: 'd1', bytes: 4, got: 0 };
    expect((await destinationSide.startUpload(4, 'k')).uploadId).toBe('d1');
    platform.routes['PUT /api/drops/d1'] = {};
    await destinationSide.upload('d1', 0, oneChunk('four'), AbortSignal.timeout(20_000));
    expect([platform.asked.at(-1)?.query, platform.asked.at(-1)?.body.toString()]).toEqual([{ from: '0' }, 'four']);
  });

  it('says how crates and runs stand', async () => {
    const crates = [
      [crate(), { state: 'working', done: 30, total: 100, unit: '%' }],
      [crate({ state: 'packed', bytes: 8 }), { state: 'ready', size: 8 }],
      [crate({ state: 'broken' }), { state: 'failed', why: 'Tarnhall could not pack the crate.' }],
    ] as const;
    for (const [answer, expected] of crates) {
      platform.routes['GET /api/crates/k1'] = answer;
      expect(await sourceSide.exportState('k1')).toEqual(expected);
    }
    const runs = [
      [run(), { state: 'waiting', ahead: 4 }],
      [run({ state: 'unpacking', done: 2, total: 9 }), { state: 'working', done: 2, total: 9, unit: 'items' }],
      [run({ state: 'ended' }), { state: 'ready', size: null }],
      [run({ state: 'broken', log: ['T-001'] }), { state: 'failed', why: 'Tarnhall stopped unpacking: T-001' }],
    ] as const;
    for (const [answer, expected] of runs) {
      platform.routes['GET /api/runs/r1'] = answer;
      expect(await destinationSide.importState('r1')).toEqual(expected);
    }
  });

  it('puts its log into words and ties each line to the item it means', async () => {
    const log = ['T-320 FIL f7 0', 'T-399 TYP wheel', 'T-900 END e=4 f=2', 'T-777 ???'] as const;
    platform.routes['GET /api/runs/r1'] = run({ log });
    expect(await destinationSide.importLog('r1')).toEqual([
      { line: log[0], words: 'A file was not found in the package and was left out.', item: 'f7' },
      { line: log[1], words: 'A part of a kind that is not known was left out: wheel.', item: null },
      { line: log[2], words: 'Finished: 4 entries, 2 files.', item: null },
      { line: log[3], words: null, item: null },
    ]);
  });
});
