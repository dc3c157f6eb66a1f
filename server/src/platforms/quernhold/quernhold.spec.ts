import { Refusal } from '@treenail/core';
import { jsonOf, oneChunk, scriptedPlatform, textOf, type ScriptedPlatform } from '../../testing/platform.ts';
import type { Connector, SourceSide, DestinationSide } from '../contract.ts';
import { quernhold } from './index.ts';

type Thing = Record<string, unknown>;
const WHOLE = { form: 'archive' as const, parts: null, copyLinked: true, personal: false };
const bundle = (more: object = {}) => ({
  bundle: 'b1',
  course: 'c1',
  state: 'waiting',
  ahead: 3,
  percent: 0,
  bytes: null,
  ...more,
});
const restore = (more: object = {}) => ({ id: 'r1', state: 'waiting', ahead: 2, percent: 0, log: [], ...more });

describe('The connector of Quernhold', () => {
  let platform: ScriptedPlatform;
  let connector: Connector;
  let sourceSide: SourceSide;
  let destinationSide: DestinationSide;
  let signal: AbortSignal;

  beforeEach(async () => {
    // Made for each test: one made when the file is loaded would run out while other files are tested.
    signal = AbortSignal.timeout(20_000);
    platform = await scriptedPlatform();
    connector = quernhold.connect({ baseUrl: platform.baseUrl, credential: 'token-1' });
    if (!connector.source || !connector.destination) throw new Error('gives and takes');
    sourceSide = connector.source;
    destinationSide = connector.destination;
  });
  afterEach(() => platform.close());

  it('lists courses, with its token', async () => {
    const course = { code: 'RIG 140', section: '01', term: 'Autumn 2026', title: 'Rigging', owner: 'B', parts: 12 };
    platform.routes['GET /api/courses'] = {
      courses: [{ ...course, id: 'c1', changed: '2026-10-01T08:00:00Z', bytes: 900 }],
    };
    expect(await connector.listCourses()).toEqual([
      { ...course, remoteId: 'c1', size: 900, changedAt: new Date('2026-10-01T08:00:00Z') },
    ]);
    expect(platform.asked[0]?.headers['x-quernhold-token']).toBe('token-1');
  });

  it('asks once for a bundle, whatever happened in between', async () => {
    const made: object[] = [];
    platform.routes['GET /api/bundles'] = ({ query }) => ({ bundles: query['note'] === 'key-1' ? made : [] });
    platform.routes['POST /api/courses/c1/bundles'] = () => {
      made.push(bundle());
      return bundle();
    };
    const options = { form: 'standard' as const, parts: ['p1'], copyLinked: false, personal: true };
    expect(await sourceSide.startExport('c1', options, 'key-1')).toBe('b1');
    expect(jsonOf(platform.asked.at(-1))).toEqual({
      form: 'cartridge-1.1',
      parts: ['p1'],
      linked: 'leave',
      people: true,
      note: 'key-1',
    });
    expect(await sourceSide.startExport('c1', options, 'key-1')).toBe('b1');
    expect(made.length).toBe(1);
  });

  it('does not take another course’s bundle for its own', async () => {
    platform.routes['GET /api/bundles'] = { bundles: [bundle({ bundle: 'b0', course: 'c0' })] };
    platform.routes['POST /api/courses/c1/bundles'] = bundle();
    expect(await sourceSide.startExport('c1', WHOLE, 'key-1')).toBe('b1');
  });

  it('says how a bundle stands', async () => {
    const states = [
      [bundle(), { state: 'waiting', ahead: 3 }],
      [bundle({ state: 'building', percent: 40 }), { state: 'working', done: 40, total: 100, unit: '%' }],
      [bundle({ state: 'ready', bytes: 70 }), { state: 'ready', size: 70 }],
      [bundle({ state: 'failed' }), { state: 'failed', why: 'Quernhold could not build the bundle.' }],
    ] as const;
    for (const [answer, expected] of states) {
      platform.routes['GET /api/bundles/b1'] = answer;
      expect(await sourceSide.exportState('b1')).toEqual(expected);
    }
  });

  it('says what a bundle would cost, as the platform reckons it', async () => {
    platform.routes['POST /api/courses/c1/estimate'] = { bytes: 10, parts: 4, ahead: 1, seconds: 60 };
    expect(await sourceSide.estimate('c1', WHOLE)).toEqual({ bytes: 10, items: 4, ahead: 1, seconds: 60 });
    expect(jsonOf(platform.asked[0])).toEqual({ form: 'archive', parts: null, linked: 'copy', people: false });
  });

  it('goes on with a download where it broke off', async () => {
    platform.routes['GET /api/bundles/b1/file'] = ({ headers }) => Buffer.from(headers.range ?? 'from the start');
    expect(await textOf(await sourceSide.download('b1', 0, signal))).toBe('from the start');
    expect(await textOf(await sourceSide.download('b1', 500, signal))).toBe('bytes=500-');
  });

  it('takes files of the shared repository only, whatever a page says', async () => {
    platform.routes['GET /api/about'] = { queue: 0, each: 1, home: 'https://quernhold.example' };
    platform.routes['GET /api/repository/charts/a%20b.pdf'] = Buffer.from('chart');
    const fetched = async (address: string) => {
      if (!sourceSide.sharedFile) throw new Error('has a repository');
      return textOf(await sourceSide.sharedFile(address, signal));
    };
    expect(await fetched('https://quernhold.example/repository/charts/a%20b.pdf')).toBe('chart');
    platform.calls();
    for (const address of [
      'https://quernhold.example/repository/../api/courses',
      'https://quernhold.example.evil.example/repository/x',
      'http://127.0.0.1/repository/x',
    ]) {
      await expectAsync(fetched(address)).toBeRejectedWithError(/not in the repository/);
    }
    expect(platform.calls().every((call) => call === 'GET /api/about')).toBeTrue();
    expect((await sourceSide.addresses('c1')).repository).toEqual(['https://quernhold.example/repository/']);
  });

  it('makes one shell, one upload and one restore for a key', async () => {
    const kept: Record<string, Thing[]> = { courses: [], arrivals: [], restores: [] };
    for (const name of Object.keys(kept)) platform.routes[`GET /api/${name}`] = () => ({ [name]: kept[name] ?? [] });
    const make = (name: string, thing: Thing) => () => {
      kept[name]?.push(thing);
      return thing;
    };
    platform.routes['POST /api/courses'] = make('courses', { id: 'c9' });
    platform.routes['POST /api/arrivals'] = make('arrivals', { id: 'a1', bytes: 5, got: 0 });
    platform.routes['POST /api/courses/c9/restores'] = make('restores', restore());
    platform.routes['PUT /api/arrivals/a1'] = {};
    const shell = { code: 'RIG 140', section: '02', term: 'Spring 2027', title: 'Rigging' };
    for (let i = 0; i < 2; i++) {
      expect(await destinationSide.createShell(shell, 'k')).toEqual({ id: 'c9', url: `${platform.baseUrl}/course/c9` });
      expect(await destinationSide.startUpload(5, 'k')).toEqual({ uploadId: 'a1', got: 0 });
      expect(await destinationSide.startImport('c9', 'a1', 'k')).toBe('r1');
    }
    expect(Object.values(kept).map((things) => things.length)).toEqual([1, 1, 1]);
    await destinationSide.upload('a1', 2, oneChunk('lo'), signal);
    const put = platform.asked.at(-1);
    expect([put?.query, put?.body.toString()]).toEqual([{ from: '2' }, 'lo']);
  });

  it('says how a restore stands, and puts its log into words', async () => {
    const log = ['3 files, names made lower case', 'left out: Week 4, a wheel', 'restored: 7 at the top, 2 banks', 'x'];
    const states = [
      [restore(), { state: 'waiting', ahead: 2 }],
      [restore({ state: 'unpacking', percent: 5 }), { state: 'working', done: 5, total: 100, unit: '%' }],
      [restore({ state: 'restored' }), { state: 'ready', size: null }],
      [
        restore({ state: 'failed', log: ['no room'] }),
        { state: 'failed', why: 'Quernhold could not restore it: no room' },
      ],
      [restore({ state: 'failed' }), { state: 'failed', why: 'Quernhold could not restore it: it does not say why' }],
    ] as const;
    for (const [answer, expected] of states) {
      platform.routes['GET /api/restores/r1'] = answer;
      expect(await destinationSide.importState('r1')).toEqual(expected);
    }
    platform.routes['GET /api/restores/r1'] = restore({ log });
    expect((await destinationSide.importLog('r1')).map((l) => l.words)).toEqual([
      '3 files were taken in, their names made lower case.',
      '“Week 4” was left out: Quernhold does not know its kind (wheel).',
      'It was taken in: 7 things at the top, 2 question banks.',
      'x',
    ]);
  });

  it('says who is in a course and what it holds, and takes out of it what is named', async () => {
    const { there } = destinationSide;
    if (!there) throw new Error('takes courses that are there');
    platform.routes['GET /api/courses/c1/members'] = {
      ...{ tutors: ['B'], learners: ['M1', 'M2'], work: ['n1', 'n1'], closed: false, turn: 3 },
      ...{ refs: ['f1', 'n1'], files: ['content/a.png'] },
    };
    expect(await there.standing('c1')).toEqual({
      ...{ tutors: 1, learners: 2, work: 2, workedIn: ['n1'], shut: false, mayChange: true, turn: '3' },
      held: ['f1', 'n1', 'file content/a.png'],
    });
    platform.routes['POST /api/courses/c1/removals'] = {};
    platform.routes['POST /api/courses/c1/emptied'] = {};
    await there.remove('c1', ['n1', 'file content/a.png']);
    expect(jsonOf(platform.asked.at(-1))).toEqual({ refs: ['n1'], files: ['content/a.png'] });
    await there.clear('c1', 'key-1');
    expect(jsonOf(platform.asked.at(-1))).toEqual({ note: 'key-1' });
  });

  it('removes the archive that it read a course back from, even where it was none', async () => {
    platform.routes['GET /api/bundles'] = { bundles: [] };
    platform.routes['POST /api/courses/c1/bundles'] = bundle();
    platform.routes['GET /api/bundles/b1'] = bundle({ state: 'ready', bytes: 9 });
    platform.routes['GET /api/bundles/b1/file'] = Buffer.from('no archive');
    platform.routes['DELETE /api/bundles/b1'] = {};
    await expectAsync(destinationSide.readBack('c1', signal)).toBeRejectedWith(jasmine.any(Refusal));
    expect(platform.calls().at(-1)).toBe('DELETE /api/bundles/b1');
    platform.routes['GET /api/bundles/b1'] = bundle({ state: 'failed' });
    await expectAsync(destinationSide.readBack('c1', signal)).toBeRejectedWithError(/could not build its archive/);
    expect(platform.calls().at(-1)).toBe('DELETE /api/bundles/b1');
  });

  it('asks for a new token where the old one is refused, and does not believe what it does not understand', async () => {
    platform.routes['GET /api/courses'] = 401;
    const refused: unknown = await connector.listCourses().catch((e: unknown) => e);
    expect((refused as Refusal).problem.code).toBe('platform-credentials');
    platform.routes['GET /api/bundles/b1'] = { bundle: 'b1', state: 'on holiday' };
    await expectAsync(sourceSide.exportState('b1')).toBeRejectedWithError(/not understood/);
  });
});
