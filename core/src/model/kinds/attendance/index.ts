import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** What is written beside a name: its sign, what it means, and how much of the session it counts, in per cent. */
export const AttendanceMark = z.object({ code: z.string(), label: z.string(), percent: z.number() });

/** A register of who was there, with its own scheme of marks. */
export const attendance = defineKind({
  kind: 'attendance',
  label: 'attendance register',
  schema: z.object({ ...common, kind: z.literal('attendance'), text: RichText, marks: z.array(AttendanceMark) }),
  texts: ofText.texts,
  fingerprint: ({ text, marks }, readable) =>
    [readable(text), ...marks.map((m) => [m.code, m.label, m.percent].join('\t'))].join('\n'),
  preview: (item) => [
    textBlock(item),
    {
      is: 'table',
      rows: item.marks.map((m) => [{ text: m.code }, { text: m.label }, { text: String(m.percent) }]),
    },
  ],
  fromRows: (rows) => ({
    marks: rows.map(([code = '', label = '', percent = '0']) => ({ code, label, percent: Number(percent) || 0 })),
  }),
});
