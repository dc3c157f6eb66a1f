import type { Finding } from '../../inspect/index.ts';
import type { Course, Item } from '../../model/index.ts';
import type { CourseLink } from '../../inspect/index.ts';

/** What a person gives a mend, besides the finding. */
export interface MendParam {
  name: string;
  label: string;
  /**
   * `target` is an item, a file or an address; `bank` one of the course's banks; `file` a file of the person's own, by
   * the address under which it was supplied.
   */
  kind: 'text' | 'target' | 'bank' | 'number' | 'file';
  /** It may be left empty. */
  optional?: true;
}

/**
 * The working copy while mends are put into it. Nothing is changed at once: what is said here is done when all mends
 * have spoken, so that all of them see the course as it was found.
 */
export interface Workbench {
  readonly course: Course;
  readonly items: ReadonlyMap<string, Item>;
  readonly links: readonly CourseLink[];
  /** Replaces a stretch of the text that the finding stands in. */
  cut(finding: Finding, start: number, end: number, text: string): void;
  /** The text that the finding stands in; `null` where it can't be read. */
  source(finding: Finding): string | null;
  change(item: string, change: (item: Item) => Item): void;
  /** Changes what is set of a folder, heading or further place. */
  changePlace(node: string, change: (settings: Item['settings']) => Item['settings']): void;
  leaveOut(what: { item: string } | { node: string } | { file: string }): void;
  /** @returns why it can't be done */
  rename(file: string, to: string): string | null;
  /** Leads everything that uses one file to another, and leaves it out. */
  merge(file: string, into: string): void;
  /** Makes a file anew without what it tells of people. */
  remake(file: string, finding: Finding): void;
  /** What was fetched of an address, or given by a person, for this course: its path in the working copy. */
  supplied(address: string): string | null;
  stripPeople(): void;
}

/** A way to mend a finding. A mend is added by adding it to one of the lists here, and nowhere else: what is particular about it stands here too. */
export interface MendKind {
  readonly id: string;
  /** `Take the link off, keep its words`. */
  readonly label: string;
  readonly params: readonly MendParam[];
  /** Its suggestion is another one for each finding: where many are decided at once, each takes its own. */
  readonly particular?: true;
  /** It can't be asked for without a suggestion: only that says of what. */
  readonly onlySuggested?: true;
  /** It needs the file that the finding leads to, which is fetched from the repository. */
  readonly fetches?: true;
  /** @returns why it can't be done here, or `null` when it is */
  apply(finding: Finding, params: Readonly<Record<string, string>>, work: Workbench): string | null;
}
