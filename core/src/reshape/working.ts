import type { Package } from '../container/index.ts';
import type { CourseLink, Finding } from '../inspect/index.ts';
import type { Course, Moment } from '../model/index.ts';
import { goAlong, type Along } from './along.ts';
import { emptyFolders } from './select.ts';
import { applyChanges, type ApplyOptions, type Surveyed } from './apply.ts';
import { addressesIn } from './calling.ts';
import { datesInTexts, putDates, type Redates } from './dates/apply.ts';
import { hideUntil } from './further.ts';
import { LEAVE, decided, type Decision } from './decisions.ts';
import { asSettled, isUnsettled, type Settled } from './meet.ts';
import { Mending, type Supplies } from './mending.ts';

export interface WorkingOptions extends ApplyOptions {
  /** Identifiers of items that a person leaves out. */
  leftOut?: readonly string[];
  /** Folders that nothing of what goes stands in do not go either. */
  withoutEmpty?: boolean;
  /** Records of people, and files that are theirs, do not go. */
  withoutPeople?: boolean;
  supplies?: Supplies;
  /** From when on what goes can be seen. */
  hiddenUntil?: Moment;
  /** How it is to arrive, where that is otherwise than it was. */
  along?: Along;
  /** Dates that are other than they were. */
  redates?: Redates;
  /** What was decided of what meets its like where the course goes. */
  settled?: Settled;
}

export interface WorkingCopy {
  /** Surveyed anew where something changed. `origin.untouched` is false once anything did. */
  course: Course;
  links: CourseLink[];
  /** The package in which the course's files are to be found. */
  pkg: Package;
  /** Keys of findings that are mended. */
  mended: string[];
  /** What could not be done, and why. */
  failed: { key: string; decision: string; why: string }[];
}

/**
 * The course and its package as the decisions make them: what mends want changed is gathered first, and then done. The
 * package they came from is neither changed nor copied.
 */
export async function workingCopy(
  pkg: Package,
  before: Surveyed,
  findings: readonly Finding[],
  decisions: readonly Decision[],
  {
    leftOut: unticked = [],
    withoutEmpty = false,
    withoutPeople = false,
    supplies,
    redates,
    hiddenUntil,
    along,
    settled,
    ...options
  }: WorkingOptions = {},
): Promise<WorkingCopy> {
  const leftOut = [...unticked, ...(settled?.leftOut ?? [])];
  const chosen = decided(findings, decisions);
  const mends = findings.flatMap((finding) => {
    const decision = chosen.get(finding.key);
    return decision && decision.mend !== LEAVE ? [{ finding, decision }] : [];
  });
  const mending = new Mending(pkg, before.course, before.links, supplies);
  await mending.mend([...mends, ...(redates ? datesInTexts(redates) : [])], leftOut);
  if (redates) await putDates(mending.changes, pkg, redates);
  if (hiddenUntil) hideUntil(before.course, new Set(leftOut), hiddenUntil, mending.changes);
  if (along) goAlong(before.course, along, mending.changes);
  const { changes, failed } = mending;
  if (withoutPeople) mending.stripPeople();
  if (withoutEmpty)
    for (const id of emptyFolders(before.course.outline, changes.leftOut.items)) changes.leftOut.nodes.add(id);
  const as = (course: Course) => (settled && !isUnsettled(settled) ? asSettled(course, settled) : course);
  if (settled) addressesIn(before.links, new Map(Object.entries(settled.calls)), changes);
  if (changes.isEmpty)
    return { course: as(before.course), links: [...before.links], pkg, mended: [...mending.mended], failed };
  const { course, links, pkg: over, refused } = await applyChanges(pkg, before, changes, options);
  for (const { key, why } of refused) mending.refuse(key, why);
  return { course: as(course), links, pkg: over, mended: [...mending.mended], failed };
}
