import * as z from 'zod';
import { HttpTrouble } from '../shared/http.ts';

/** What was asked for, read and found. */

export function find<T extends { id: string }>(list: readonly T[], id: unknown, what: string): T {
  const found = list.find((x) => x.id === id);
  if (!found) throw new HttpTrouble(404, `${what} nil`);
  return found;
}

export function input<S extends z.ZodType>(schema: S, body: unknown): z.infer<S> {
  const read = schema.safeParse(body);
  if (!read.success) throw new HttpTrouble(422, z.prettifyError(read.error));
  return read.data;
}
