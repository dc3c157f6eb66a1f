import type { Target } from '../formats/index.ts';
import { SETTINGS, SubjectKind, type Course, type Profile } from '../model/index.ts';

/**
 * A target's profile as far as a course goes through it: none of it where the package goes on as it came, and only what it
 * says of kinds that become others where all other definitions stay as they are.
 */
export function profileOn(
  { origin }: Course,
  { passthrough, profile }: Pick<Target, 'passthrough' | 'profile'>,
): Profile | null {
  const kept = origin.untouched ? (passthrough?.(origin) ?? null) : null;
  if (kept === 'everything' || kept === 'exchanged') return null;
  return kept === 'definitions' ? ofOtherKinds(profile) : profile;
}

/**
 * Whether what texts say and lead to must be known to take a course there: not where they go on as they are, and so does all
 * that they could lead to.
 */
export function asksForTexts(
  course: Course,
  { passthrough, profile }: Pick<Target, 'passthrough' | 'profile'>,
): boolean {
  const kept = course.origin.untouched ? (passthrough?.(course.origin) ?? null) : null;
  if (kept === 'everything' || kept === 'exchanged') return false;
  return kept === null || course.items.some(({ kind }) => profile.kinds[kind] !== undefined);
}

function ofOtherKinds(profile: Profile): Profile {
  const copied = SubjectKind.options.filter((kind) => profile.kinds[kind] === undefined);
  const whole = Object.fromEntries(copied.map((kind) => [kind, [...SETTINGS]]));
  const settings = Object.entries(profile.settings).filter(([kind]) => !(kind in whole));
  const after: Profile = {
    ...profile,
    ...(profile.keeps ? { keeps: { ...profile.keeps, ...whole } } : {}),
    settings: Object.fromEntries(settings),
    questions: {},
    questionParts: {},
  };
  delete after.untitled;
  return after;
}
