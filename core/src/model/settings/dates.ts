import * as z from 'zod';
import { Moment, comparableMoment, momentWords } from '../moment.ts';
import { defineSetting } from './define.ts';

/** When something begins, is due, ends, or was said. */

const date = { schema: Moment, comparable: comparableMoment, words: momentWords };

export const opens = defineSetting({ label: 'opens', ...date });
export const due = defineSetting({ label: 'due', ...date });
export const closes = defineSetting({ label: 'closes', ...date });
export const posted = defineSetting({ label: 'posted', ...date });
export const sessions = defineSetting({
  label: 'sessions',
  schema: z.array(Moment),
  comparable: (all) => all.map(comparableMoment),
  words: (all) => all.map(momentWords).join(', '),
});
