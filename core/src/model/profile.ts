import * as z from 'zod';
import { SettingName, SubjectKind } from './course.ts';
import { FeedbackKind, QuestionType } from './question.ts';

/**
 * What a destination, or a format, can hold: data, shipped as JSON and editable. What a profile does not mention is
 * carried whole; every restriction gives its reason, since a person will read it.
 */
export const Way = z.object({ as: SubjectKind, reason: z.string(), drops: z.array(SettingName) });
export type Way = z.infer<typeof Way>;
export const KindRule = z.discriminatedUnion('carry', [
  /** Ways in order of preference; the first is taken. */
  z.object({ carry: z.literal('as'), ways: z.array(Way).min(1) }),
  z.object({ carry: z.literal('never'), reason: z.string() }),
]);
export type KindRule = z.infer<typeof KindRule>;

export const QuestionRule = z.discriminatedUnion('carry', [
  z.object({ carry: z.literal('as'), as: QuestionType, reason: z.string() }),
  z.object({ carry: z.literal('never'), reason: z.string() }),
]);
export type QuestionRule = z.infer<typeof QuestionRule>;

export const QuestionPart = z.enum([
  ...FeedbackKind.options,
  'choice feedback',
  'category',
  'points',
  'partial credit',
]);
export type QuestionPart = z.infer<typeof QuestionPart>;

const Reason = z.string().min(1);
const limit = z.object({ at: z.number().int().positive(), reason: Reason }).optional();

export const Profile = z.object({
  id: z.string(),
  label: z.string(),
  version: z.number().int().positive(),
  kinds: z.partialRecord(SubjectKind, KindRule),
  /** Reason of the loss, by kind and setting. */
  settings: z.partialRecord(SubjectKind, z.partialRecord(SettingName, Reason)),
  questions: z.partialRecord(QuestionType, QuestionRule),
  questionParts: z.partialRecord(QuestionPart, Reason),
  limits: z.object({
    /** Folders at this depth or deeper (outermost: 0) become headings. */
    folderDepth: limit,
    /** Bytes of one file; an item that is a longer one is left behind. */
    fileBytes: limit,
    /** Characters of a title; the rest is cut off. */
    titleLength: limit,
  }),
});
export type Profile = z.infer<typeof Profile>;
