import type { Course, Subject } from '../model/index.ts';
import { isSet, subjects } from '../model/index.ts';

export interface Pair {
  source: Subject | null;
  arrived: Subject | null;
}

type KeyOf = (subject: Subject) => string | null;

const isFolder = (s: Subject) => s.kind === 'folder' || s.kind === 'heading';
const group = (s: Subject) => (isFolder(s) ? 'folder' : s.kind);
const title = (s: Subject) => s.title.normalize('NFC').toLowerCase().replace(/\s+/g, ' ').trim();
const above = (s: Subject) => (s.placed?.trail.at(-1) ?? '').toLowerCase();

/** From the surest sign of sameness to the weakest. Each pass pairs what the passes before it left. */
const SIGNS: KeyOf[] = [
  (s) => `${group(s)} ${s.key} ${title(s)}`,
  (s) => (s.kind === 'course' ? s.kind : s.item ? `${s.item.kind} ${s.item.id}` : null),
  // It became something else, and is called as before.
  (s) => (isFolder(s) ? null : `${s.key} ${title(s)}`),
  (s) => (s.item?.fingerprint === undefined ? null : `${s.item.kind} ${s.item.fingerprint} ${title(s)}`),
  (s) => `${group(s)} ${title(s)} ${above(s)}`,
  (s) => `${group(s)} ${title(s)}`,
  (s) => (s.item?.fingerprint === undefined ? null : `${s.item.kind} ${s.item.fingerprint}`),
  (s) => (isFolder(s) ? null : `${title(s)} ${above(s)}`),
  (s) => (isFolder(s) ? null : title(s)),
  // A platform that cuts titles leaves their beginning.
  (s) => (title(s).length >= 24 ? `${group(s)} ${title(s).slice(0, 24)}` : null),
];

/**
 * Pairs what was sent with what is there. Every subject of both sides is in exactly one pair. Identifiers come first,
 * then fingerprints and titles, since platforms renumber what they import.
 */
export function align(source: Course, arrived: Course): Pair[] {
  // A course of which something was set is one of which nothing is, once that is lost.
  const withCourse = isSet(source) || isSet(arrived);
  const left = subjects(source, { withCourse });
  let openLeft = left;
  let openRight = subjects(arrived, { withCourse });
  const partner = new Map<Subject, Subject>();
  for (const sign of SIGNS) {
    const waiting = new Map<string, Subject[]>();
    for (const subject of openRight) {
      const key = sign(subject);
      if (key === null) continue;
      const list = waiting.get(key);
      if (list) list.push(subject);
      else waiting.set(key, [subject]);
    }
    const taken = new Set<Subject>();
    for (const subject of openLeft) {
      const key = sign(subject);
      const match = key === null ? undefined : waiting.get(key)?.shift();
      if (!match) continue;
      partner.set(subject, match);
      taken.add(match);
    }
    openLeft = openLeft.filter((s) => !partner.has(s));
    openRight = openRight.filter((s) => !taken.has(s));
  }
  return [
    ...left.map((s): Pair => ({ source: s, arrived: partner.get(s) ?? null })),
    ...openRight.map((s): Pair => ({ source: null, arrived: s })),
  ];
}
