import * as z from 'zod';
import { SubjectKind } from './kinds/index.ts';
import { FeedbackKind, QuestionType, type Manner } from './question.ts';
import { SettingName } from './settings/index.ts';

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
  'answer feedback',
  'category',
  'points',
  'partial credit',
  'score of other answers',
  'least score',
  'most score',
  'shuffling',
  'points given together',
  'rules of scoring',
  'slider',
  'pointing',
  'manner of asking',
]);
export type QuestionPart = z.infer<typeof QuestionPart>;

/** The part of a question that a manner of asking is: most are no format's but the one that they come from. */
export function partOfManner(manner: Manner): QuestionPart {
  return manner === 'slider' || manner === 'pointing' ? manner : 'manner of asking';
}

const Reason = z.string().min(1);
const limit = z.object({ at: z.number().int().positive(), reason: Reason }).optional();

export const Profile = z.object({
  id: z.string(),
  label: z.string(),
  version: z.number().int().positive(),
  kinds: z.partialRecord(SubjectKind, KindRule),
  /**
   * The settings that are held, by kind. Where this is given, every other setting is lost, so that a setting that is new
   * to the model is never promised by accident; where it is not, all are held but those that `settings` names.
   */
  keeps: z.partialRecord(SubjectKind, z.array(SettingName)).optional(),
  /** Reason of the loss, by kind and setting. */
  settings: z.partialRecord(SubjectKind, z.partialRecord(SettingName, Reason)),
  /** Kinds that bear no title of their own: outside the outline they are called otherwise. The reason of the loss. */
  untitled: z.partialRecord(SubjectKind, Reason).optional(),
  questions: z.partialRecord(QuestionType, QuestionRule),
  questionParts: z.partialRecord(QuestionPart, Reason),
  limits: z.object({
    /** Folders at this depth or deeper (outermost: 0) become headings. */
    folderDepth: limit,
    /** What hangs below an item stands after it, since only folders hold anything. */
    belowItems: z.object({ reason: Reason }).optional(),
    /** Bytes of one file; an item that is a longer one is left behind. */
    fileBytes: limit,
    /** Characters of a title; the rest is cut off. */
    titleLength: limit,
    /** Characters that a file's name may not have, each written once. */
    nameCharacters: z.object({ not: z.string().min(1), reason: Reason }).optional(),
  }),
  /** What becomes of mark-up in pages and other texts. */
  html: z
    .object({
      /** Frames of other sites: shown only of these hosts. The reason follows the destination's name. */
      embeds: z.object({ hosts: z.array(z.string()), reason: Reason }).optional(),
      /** Why scripts do not run; the sentence follows the destination's name. */
      scripts: Reason.optional(),
      /** Beginnings of class names whose style sheet does not come along. */
      deadClasses: z.array(z.object({ prefix: z.string().min(1), reason: Reason })).optional(),
    })
    .optional(),
});
export type Profile = z.infer<typeof Profile>;

/** Why a setting of an item of this kind is lost, or `undefined` where it is held. */
export function whyLost(profile: Profile, kind: SubjectKind, name: SettingName): string | undefined {
  const reason = profile.settings[kind]?.[name];
  if (reason !== undefined) return reason;
  if (!profile.keeps || profile.keeps[kind]?.includes(name)) return undefined;
  return `${profile.label} has no place for it`;
}
