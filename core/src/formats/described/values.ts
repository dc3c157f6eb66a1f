import { momentOf } from '../../model/index.ts';
import { plainText } from '../../markup/index.ts';
import { encodePath } from '../references.ts';
import { htmlOf } from '../archive/texts.ts';
import type { RichText, SettingValue } from '../../model/index.ts';
import { asText, findAll, plainOf } from './documents.ts';
import type { TakenAs, Value } from './language.ts';
import { pathsIn } from './parse.ts';
import type { Rec, Records } from './records.ts';

/** Where files and pages stand once the archive is read, by the keys that texts and records name them by. */
export interface Places {
  files: ReadonlyMap<string, string>;
  pages: ReadonlyMap<string, string>;
  /** Takes down which files are named. */
  named?: Set<string>;
}
export const NOWHERE: Places = { files: new Map(), pages: new Map() };

/** What a value finds, before it is taken as anything. */
interface Raw {
  values: unknown[];
  /** Of the first: the mark-up inside the element. */
  inside: string;
  as: TakenAs | undefined;
}

function rawOf(records: Records, value: Value, rec: Rec, field: string): Raw {
  const none: Raw = { values: [], inside: '', as: value.as };
  if (!records.holds(value.when, rec)) return none;
  if (value.first) {
    for (const each of value.first) {
      const raw = rawOf(records, each, rec, field);
      if (raw.values.length > 0) return { ...raw, as: raw.as ?? value.as };
    }
    return none;
  }
  const there = records.whose(rec, value.of);
  if (!there) return none;
  let { values, inside } = sought(records, value, there);
  if (value.look !== undefined && value.then !== undefined) {
    const other = records.keyed(value.look, asText(values[0]));
    if (!other) return none;
    const raw = rawOf(records, value.then, other, field);
    values = raw.values;
    inside = raw.inside;
  }
  if (value.table) {
    const table = value.table;
    values = values.flatMap((v) => (Object.hasOwn(table, asText(v)) ? [table[asText(v)]] : []));
  }
  const { times = 1, divide = 1 } = value;
  if (times !== 1 || divide !== 1) values = values.map((v) => (Number(v) * times) / divide).filter(Number.isFinite);
  if (values.length > 0) records.trace?.field(rec, field, asText(values[0]));
  return { values, inside, as: value.as };
}

function sought(records: Records, value: Value, there: Rec): { values: unknown[]; inside: string } {
  if (value.is !== undefined) return { values: [value.is], inside: '' };
  if (value.fill !== undefined) {
    let missing = false;
    const text = pathsIn(value.fill).reduce((filled, path) => {
      const found = values(records, path, there).values[0];
      if (found === undefined) missing = true;
      return filled.replace(`{${path}}`, () => asText(found));
    }, value.fill);
    return { values: missing ? [] : [text], inside: '' };
  }
  return values(records, value.path ?? '', there);
}

function values(records: Records, path: string, there: Rec): { values: unknown[]; inside: string } {
  const found = findAll(there.doc, there.node, path);
  for (const { place } of found) records.trace?.used(there, place);
  const [first] = found;
  return {
    values: found.map(({ node }) => plainOf(there.doc, node)).filter((v) => v !== null && v !== undefined && v !== ''),
    inside: first ? there.doc.inside(first.node) : '',
  };
}

/** A value as a text; empty where nothing is found. */
export function textValue(records: Records, value: Value | undefined, rec: Rec, field: string): string {
  return value ? asText(valueOf(records, value, rec, field, NOWHERE, '')) : '';
}

/** All that a value could be, the first that is given first: for identifiers, of which each is taken once. */
export function* candidates(records: Records, value: Value, rec: Rec, field: string): Generator<string> {
  for (const each of value.first ?? [value]) {
    const text = textValue(records, each, rec, field);
    if (text !== '') yield text;
  }
}

/**
 * A value as a setting holds it; null where nothing is found. `up` leads from where the text will stand to the
 * package's root.
 */
export function valueOf(
  records: Records,
  value: Value,
  rec: Rec,
  field: string,
  places: Places,
  up: string,
): SettingValue | null {
  const { values, inside, as } = rawOf(records, value, rec, field);
  const [first] = values;
  if (first === undefined) return null;
  const text = asText(first);
  switch (as) {
    case 'list':
      return values.map(asText);
    case 'file':
      return places.files.get(text) ?? null;
    case 'files':
      return values.flatMap((key) => places.files.get(asText(key)) ?? []);
    case 'number': {
      const number = Number(first);
      return Number.isFinite(number) ? number : null;
    }
    case 'yes':
      return first === true || /^(true|yes|1|on|y)$/i.test(text);
    case 'date': {
      // What names no zone is a time on a wall’s clock, not one of this machine’s.
      if (momentOf(text).is !== 'unread') return text;
      const date = new Date(/^-?\d+(\.\d+)?$/.test(text) ? Number(first) * 1000 : text);
      return Number.isNaN(date.getTime()) ? null : date.toISOString().replace('.000Z', 'Z');
    }
    case 'words':
      return plainText(text);
    case 'html':
      return resolved(records, text, places, up);
    case 'markdown':
      return resolved(records, htmlOf(text), places, up);
    case 'inside':
      return resolved(records, inside, places, up);
    case 'text':
      return text;
    case undefined:
      return typeof first === 'number' || typeof first === 'boolean' ? first : text;
  }
}

/** A text with its mark-up: HTML unless it is taken as something plain. */
export function richValue(
  records: Records,
  value: Value | undefined,
  rec: Rec,
  field: string,
  places: Places,
  up = '',
): RichText | null {
  if (!value) return null;
  const isPlain = value.as === 'text' || value.as === 'words';
  const text = valueOf(records, value.as === undefined ? { ...value, as: 'html' } : value, rec, field, places, up);
  return text === null ? null : { format: isPlain ? 'plain' : 'html', text: asText(text) };
}

/** A text in which files and pages are named by their places. Without patterns of its own: a hostile text would run them. */
function resolved(records: Records, text: string, places: Places, up: string): string {
  return records.description.texts.reduce((done, { begins, ends, look }) => {
    if (!done.includes(begins)) return done;
    const known = places[look];
    return done
      .split(begins)
      .map((part, i) => {
        if (i === 0) return part;
        const end = ends === undefined ? (/^[\w-]*/.exec(part)?.[0].length ?? 0) : part.indexOf(ends);
        const path = known.get(part.slice(0, Math.max(end, 0)));
        if (end < 1 || path === undefined) return begins + part;
        if (look === 'files') places.named?.add(path);
        return up + encodePath(path) + part.slice(end + (ends?.length ?? 0));
      })
      .join('');
  }, text);
}
