import type { Item, Preview } from '@treenail/core';
import type { RelationsAnswer, TextSearchAnswer } from '@treenail/server/contract';
import type { Observable } from 'rxjs';

/** How an item is to be shown. */
export interface View {
  /** As a learner meets it: questions without their keys. */
  learner: boolean;
  /** What was searched for, to be marked. */
  question: string;
}

/** What can be asked of a course that is looked into: on the server, or in a worker over a dropped file. */
export interface InsideSource {
  preview(item: Item, view: View): Observable<Preview>;
  search(question: string): Observable<TextSearchAnswer>;
  relations(): Observable<RelationsAnswer>;
  /** Gives the inventory as a file. */
  exportInventory(format: 'csv' | 'xlsx' | 'json'): void;
  /** Formats in which it can be given here. */
  readonly exports: readonly ('csv' | 'xlsx' | 'json')[];
  /** Where an item that reports to a player is played; `null` where it can't be. */
  playAt(item: Item): Observable<string> | null;
}
