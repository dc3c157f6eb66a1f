import { XMLParser } from 'fast-xml-parser';
import * as z from 'zod';

/* XML as plain objects: elements by their local names, attributes with an `@`. */

const MANY = new Set([
  'item',
  'resource',
  'file',
  'dependency',
  'respcondition',
  'response_label',
  'varequal',
  'varsubstring',
  'itemfeedback',
  'displayfeedback',
  'qtimetadatafield',
  'attachment',
  'format',
  'mattext',
  'simpleChoice',
  'qti-simple-choice',
  'responseDeclaration',
  'qti-response-declaration',
  'outcomeDeclaration',
  'qti-outcome-declaration',
  'value',
  'qti-value',
]);
const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  removeNSPrefix: true,
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  alwaysCreateTextNode: true,
  isArray: (name) => MANY.has(name),
  htmlEntities: true,
});

export type Xml = { [key: string]: Xml | Xml[] | string | undefined };
const Parsed: z.ZodType<Xml> = z.record(z.string(), z.any());

export const one = (x: Xml | undefined, ...path: string[]): Xml | undefined => {
  let at: Xml | undefined = x;
  for (const name of path) {
    const next: Xml | Xml[] | string | undefined = at?.[name];
    at = Array.isArray(next) ? next[0] : typeof next === 'object' ? next : undefined;
  }
  return at;
};
export const many = (x: Xml | undefined, name: string): Xml[] => {
  const next = x?.[name];
  return Array.isArray(next) ? next : typeof next === 'object' ? [next] : [];
};
export const attr = (x: Xml | undefined, name: string): string => {
  const value = x?.[`@${name}`];
  return typeof value === 'string' ? value : '';
};
export const words = (x: Xml | undefined): string => {
  const value = x?.['#text'];
  return typeof value === 'string' ? value : '';
};

export function parseXml(bytes: Buffer): Xml {
  return Parsed.parse(parser.parse(bytes));
}
