import type { Problem, Trial } from '@treenail/core';
import type { Source } from '../bench/messages';

/** What the page and the worker of the description say to one another. */
export type ToWorker =
  | { ask: 'open'; id: number; source: Source }
  | { ask: 'try'; id: number; text: string }
  | { ask: 'peek'; id: number; path: string };

export interface ArchiveOpened {
  files: { path: string; size: number }[];
  /** A description to begin with, guessed from the archive. */
  starter: string;
}

/** What a text makes of the archive: all that is wrong with it, or what it finds. */
export type Tried =
  { problems: Problem[]; trial: null } | { problems: Problem[]; trial: Trial; lines: ReadonlyMap<string, number> };

export interface Peeked {
  text: string;
  /** Whether there is more of it. */
  cut: boolean;
}
