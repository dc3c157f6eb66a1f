import * as z from 'zod';

/** Who asks, and what is refused. */

/** Every request and answer of the API, shared with the web application. Times are ISO 8601 in UTC; sizes are bytes. */

export const Role = z.enum(['administrator', 'instructor']);
export type Role = z.infer<typeof Role>;

export const Person = z.object({ id: z.number(), name: z.string(), email: z.string(), role: Role });
export type Person = z.infer<typeof Person>;

/** Whether a person is told by mail of long jobs that are done, and of those that failed. */
export const MailChoice = z.object({ done: z.boolean(), failed: z.boolean() });
export type MailChoice = z.infer<typeof MailChoice>;

export const SignIn = z.object({ email: z.email(), password: z.string().min(1).max(200) });
export type SignIn = z.infer<typeof SignIn>;

/** RFC 9457, with Treenail's stable code and what to do. */
export const ProblemDocument = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  code: z.string(),
  detail: z.string(),
  action: z.string(),
  /** Where in what was sent or read: file, item, 1-based line. */
  file: z.string().optional(),
  item: z.string().optional(),
  line: z.number().int().optional(),
});
export type ProblemDocument = z.infer<typeof ProblemDocument>;

/** How Treenail itself is. */
export const SystemHealth = z.object({
  ok: z.boolean(),
  database: z.boolean(),
  /** Whether the tables are those that this release needs. */
  tables: z.boolean(),
  /** Worker processes that were heard of lately. */
  workers: z.number(),
});
export type SystemHealth = z.infer<typeof SystemHealth>;
