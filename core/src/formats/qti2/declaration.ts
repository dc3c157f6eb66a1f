import { textOf, type XmlElement } from '../../markup/index.ts';
import { attributeOf, kid, kids } from './names.ts';

/** What a response may be, what is right, and what it gives (Assessment, Section and Item Information Model, 4 and 5). */
export interface Declaration {
  cardinality: string;
  baseType: string;
  correct: string[];
  mapping: { key: string; value: number; caseSensitive: boolean }[];
  /** What the mapping gives to what it does not name, and the least and most that it gives. */
  limits: { others?: number; least?: number; most?: number };
  areas: { shape: string; coords: string; value: number }[];
}

export function readDeclaration(element: XmlElement): Declaration {
  const mapping = kid(element, 'mapping');
  return {
    cardinality: attributeOf(element, 'cardinality') ?? 'single',
    baseType: attributeOf(element, 'baseType') ?? 'string',
    correct: kids(kid(element, 'correctResponse'), 'value').map((v) => textOf(v).trim()),
    mapping: kids(mapping, 'mapEntry').map((m) => ({
      key: attributeOf(m, 'mapKey') ?? '',
      value: Number(attributeOf(m, 'mappedValue') ?? 0),
      caseSensitive: attributeOf(m, 'caseSensitive') === 'true',
    })),
    limits: limitsIn(mapping ?? kid(element, 'areaMapping')),
    areas: kids(kid(element, 'areaMapping'), 'areaMapEntry').map((a) => ({
      shape: attributeOf(a, 'shape') ?? 'rect',
      coords: attributeOf(a, 'coords') ?? '',
      value: Number(attributeOf(a, 'mappedValue') ?? 0),
    })),
  };
}

function limitsIn(mapping: XmlElement | undefined): Declaration['limits'] {
  const number = (name: string) => {
    const value = mapping && attributeOf(mapping, name);
    return value === undefined || value.trim() === '' || !Number.isFinite(Number(value)) ? undefined : Number(value);
  };
  const [others, least, most] = [number('defaultValue'), number('lowerBound'), number('upperBound')];
  return {
    ...(others === undefined ? {} : { others }),
    ...(least === undefined ? {} : { least }),
    ...(most === undefined ? {} : { most }),
  };
}

export const UNDECLARED: Declaration = {
  cardinality: 'single',
  baseType: 'string',
  correct: [],
  mapping: [],
  limits: {},
  areas: [],
};
