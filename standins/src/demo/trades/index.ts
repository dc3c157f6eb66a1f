import * as z from 'zod';
import fenwright from './fenwright.json' with { type: 'json' };
import marrowick from './marrowick.json' with { type: 'json' };

/** What the courses of the two schools are about, in their own words. */

const Drawn = z.enum(['planks', 'contours', 'chart']);

const Week = z.object({
  word: z.string(),
  know: z.array(z.string()),
  /** What is done with the hands. */
  hand: z.string(),
  /** A question, its right answer, and wrong ones. */
  ask: z.tuple([z.string(), z.string()]).rest(z.string()),
  truth: z.tuple([z.string(), z.boolean()]),
  /** A word of the trade, and what it means. */
  term: z.tuple([z.string(), z.string()]),
});
export type Week = z.infer<typeof Week>;

const Trade = z.object({
  code: z.string(),
  title: z.string(),
  about: z.string(),
  lang: z.enum(['en', 'gd', 'pl', 'ar']).default('en'),
  drawing: Drawn.default('planks'),
  weeks: z.array(Week),
  words: z
    .object({
      title: z.string(),
      about: z.string(),
      words: z.array(
        z
          .object({ word: z.string(), means: z.string(), picture: Drawn.optional() })
          .transform(({ picture, ...rest }) => (picture === undefined ? rest : { ...rest, picture })),
      ),
    })
    .optional(),
  /** A film in its second week: its file and how many bytes it has. */
  film: z.tuple([z.string(), z.number()]).optional(),
  sound: z.string().optional(),
});
export type Trade = z.infer<typeof Trade>;

export const TRADES = { marrowick: z.array(Trade).parse(marrowick), fenwright: z.array(Trade).parse(fenwright) };
