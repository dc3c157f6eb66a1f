import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** Groups into which learners are parted: their names. */
export const groups = defineKind({
  kind: 'groups',
  label: 'group set',
  schema: z.object({ ...common, kind: z.literal('groups'), text: RichText, names: z.array(z.string()) }),
  texts: ofText.texts,
  fingerprint: ({ text, names }, readable) => [readable(text), ...names].join('\n'),
  preview: (item) => [textBlock(item), { is: 'table', rows: item.names.map((text) => [{ text }]) }],
  fromRows: (rows) => ({ names: rows.map(([name = '']) => name) }),
});
