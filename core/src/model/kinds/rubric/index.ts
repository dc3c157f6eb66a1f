import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock, type TableRow } from '../define.ts';

/** How well one thing can be done: what it is called, what it is worth, and how it is told. */
export const RubricLevel = z.object({ title: z.string(), points: z.number(), text: z.string() });
export const Criterion = z.object({ title: z.string(), levels: z.array(RubricLevel) });
export type Criterion = z.infer<typeof Criterion>;

/** By what work is judged. */
export const rubric = defineKind({
  kind: 'rubric',
  label: 'rubric',
  schema: z.object({ ...common, kind: z.literal('rubric'), text: RichText, criteria: z.array(Criterion) }),
  texts: ofText.texts,
  fingerprint: ({ text, criteria }, readable) =>
    [
      readable(text),
      ...criteria.flatMap((c) => c.levels.map((l) => [c.title, l.title, l.points, l.text].join('\t'))),
    ].join('\n'),
  preview: (item) => [textBlock(item), { is: 'table', rows: tableOf(item.criteria) }],
  fromRows: (rows) => ({ criteria: criteriaOf(rows) }),
});

/** Criteria down, levels across. */
function tableOf(criteria: readonly Criterion[]): TableRow[] {
  const titles = [...new Set(criteria.flatMap((c) => c.levels.map((l) => l.title)))];
  return [
    [{ text: '' }, ...titles.map((text) => ({ text, head: 'column' as const }))],
    ...criteria.map((c) => [
      { text: c.title, head: 'row' as const },
      ...titles.map((title) => {
        const level = c.levels.find((l) => l.title === title);
        return level ? { first: String(level.points), text: level.text } : { text: '' };
      }),
    ]),
  ];
}

/** Criteria of lines, each of which is one level: criterion, level, points, text. */
export function criteriaOf(rows: readonly (readonly string[])[]): Criterion[] {
  const criteria = new Map<string, Criterion>();
  for (const [criterion = '', title = '', points = '0', text = ''] of rows) {
    const known = criteria.get(criterion) ?? { title: criterion, levels: [] };
    known.levels.push({ title, points: Number(points) || 0, text });
    criteria.set(criterion, known);
  }
  return [...criteria.values()];
}
