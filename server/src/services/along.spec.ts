import { AS_IT_WAS } from '@treenail/core';
import { isCurrent, type WholeMove } from '../db/models/index.ts';
import { until } from '../testing/database.ts';
import { testHouse, type House } from '../testing/house.ts';
import { keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import { alongFor, setAlong } from './along.ts';
import { readDocument } from './documents.ts';
import { stepOf } from './move-steps.ts';
import { acceptFit, moveById } from './moves.ts';
import { goOn } from './plan.ts';

const LTI =
  '<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0"><blti:title>Calculator</blti:title><blti:launch_url>https://calc.example/launch</blti:launch_url></cartridge_basiclti_link>';
const MANIFEST = `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1"><metadata><schema>IMS Common Cartridge</schema><schemaversion>1.1.0</schemaversion></metadata><organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="root"><item identifier="i1" identifierref="r1"><title>Start</title></item><item identifier="i2" identifierref="r2"><title>Calculator</title></item></item></organization></organizations><resources><resource identifier="r1" type="webcontent" href="a.html"><file href="a.html"/></resource><resource identifier="r2" type="imsbasiclti_xmlv1p0" href="t.xml"><file href="t.xml"/></resource></resources></manifest>`;
const PLANKS = { name: 'Plank calculator', address: 'https://tools.example/planks/' };

describe('How what goes is to arrive', () => {
  let house: House;
  let move: WholeMove;
  let newMove: () => Promise<WholeMove>;
  let isSilent: boolean;

  beforeAll(async () => {
    house = await testHouse();
    const from = await house.addInstance('Old', 'oxlea');
    const to = await house.addInstance('New', 'tarnhall');
    house.platform.routes = {
      'GET /api/tools': () => (isSilent ? { tools: 'none' } : { tools: [PLANKS] }),
    };
    isSilent = false;
    const { services, folder, person } = house;
    const files = { 'imsmanifest.xml': MANIFEST, 'a.html': '<p>Start</p>', 't.xml': LTI };
    ({ newMove } = await keptCourse(services, folder, files, { from, to, remoteId: 'c7', createdBy: person.id }));
    house.startWorker();
  }, 120_000);
  afterAll(() => house?.close());
  beforeEach(async () => {
    isSilent = false;
    const { id } = await newMove();
    await goOn(id);
    await until(async () => stepOf(await moveById(id)) === 'fit');
    move = await moveById(id);
  });

  it('is told with the tools that are connected there, and that it could not be asked for them', async () => {
    const told = await alongFor(house.services, move.id);
    expect(told).toEqual({
      ...{ now: AS_IT_WAS, posts: 0, hidden: 0, connected: [PLANKS], trouble: '' },
      tools: [{ address: 'https://calc.example/launch', titles: ['Calculator'], known: null }],
    });
    isSilent = true;
    const silent = await alongFor(house.services, move.id);
    expect(silent.connected).toBeNull();
    expect(silent.trouble).toContain('New could not be asked which tools it has');
  });

  it('goes into the working copy, and the forecast is made of that', async () => {
    const { services, person } = house;
    const tools = { 'https://calc.example/launch': PLANKS.address };
    const along = { ...AS_IT_WAS, shown: 'hidden' as const, tools };
    expect(await code(setAlong(services, { ...person, role: 'instructor' }, move.id, along))).toBe('not-allowed');
    const stray = { ...along, tools: { 'https://calc.example/launch': 'https://elsewhere.example/' } };
    expect(await code(setAlong(services, person, move.id, stray))).toBe('not-found');
    await setAlong(services, person, move.id, along);
    await until(async () => isCurrent(await moveById(move.id)));
    const { course } = await readDocument(move.id, 'working');
    expect(course.items.map((i) => [i.title, i.settings.hidden, i.kind === 'tool' ? i.url : ''])).toEqual([
      ['Start', true, ''],
      ['Calculator', true, PLANKS.address],
    ]);
    // A crate keeps what is hidden: it is whole.
    const { lines } = await readDocument(move.id, 'forecast');
    expect(lines.filter((l) => l.kind === 'page').map((l) => l.outcome)).toEqual(['whole']);
    await acceptFit(person, move.id);
    expect((await moveById(move.id)).plans.at(-1)?.accepted?.along).toEqual(along);
    expect(await code(setAlong(services, person, move.id, AS_IT_WAS))).not.toBe('done');
  });
});
