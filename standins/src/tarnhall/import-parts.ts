import type { ReadQuestion } from '../shared/qti-items.ts';
import { attr, many, one, words, type Xml } from '../shared/xml.ts';
import type { TQuestion } from './model.ts';

/** What the importer does with single values. */

export const FRAMES = /src\s*=\s*["']https:\/\/films\.marrowick\.example\//i;
export const FILE_LIMIT = 20 * 2 ** 20;
export const TITLE_LIMIT = 60;

/** Types of resources that are definitions, not files. */
export const DEFINED = /^(imsqti|imsdt|imswl|imsbasiclti|assignment)/;

export function count(items: readonly Xml[]): number {
  return items.reduce((n, i) => n + (attr(i, 'identifierref') === '' ? 0 : 1) + count(many(i, 'item')), 0);
}

export function asOwn({ options, words: taken, ...rest }: ReadQuestion): TQuestion {
  return {
    ...rest,
    options: options.map((o) => ({ ...o, reply: null })),
    words: taken.map((text) => ({ text, strict: false })),
    replies: { any: null, right: null, wrong: null },
  };
}

export function fields(holder: Xml | undefined): Map<string, string> {
  return new Map(
    many(one(holder, 'qtimetadata'), 'qtimetadatafield').map((f) => [
      words(one(f, 'fieldlabel')),
      words(one(f, 'fieldentry')),
    ]),
  );
}

export function normal(path: string): string {
  const out: string[] = [];
  for (const part of decodeURIComponent(path).split('/')) {
    if (part === '..') out.pop();
    else if (part !== '.' && part !== '') out.push(part);
  }
  return out.join('/');
}

const MEDIA: Record<string, string> = {
  png: 'image/png',
  pdf: 'application/pdf',
  mp3: 'audio/mpeg',
  css: 'text/css',
  jpg: 'image/jpeg',
};
export function mediaOf(path: string): string {
  return MEDIA[path.slice(path.lastIndexOf('.') + 1).toLowerCase()] ?? 'application/octet-stream';
}
