import type { Item, Preview } from '@treenail/core';
import type { RelationsAnswer, TextSearchAnswer } from '@treenail/server/contract';
import type { Observable } from 'rxjs';

/** How an item is to be shown. */
export interface View {
  /** As a learner meets it: questions without their keys. */
  learner: boolean;
  /** What was searched for, to be marked. */
  question: string;
  /** With everything in it that was decided. */
  mended: boolean;
}

export interface FileAddress {
  url: string;
  release: () => void;
}

/** What can be asked of a course that is looked into: on the server, or in a worker over a dropped file. */
export interface InsideSource {
  preview(item: Item, view: View): Observable<Preview>;
  /** Whether anything was decided that `View.mended` could show. */
  mendable(): boolean;
  /** Where a long file of the package is read part by part; to be let go of when it is no more shown. */
  addressOf(path: string, mended: boolean): Observable<FileAddress>;
  search(question: string): Observable<TextSearchAnswer>;
  relations(): Observable<RelationsAnswer>;
  /** Gives the inventory as a file. */
  exportInventory(format: 'csv' | 'xlsx' | 'json'): void;
  /** Formats in which it can be given here. */
  readonly exports: readonly ('csv' | 'xlsx' | 'json')[];
  /** Gives an item to somebody; `null` where nothing is kept that it could be given of. */
  readonly give: ((item: Item) => void) | null;
  /** Where an item that reports to a player is played; `null` where it can't be. */
  playAt(item: Item): Observable<string> | null;
}
