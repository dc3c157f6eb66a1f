import * as z from 'zod';

/** Lists that are told in pages: who asks says where the page begins, in what order, and what its rows must hold. */

/** @param columns what can be sorted by */
export function pageAsked(columns: readonly string[]) {
  return z.object({
    /** Each of these words must stand in a row. */
    words: z.string().max(200).default(''),
    /** A column, with a `-` before it where the greatest come first; '' for the list's own order. */
    sort: z
      .string()
      .refine((sort) => sort === '' || columns.includes(sort.replace(/^-/, '')), `Known: ${columns.join(', ')}.`)
      .default(''),
    offset: z.coerce.number<number | string>().int().min(0).default(0),
    limit: z.coerce.number<number | string>().int().min(1).max(1000).default(100),
  });
}
export type PageAsked = z.output<ReturnType<typeof pageAsked>>;

/** Some rows of a list, how many there are in all that fit, and what is told of the list as a whole. */
export function page<R extends z.ZodType, S extends z.ZodType>(row: R, sums: S) {
  return z.object({ rows: z.array(row), total: z.number().int(), sums });
}
