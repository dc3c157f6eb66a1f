import * as z from 'zod';
import { baseName, decodePercent, walkOutline, type Course } from '../model/index.ts';

/** What a move begins with, beside what the platform says of the course. */
export const SourceFacts = z.object({
  /** The package as a person calls it. */
  label: z.string(),
  /** How many things the platform counts in the course; `null` where it does not say. */
  counted: z.number().int().nullable(),
  /** How many were read: the items that stand in the outline; `null` for copies of which that was not written down. */
  shown: z.number().int().nullable(),
  /** What packages of this form leave out, in words. */
  lacks: z.array(z.string()),
  /** Only chosen parts of the course. */
  partial: z.boolean(),
  /** Whether a platform gave it; a file may be of anything. */
  ofPlatform: z.boolean(),
  /** Files that its texts only link to and that were kept beside it; `null` where they were not asked for. */
  linked: z
    .object({
      came: z.array(z.object({ address: z.string(), size: z.number() })),
      missing: z.array(z.object({ address: z.string(), why: z.string() })),
      /** Texts that could not be read for links. */
      unread: z.number(),
    })
    .nullable(),
});
export type SourceFacts = z.infer<typeof SourceFacts>;

/** What a linked file is called: the end of its address. */
export function linkedName(address: string): string {
  return decodePercent(baseName(address.replace(/[?#].*$/, ''))) || 'file';
}

const things = (n: number) => (n === 1 ? '1 item' : `${n} items`);
const are = (n: number) => (n === 1 ? 'is' : 'are');

/** How many items stand in the outline: what a platform counts. */
export function shownIn({ outline }: Course): number {
  return [...walkOutline(outline)].filter(({ node }) => node.item !== undefined).length;
}

/** What is known to be missing before anything is moved, or not known to be there: a sentence each. */
export function missingOf({ label, counted, shown, lacks, partial, ofPlatform, linked }: SourceFacts): string[] {
  const sentences: string[] = [];
  if (lacks.length > 0) sentences.push(`A ${label} leaves out ${listed(lacks)}: nothing below speaks of them.`);
  if (partial) sentences.push('Only chosen parts of the course were fetched: nothing below speaks of the rest.');
  else if (counted !== null && shown !== null && counted !== shown) sentences.push(difference(counted, shown));
  else if (ofPlatform && counted === null)
    sentences.push(
      'The platform did not say how many items the course has: whether all of them were read is not known.',
    );
  return linked ? [...sentences, ...linkedMissing(linked)] : sentences;
}

/** Files told by name; the others are told as a number. */
const NAMED = 8;

function linkedMissing({ missing, unread }: NonNullable<SourceFacts['linked']>): string[] {
  const sentences = missing
    .slice(0, NAMED)
    .map(({ address, why }) => `The linked file ${address} could not be had: ${why}`);
  if (missing.length > NAMED) sentences.push(`${missing.length - NAMED} more linked files could not be had.`);
  if (unread > 0)
    sentences.push(
      `${unread === 1 ? '1 text' : `${unread} texts`} could not be read for links to files that are shared.`,
    );
  return sentences;
}

function linkedWords(linked: SourceFacts['linked']): string {
  if (!linked) return '';
  const { came, missing } = linked;
  if (came.length + missing.length === 0) return '';
  const files = came.length === 1 ? '1 linked file' : `${came.length} linked files`;
  return missing.length === 0
    ? `, with ${files} beside it`
    : `, with ${files} beside it and ${missing.length} that could not be had`;
}

function difference(counted: number, shown: number): string {
  const read = `The platform counts ${things(counted)}, and ${shown} ${shown === 1 ? 'was' : 'were'} read`;
  const less = counted - shown;
  return less > 0
    ? `${read}: ${things(less)} ${are(less)} not in this package.`
    : `${read}: ${things(-less)} more than it says there ${are(counted)}.`;
}

/**
 * How many things were read, beside how many the platform counts, and how many linked files came along; without its count
 * nothing is called all.
 */
export function readWords(facts: SourceFacts): string {
  return `${itemWords(facts)}${linkedWords(facts.linked)}`;
}

function itemWords({ counted, shown, lacks, partial }: SourceFacts): string {
  const many = shown ?? 0;
  const without = lacks.length > 0 ? `, without ${listed(lacks)}` : '';
  if (partial) return `${things(many)} of chosen parts${without}`;
  if (counted === null) return `${things(many)}, which the platform does not count${without}`;
  if (many === counted) return `all ${things(many)} that the platform counts${without}`;
  return `${many} of the ${things(counted)} that the platform counts${without}`;
}

function listed(words: readonly string[]): string {
  return words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1) ?? ''}`;
}
