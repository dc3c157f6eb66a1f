import { Profile, QuietHours } from '@treenail/core';
import * as z from 'zod';

/** Instances of platforms, what they hold and how they are. */

export const InstanceSummary = z.object({
  id: z.number(),
  name: z.string(),
  platform: z.string(),
  /** Whether courses can be fetched from it, or delivered into it. */
  /** A move can begin with a course of it. */
  gives: z.boolean(),
  /** Exports can be asked for there. */
  fetches: z.boolean(),
  takes: z.boolean(),
  /** It will be gone on a day that is known. */
  leaving: z.boolean(),
  listedAt: z.string().nullable(),
  /** Why the last listing failed, if it did. */
  trouble: z.string().nullable(),
});
export type InstanceSummary = z.infer<typeof InstanceSummary>;

export const ExportFormId = z.enum(['standard', 'archive']);
export type ExportFormId = z.infer<typeof ExportFormId>;

export const Health = z.object({
  ok: z.boolean(),
  checkedAt: z.string(),
  /** Milliseconds that its answer took. */
  took: z.number(),
  queue: z.number(),
  /** Seconds one job of its queue takes, about. */
  each: z.number(),
  problem: z.string().nullable(),
});
export type Health = z.infer<typeof Health>;

export const PlatformSummary = InstanceSummary.extend({
  label: z.string(),
  baseUrl: z.string(),
  health: Health.nullable(),
  cutOff: z.object({ at: z.string(), why: z.string() }).nullable(),
  courses: z.number(),
  withoutCopy: z.number(),
  forms: z.array(z.object({ id: z.string(), label: z.string(), lacks: z.array(z.string()) })),
  exportsCount: z.boolean(),
  /** Since when it is paused: no job asks it for anything. */
  pausedAt: z.string().nullable(),
  /** Minutes that a job waits for it while it does not answer. */
  patienceMinutes: z.number(),
  /** Hours in which it is little used; `null` where nobody said. */
  quiet: QuietHours.nullable(),
  /** Jobs of it that failed and were not put away. */
  failedJobs: z.number(),
  /** Formats that it takes courses in, the first unless another is chosen. */
  takesAs: z.array(z.string()),
  profileVersion: z.number().nullable(),
});
export type PlatformSummary = z.infer<typeof PlatformSummary>;

export const PlatformKindSummary = z.object({ id: z.string(), label: z.string() });
export type PlatformKindSummary = z.infer<typeof PlatformKindSummary>;

export const DescriptionSummary = z.object({
  /** Identifier of the description: that of the kind of archive. */
  archive: z.string(),
  name: z.string(),
  version: z.number(),
  text: z.string(),
  /** Whether archives of its kind are read by it. */
  inUse: z.boolean(),
  changedAt: z.string(),
});
export type DescriptionSummary = z.infer<typeof DescriptionSummary>;

export const DescriptionAnswer = z.object({
  archive: z.string(),
  inUse: z.boolean(),
  /** The newest first. */
  versions: z.array(
    z.object({
      version: z.number(),
      text: z.string(),
      note: z.string(),
      changedBy: z.string().nullable(),
      changedAt: z.string(),
    }),
  ),
});
export type DescriptionAnswer = z.infer<typeof DescriptionAnswer>;

export const NewDescription = z.object({
  text: z.string().max(500_000),
  inUse: z.boolean(),
  note: z.string().trim().max(300),
  /** The version it was written over; 0 for a first one. */
  after: z.number().int().min(0),
});
export type NewDescription = z.infer<typeof NewDescription>;

export const NewPlatform = z.object({
  name: z.string().trim().min(1).max(120),
  platform: z.string(),
  baseUrl: z
    .url({ protocol: /^https?$/ })
    .max(300)
    .refine((text) => {
      const { search, hash, username, password } = new URL(text);
      return search + hash + username + password === '';
    }, 'An address without a question mark, a # and a name before an @.'),
  credential: z.string().min(1).max(500),
});
export type NewPlatform = z.infer<typeof NewPlatform>;

export const PlatformChange = z.object({
  credential: z.string().min(1).max(500).optional(),
  cutOff: z
    .object({ at: z.iso.datetime(), why: z.string().min(1).max(200) })
    .nullable()
    .optional(),
  paused: z.boolean().optional(),
  /** From a minute to a week. */
  patienceMinutes: z.number().int().min(1).max(10_080).optional(),
  quiet: QuietHours.nullable().optional(),
});
export type PlatformChange = z.infer<typeof PlatformChange>;

export const PlatformTest = z.object({ health: Health, courses: z.number().nullable() });
export type PlatformTest = z.infer<typeof PlatformTest>;

export const ProfileAnswer = z.object({
  profile: Profile,
  history: z.array(
    z.object({
      version: z.number(),
      changedAt: z.string(),
      by: z.string(),
      note: z.string(),
      changes: z.array(z.string()),
    }),
  ),
});
export type ProfileAnswer = z.infer<typeof ProfileAnswer>;

export const ProfileChange = z.object({ profile: Profile, note: z.string().trim().min(1).max(300) });
export type ProfileChange = z.infer<typeof ProfileChange>;

/** A time zone by its name in the IANA database. */
export const Zone = z.string().max(60).refine(isZone, 'There is no such time zone; one is Europe/London.');

function isZone(name: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: name }).resolvedOptions().timeZone !== '';
  } catch {
    return false;
  }
}

/** An export that lies at a platform. */
export const RemoteExportSummary = z.object({
  id: z.string(),
  course: z.string(),
  bytes: z.number().nullable(),
  ready: z.boolean(),
  madeAt: z.string().nullable(),
  /** Treenail asked for it. */
  ours: z.boolean(),
});
export type RemoteExportSummary = z.infer<typeof RemoteExportSummary>;
