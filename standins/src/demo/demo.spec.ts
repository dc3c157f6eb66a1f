import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildBook } from '../oxlea/build.ts';
import { leaves } from '../quernhold/model.ts';
import { buildCourse } from './build.ts';
import { film } from './film.ts';
import { fenwrightPlans, marrowickPlans } from './index.ts';
import type { NodePlan } from './plan.ts';

const textsOf = (nodes: readonly NodePlan[]): string[] =>
  nodes.flatMap((node) => (node.kind === 'folder' ? textsOf(node.inside) : node.kind === 'page' ? node.text : []));
const filesOf = (nodes: readonly NodePlan[]): string[] =>
  nodes.flatMap((node) =>
    node.kind === 'folder' ? filesOf(node.inside) : node.kind === 'file' ? [node.file.name] : [],
  );

/** Top boxes of an MP4 with their sizes. */
function boxesOf(bytes: Buffer): [string, number][] {
  const boxes: [string, number][] = [];
  for (let at = 0; at < bytes.length; at += bytes.readUInt32BE(at)) {
    boxes.push([bytes.toString('latin1', at + 4, at + 8), bytes.readUInt32BE(at)]);
  }
  return boxes;
}

describe('The demo’s courses', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-demo-'));
  });
  afterAll(() => rm(folder, { recursive: true }));
  const plans = [...marrowickPlans(), ...fenwrightPlans()];

  it('have words of their own: no two tell the same of their trade', () => {
    const first = [...marrowickPlans().filter((p) => p.section === '01'), ...fenwrightPlans()];
    const told = first.flatMap((plan) => textsOf(plan.outline).filter((text) => text.length > 60));
    expect(first.length).toBe(31);
    expect(new Set(told).size).toBe(told.length);
    expect(told.length).toBeGreaterThan(31 * 6);
  });

  it('have twenty to sixty items each, at either platform', async () => {
    const [rigging] = marrowickPlans();
    const [tides] = fenwrightPlans();
    if (!rigging || !tides) throw new Error('no plans');
    const course = await buildCourse(rigging, 'c1', join(folder, 'c1'));
    const book = await buildBook(tides, 'b1', join(folder, 'b1'));
    const parts = book.halves.flatMap((half) => half.lessons.flatMap((lesson) => lesson.parts));
    for (const many of [[...leaves(course.nodes)].length, parts.length]) {
      expect(many).toBeGreaterThanOrEqual(20);
      expect(many).toBeLessThanOrEqual(60);
    }
    // A year in two halves, with the winter between them, and something due in each.
    expect(book.halves.map((half) => half.lessons.map((lesson) => lesson.from.slice(0, 4)))).toEqual([
      ['2025', '2025', '2025'],
      ['2026', '2026'],
    ]);
    expect(parts.flatMap((p) => (p.sort === 'piece' ? [p.by?.slice(0, 4)] : []))).toEqual(['2025', '2026']);
    expect(parts.some((p) => p.sort === 'reading' && /\*\w+\*/.test(p.text))).toBeTrue();
    const sizes = await Promise.all(
      (await readdir(join(folder, 'b1'))).map(async (name) => (await stat(join(folder, 'b1', name))).size),
    );
    expect(sizes.reduce((a, b) => a + b, 0)).toBeGreaterThan(200_000);
  });

  it('share a film between several, as courses do', () => {
    const with_ = plans.filter((plan) => filesOf(plan.outline).includes('workshop-safety.mp4'));
    expect(with_.length).toBeGreaterThan(3);
  });

  it('name no file twice in one course', () => {
    for (const plan of plans) {
      const names = filesOf(plan.outline);
      expect(new Set(names).size).withContext(plan.code).toBe(names.length);
    }
  });
});

describe('A film of the demo', () => {
  it('is an MP4 of about the size that is asked for, the same each time', () => {
    const made = film(700_000, 'slip');
    expect(made.length).toBeLessThanOrEqual(700_000);
    expect(made.length).toBeGreaterThan(500_000);
    const boxes = boxesOf(made);
    expect(boxes.map(([type]) => type)).toEqual(['ftyp', 'moov', 'mdat']);
    expect(boxes.reduce((sum, [, size]) => sum + size, 0)).toBe(made.length);
    expect(made.equals(film(700_000, 'slip'))).toBeTrue();
    expect(made.equals(film(700_000, 'quay'))).toBeFalse();
  });

  it('has a frame at least, and none in which a code begins by chance', () => {
    const made = film(10, 'short');
    const media = made.subarray(made.indexOf('mdat') + 4 + 4);
    expect(media.length).toBeGreaterThan(90_000);
    for (const code of ['000000', '000001', '000002']) expect(media.indexOf(Buffer.from(code, 'hex'))).toBe(-1);
  });
});
