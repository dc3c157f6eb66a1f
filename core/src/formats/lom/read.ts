import * as z from 'zod';
import { child, elements, fold, taken, textOf, type XmlElement } from '../../markup/index.ts';
import type { Metadata, Settings } from '../../model/index.ts';
import { DateText, DurationText, Lom, Term, Text, Words } from '../../model/settings/lom.ts';

/**
 * Reads LOM in the spellings of IEEE 1484.12.3 and of IMS Meta-Data 1.2.1, which has other names for some elements and
 * writes them small. The schema of the model is what is looked for, so that nothing of it can be forgotten here.
 */
export function readLom(element: XmlElement | undefined): Lom {
  return element ? Lom.parse(objectOf(Lom, element) ?? {}) : {};
}

/** What IMS Meta-Data calls otherwise. */
const OTHERWISE: Record<string, string> = {
  catalogentry: 'identifier',
  centity: 'entity',
  vcard: 'entity',
};
const nameOf = ({ name }: XmlElement) => OTHERWISE[name.toLowerCase()] ?? name.toLowerCase();

type Schema = z.core.$ZodType;

function objectOf(schema: z.ZodObject, element: XmlElement): object | undefined {
  const byName = new Map<string, XmlElement[]>();
  for (const part of elements(element)) byName.set(nameOf(part), [...(byName.get(nameOf(part)) ?? []), part]);
  const read = Object.entries<Schema>(schema.shape).flatMap(([name, of]) => {
    const value = valuesOf(of, byName.get(name.toLowerCase()) ?? []);
    return value === undefined ? [] : [[name, value] as const];
  });
  return read.length === 0 ? undefined : Object.fromEntries(read);
}

function valuesOf(schema: Schema, found: readonly XmlElement[]): unknown {
  if (schema instanceof z.ZodOptional) return valuesOf(schema.unwrap(), found);
  const [only] = found;
  if (schema !== Words && schema instanceof z.ZodArray) {
    const all = found.map((element) => valueOf(schema.element, element)).filter((value) => value !== undefined);
    return all.length > 0 ? all : undefined;
  }
  return only === undefined ? undefined : valueOf(schema, only);
}

function valueOf(schema: Schema, element: XmlElement): unknown {
  taken(element);
  if (schema === Words) return wordsOf(element);
  if (schema === Term) return termOf(element);
  if (schema === Text) return said(element);
  if (schema === DateText) return said(elements(element).find((e) => /^datetime$/i.test(e.name)) ?? element);
  if (schema === DurationText)
    return said(elements(element).find((e) => /^(duration|datetime)$/i.test(e.name)) ?? element);
  return schema instanceof z.ZodObject ? objectOf(schema, element) : undefined;
}

/** A vCard has lines; all else is folded. */
function said(element: XmlElement | undefined): string | undefined {
  // IMS Meta-Data writes words that are of no language so.
  if (!element) return undefined;
  const words = elements(taken(element)).find((e) => /^langstring$/i.test(e.name));
  void words?.attrs['lang'];
  const text = textOf(words ?? element).trim();
  const read = /^BEGIN:VCARD/i.test(text) ? text.replace(/\r\n?/g, '\n') : fold(text);
  return read === '' ? undefined : read;
}

function wordsOf(element: XmlElement): z.infer<typeof Words> | undefined {
  const strings = elements(element).filter((e) => /^(string|langstring)$/i.test(e.name));
  const words = (strings.length > 0 ? strings : [element]).flatMap((e) => {
    const text = fold(textOf(e));
    const language = e.attrs['language'] ?? e.attrs['lang'];
    return text === '' ? [] : [{ text, ...(language ? { language } : {}) }];
  });
  return words.length > 0 ? words : undefined;
}

function termOf(element: XmlElement): z.infer<typeof Term> | undefined {
  const of = (name: string) => elements(element).find((e) => e.name.toLowerCase() === name);
  const [value, source] = [said(of('value')), said(of('source'))];
  if (value === undefined) return undefined;
  return { value, ...(source === undefined || source === 'LOMv1.0' ? {} : { source }) };
}

const first = (words: z.infer<typeof Words> | undefined) => words?.[0]?.text;

export function titleIn({ general }: Lom): string | undefined {
  return first(general?.title);
}

/** The plainest of what metadata say, in the language that comes first. */
export function metadataOf({ general, rights }: Lom): Metadata {
  const set = Object.entries({
    description: first(general?.description?.[0]),
    rights: first(rights?.description),
    language: general?.language?.[0],
    catalogEntry: general?.identifier?.[0]?.entry,
  }).filter(([, value]) => value !== undefined);
  // One keyword an element, or one in which all the words stand.
  const keywords = (general?.keyword ?? []).flatMap((k) => k.map(({ text }) => text));
  return { keywords, ...Object.fromEntries(set) };
}

/** What is said beyond that: without what it says already, and without what then says nothing. */
export function beyond(
  lom: Lom,
  { roles, language: around }: { roles: 'said otherwise' | 'kept'; language?: string | undefined },
): { lom?: Lom } {
  const { general = {}, rights = {}, educational = [], ...others } = lom;
  const main = general.language?.[0] ?? around;
  const plain = (words: z.infer<typeof Words>) =>
    words.length === 1 && (words[0]?.language === undefined || words[0].language === main);
  const { title, description, keyword, language, identifier, ...rest } = general;
  const [only, ...more] = identifier ?? [];
  const left = {
    ...(title && !plain(title) ? { title } : {}),
    ...(description && (description.length > 1 || !description.every(plain)) ? { description } : {}),
    ...(keyword && !keyword.every(plain) ? { keyword } : {}),
    ...(language && language.length > 1 ? { language } : {}),
    ...(identifier && (more.length > 0 || (only?.catalog ?? OWN_CATALOG) !== OWN_CATALOG || only?.entry === undefined)
      ? { identifier }
      : {}),
    ...rest,
  };
  const { description: terms, ...otherRights } = rights;
  const rightsLeft = { ...otherRights, ...(terms && !plain(terms) ? { description: terms } : {}) };
  const taught = educational.flatMap(({ intendedEndUserRole, ...one }) => {
    const kept = roles === 'kept' && intendedEndUserRole ? { ...one, intendedEndUserRole } : one;
    return Object.keys(kept).length > 0 ? [kept] : [];
  });
  const all: Lom = {
    ...(Object.keys(left).length > 0 ? { general: left } : {}),
    ...others,
    ...(taught.length > 0 ? { educational: taught } : {}),
    ...(Object.keys(rightsLeft).length > 0 ? { rights: rightsLeft } : {}),
  };
  return Object.keys(all).length > 0 ? { lom: Lom.parse(all) } : {};
}

/** In which Treenail writes a course's code. */
export const OWN_CATALOG = 'course';

/** What LOM says of a resource or place of that title, in a course of that language: for whom it is, what it is about, and the rest (IEEE 1484.12.1). */
export function settingsOfLom(
  element: XmlElement | undefined,
  { title: named, language }: { title: string; language: string | undefined },
): Settings {
  if (!element) return {};
  const lom = readLom(element);
  const roles = (lom.educational ?? []).flatMap((e) => (e.intendedEndUserRole ?? []).map((r) => r.value));
  const { description, keywords } = metadataOf(lom);
  // Without a title, code, rights or language of its own, an item has those only here.
  const { general, rights } = lom;
  const own = {
    ...(general?.title?.some(({ text }) => text !== named) ? { title: general.title } : {}),
    ...(general?.identifier ? { identifier: general.identifier } : {}),
    ...(general?.language ? { language: general.language } : {}),
  };
  const further = beyond(lom, { roles: 'said otherwise', language }).lom ?? {};
  const whole: Lom = {
    ...further,
    ...(Object.keys(own).length > 0 ? { general: { ...further.general, ...own } } : {}),
    ...(rights ? { rights } : {}),
  };
  return {
    ...(roles.length > 0 ? { audience: roles.join(', ') } : {}),
    ...(description === undefined ? {} : { description }),
    ...(keywords.length > 0 ? { keywords } : {}),
    ...(Object.keys(whole).length > 0 ? { lom: Lom.parse(whole) } : {}),
  };
}

/** The LOM of an element of a manifest, under either of its names. */
export function lomOf(holder: XmlElement | undefined): XmlElement | undefined {
  return child(holder, 'metadata', 'lom') ?? child(holder, 'metadata', 'record');
}
