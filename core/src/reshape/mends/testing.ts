import { nodeEngine } from '../../container/node.ts';
import type { Finding } from '../../inspect/index.ts';
import { survey } from '../../inspect/index.ts';
import { decodeText } from '../../markup/index.ts';
import type { Course, Item, Question } from '../../model/index.ts';
import { courseOf, question as makeQuestion } from '../../testing/made.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import { beforeAfter } from '../before-after.ts';
import { workingCopy } from '../working.ts';

/* What specs of mends have in common. */

/** A choice that is worth two points. */
export const question = (id: string, more: Partial<Question> = {}) => makeQuestion(id, { points: 2, ...more });

/** A course with one finding that is made up, and what becomes of it by one mend. */
export async function mend(
  given: { items?: Item[]; files?: Files; outline?: Course['outline']; personal?: Course['personal'] },
  finding: Partial<Finding> & Pick<Finding, 'kind'>,
  id: string,
  params: Record<string, string> = {},
) {
  const files = given.files ?? { x: '' };
  const course = courseOf(given.items ?? [], files, {
    outline: given.outline ?? [],
    ...(given.personal ? { personal: given.personal } : {}),
  });
  const pkg = await packageOf(files);
  const surveyed = await survey(pkg, course, { engine: nodeEngine });
  const whole: Finding = {
    key: 'k',
    weight: 'weakens',
    groupKey: '',
    item: null,
    node: null,
    title: '',
    part: '',
    file: null,
    line: null,
    evidence: 'found',
    spot: null,
    suggestions: [],
    ...finding,
  };
  const match = { kind: whole.kind, groupKey: null, key: whole.key };
  const decision = { id: 'd', match, mend: id, params, reason: '' };
  const work = await workingCopy(pkg, surveyed, [whole], [decision], { engine: nodeEngine });
  const shown = await beforeAfter(pkg, surveyed, whole, decision);
  const [failure] = work.failed;
  expect(shown.why).toBe(failure?.why ?? null);
  expect(work.mended).toEqual(failure ? [] : ['k']);
  return {
    why: failure?.why ?? null,
    shown,
    work,
    item: (wanted: string) => work.course.items.find((i) => i.id === wanted),
    page: async (path: string) => decodeText(await work.pkg.bytes(path)),
  };
}

/** Offsets of a piece of a text. */
export const spotOf = (source: string, piece: string, open: string | null = null, close: string | null = null) => {
  const at = (part: string) => {
    const start = source.indexOf(part);
    if (start === -1) throw new Error(`${part} is not in the text`);
    return { start, end: start + part.length };
  };
  return {
    at: at(piece),
    open: open === null ? null : at(open),
    close: close === null ? null : at(close),
    inStyle: false,
  };
};
