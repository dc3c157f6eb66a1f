import type {
  ClosedDay,
  Comparison,
  Course,
  Decision,
  Double,
  FindingSettings,
  Inventory,
  JoinPlan,
  Note,
  Preview,
  Problem,
  Profile,
  Proposal,
  RedatePlan,
  Reweighed,
  SplitPlan,
  Term,
  Part,
  Moment,
} from '@treenail/core';
import type { RedateData } from '../redate/redate-view';
import type { BeforeAfterAnswer, RelationsAnswer, TextSearchAnswer, TidyAnswer } from '@treenail/server/contract';

/** What lies on the Bench: a file, a folder whose files lie about loose, or a kept copy. */
export type Source =
  | { readonly name: string; readonly size: number; readonly file: File }
  | { readonly name: string; readonly size: number; readonly files: readonly { path: string; file: File }[] }
  /** A kept copy, read by parts from where it is kept. */
  | { readonly name: string; readonly size: number; readonly address: string };

/** What a person decided about the package that is open. */
export interface Decided {
  decisions: readonly Decision[];
  /** Identifiers of items. */
  leftOut: readonly string[];
  /** From when on what goes can be seen. */
  hiddenUntil: Moment | null;
  /** Where its dates go; `null` where they stay. */
  redate: { plan: RedatePlan; zone: string } | null;
}

/** What the house has set that packages are looked at by. */
export interface HouseCalendar {
  terms: readonly Term[];
  closed: readonly ClosedDay[];
  zone: string;
}

/** What the page and the worker of the Bench say to one another. */
export type ToWorker =
  | { ask: 'glance'; id: number; source: Source; described: readonly string[] }
  | { ask: 'open'; id: number; source: Source; described: readonly string[]; settings: FindingSettings }
  | { ask: 'destine'; id: number; profile: Profile | null; decided: Decided }
  | { ask: 'preview-beside'; id: number; item: string; learner: boolean }
  | { ask: 'preview'; id: number; item: string; learner: boolean; question: string; decided: Decided }
  | { ask: 'file'; id: number; path: string; decided: Decided }
  | { ask: 'search'; id: number; question: string }
  | { ask: 'relations'; id: number }
  | { ask: 'tidy'; id: number; decided: Decided }
  | { ask: 'give'; id: number; file: File }
  | { ask: 'before-after'; id: number; key: string; mend: string; params: Record<string, string> }
  | { ask: 'compare'; id: number; source: Source; described: readonly string[] }
  | { ask: 'convert'; id: number; target: string; decided: Decided }
  | { ask: 'dates'; id: number; house: HouseCalendar; decided: Decided }
  | { ask: 'cuts'; id: number; house: HouseCalendar; decided: Decided }
  | { ask: 'parts'; id: number; plan: SplitPlan; decided: Decided }
  | { ask: 'split'; id: number; plan: SplitPlan; target: string; decided: Decided }
  | { ask: 'doubles'; id: number; source: Source; described: readonly string[]; decided: Decided }
  | { ask: 'join'; id: number; plan: JoinPlan; target: string; decided: Decided };

/** Something that is not whole, and why. */
export interface Loss {
  title: string;
  why: string;
}

/** What a first look at one of many files tells. */
export interface Glance {
  /** Format in words: `Common Cartridge 1.1`. */
  label: string;
  title: string;
  items: number;
  notes: number;
  /** The file as it was dropped, or what a loose folder was packed into; none of a copy that is kept already. */
  blob: Blob | null;
}

export interface Opened extends Omit<Glance, 'title' | 'items' | 'notes'> {
  course: Course;
  inventory: Inventory;
  notes: Note[];
  /** How many findings there are; `null` before every file was read. */
  findings: number | null;
  targets: { id: string; label: string; losses: Loss[] }[];
}

/** The package that is open beside another one. */
export interface Compared {
  other: Course;
  label: string;
  comparison: Comparison;
}

export interface Converted {
  blob: Blob;
  fileName: string;
  /** What is not whole in it, and what was asked for and could not be done. */
  losses: Loss[];
}

/** Where the open course could be cut, and what it is as it would be cut now. */
export interface Cuts {
  course: Course;
  proposals: Proposal[];
}

/** One part of the open course, as it would be. */
export interface PartAnswer {
  title: string;
  items: string[];
  shared: { item: string; title: string; why: string }[];
  dangling: Part['dangling'];
  weights: Reweighed[];
  points: number;
}

/** What the open course has in common with another. */
export interface Common {
  title: string;
  items: number;
  doubles: Double[];
}

export type FromWorker =
  | {
      id: number;
      answer:
        | Glance
        | Opened
        | Preview
        | TextSearchAnswer
        | RelationsAnswer
        | TidyAnswer
        | BeforeAfterAnswer
        | string
        | Blob
        | Compared
        | Converted
        | Converted[]
        | RedateData
        | Cuts
        | PartAnswer[]
        | Common;
    }
  | { id: number; refusal: Problem }
  | { progress: number; total: number }
  /** The package that is open, with what reading its files found; told again once the longest were read to their ends. */
  | { surveyed: Opened; whole: boolean };
