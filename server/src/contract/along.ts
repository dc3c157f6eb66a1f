import { Along } from '@treenail/core';
import * as z from 'zod';

/** How what goes is to arrive, and what there is of it to decide. */
export const AlongAnswer = z.object({
  now: Along,
  /** Discussions with a first post; things and places that learners do not see. */
  posts: z.number().int(),
  hidden: z.number().int(),
  /** Addresses of external tools, each with the titles of what starts it, and with the tool there that it belongs to already. */
  tools: z.array(z.object({ address: z.string(), titles: z.array(z.string()), known: z.string().nullable() })),
  /** Tools that are connected at the destination; `null` where it does not tell. */
  connected: z.array(z.object({ name: z.string(), address: z.string() })).nullable(),
  /** Why it could not be asked for them; '' where it could. */
  trouble: z.string(),
});
export type AlongAnswer = z.infer<typeof AlongAnswer>;
