import * as z from 'zod';

/** A number of a row, as it stands in a path. */
export const Id = z.coerce.number().int().positive();
