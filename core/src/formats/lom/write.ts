import * as z from 'zod';
import { escapeXml, xml } from '../../markup/index.ts';
import type { Metadata, Settings } from '../../model/index.ts';
import { DateText, DurationText, Lom, Term, Text, Words } from '../../model/settings/lom.ts';
import { OWN_CATALOG } from './read.ts';

/** Writes LOM (IEEE 1484.12.3), in the order of its schema; the reverse of `read.ts`. */

export const LOM = 'http://ltsc.ieee.org/xsd/LOM';

type Schema = z.core.$ZodType;

/** `prefix` with its colon, or empty. */
export function writeLom(lom: Lom, prefix: string, attributes: Record<string, string> = {}): string {
  return xml(`${prefix}lom`, attributes, ...partsOf(Lom, lom, prefix));
}

function partsOf(schema: z.ZodObject, value: object, prefix: string): string[] {
  const values = new Map(Object.entries(value));
  return Object.entries<Schema>(schema.shape).flatMap(([name, of]) => {
    const given: unknown = values.get(name);
    return given === undefined ? [] : elementsOf(of, name, given, prefix);
  });
}

function elementsOf(schema: Schema, name: string, value: unknown, prefix: string): string[] {
  if (schema instanceof z.ZodOptional) return elementsOf(schema.unwrap(), name, value, prefix);
  const el = (child: string, text: string) => xml(prefix + child, {}, escapeXml(text));
  if (schema === Words) {
    const strings = Words.parse(value).map(({ text, language }) =>
      xml(`${prefix}string`, { language }, escapeXml(text)),
    );
    return [xml(prefix + name, {}, ...strings)];
  }
  if (schema === Term) {
    const { value: term, source = 'LOMv1.0' } = Term.parse(value);
    return [xml(prefix + name, {}, el('source', source), el('value', term))];
  }
  if (schema === Text) return [el(name, Text.parse(value))];
  if (schema === DateText) return [xml(prefix + name, {}, el('dateTime', Text.parse(value)))];
  if (schema === DurationText) return [xml(prefix + name, {}, el('duration', Text.parse(value)))];
  if (schema instanceof z.ZodArray) {
    return (value as unknown[]).flatMap((one) => elementsOf(schema.element, name, one, prefix));
  }
  return schema instanceof z.ZodObject ? [xml(prefix + name, {}, ...partsOf(schema, value as object, prefix))] : [];
}

/** All that is said of a course: its plain metadata, and what is said beyond them. */
export function lomOfCourse(title: string, metadata: Metadata, { lom = {} }: Settings): Lom {
  const { catalogEntry, language, description, keywords, rights } = metadata;
  const { general = {}, rights: further } = lom;
  const words = (text: string) => [{ text, ...(language === undefined ? {} : { language }) }];
  const firstOf = (all: z.infer<typeof Words> | undefined, text: string) =>
    all ? all.map((one, i) => (i === 0 ? { ...one, text } : one)) : words(text);
  const [described, ...others] = general.description ?? [];
  return {
    ...lom,
    general: {
      ...general,
      ...(catalogEntry === undefined
        ? {}
        : {
            identifier: general.identifier
              ? general.identifier.map((one, i) => (i === 0 ? { ...one, entry: catalogEntry } : one))
              : [{ catalog: OWN_CATALOG, entry: catalogEntry }],
          }),
      title: firstOf(general.title, title),
      ...(language === undefined ? {} : { language: general.language ?? [language] }),
      ...(description === undefined ? {} : { description: [firstOf(described, description), ...others] }),
      ...(keywords.length > 0 ? { keyword: general.keyword ?? keywords.map(words) } : {}),
    },
    ...(rights === undefined ? {} : { rights: { ...further, description: firstOf(further?.description, rights) } }),
  };
}

/** What is said of an item or a place; `null` where nothing is. */
export function lomOfSettings({ lom = {}, description, keywords }: Settings): Lom | null {
  const general = {
    ...lom.general,
    ...(description === undefined ? {} : { description: lom.general?.description ?? [[{ text: description }]] }),
    ...(keywords === undefined ? {} : { keyword: lom.general?.keyword ?? keywords.map((text) => [{ text }]) }),
  };
  const all: Lom = { ...lom, ...(Object.keys(general).length > 0 ? { general } : {}) };
  return Object.keys(all).length > 0 ? all : null;
}

/** The same as an element of a manifest; '' where nothing is said. */
export function metadataElement(settings: Settings): string {
  const lom = lomOfSettings(settings);
  return lom ? xml('metadata', {}, writeLom(lom, '', { xmlns: LOM })) : '';
}
