import type { Course, Inventory, Note, Preview, Problem } from '@treenail/core';

/** What the page and the worker of the Bench say to one another. */
export type ToWorker =
  | { ask: 'open'; id: number; file: File }
  | { ask: 'preview'; id: number; item: string }
  | { ask: 'convert'; id: number; target: string };

export interface Opened {
  course: Course;
  inventory: Inventory;
  notes: Note[];
  /** Format in words: `Common Cartridge 1.1`. */
  label: string;
  targets: { id: string; label: string; losses: { title: string; why: string }[] }[];
}

export interface Converted {
  blob: Blob;
  fileName: string;
}

export type FromWorker =
  | { id: number; answer: Opened | Preview | Converted }
  | { id: number; refusal: Problem }
  | { progress: number; total: number }
  /** The package that is open, with what reading every file of it found. */
  | { surveyed: Opened };
