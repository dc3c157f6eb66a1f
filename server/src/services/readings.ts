import type { Services } from './context.ts';
import { previewOfFile, previewOfItem } from './moves.ts';
import { contentsOf } from './errands.ts';
import { playItem } from './play.ts';
import { tryMend } from './tidy.ts';

/**
 * What a person waits for and a package decides how long it takes: a page may be made to keep whoever shows it busy. It is
 * done beside the server (`reading-process.ts`), where it can be ended.
 */
export const READINGS = { previewOfItem, previewOfFile, tryMend, playItem, contentsOf };

type Readings = typeof READINGS;
export type Reading = keyof Readings;
/** What a reading is asked with, besides the services. Plain data: it goes from process to process. */
export type Asked<K extends Reading> = Parameters<Readings[K]> extends [Services, ...infer A] ? A : never;
export type Answered<K extends Reading> = ReturnType<Readings[K]>;

/** Has a reading done, wherever that is. */
export type Read = <K extends Reading>(name: K, ...asked: Asked<K>) => Answered<K>;

/** Does readings in this process. */
export function readHere(services: Services): Read {
  return <K extends Reading>(name: K, ...asked: Asked<K>) => {
    const reading = READINGS[name] as (...given: unknown[]) => Answered<K>;
    return reading(services, ...(asked as unknown[]));
  };
}
