import { escapeXml } from '../../markup/index.ts';
import {
  asksForOnePoint,
  isPointing,
  partsOf,
  valueOfPlace,
  type Question,
  type QuestionOf,
} from '../../model/index.ts';
import { asIdentifier, type Attributes } from './names.ts';

type El = (name: string, attributes: Attributes, ...children: string[]) => string;
/** Its name, how many values it has and of what type, which are right, and what each gives. */
type Declared = [
  identifier: string,
  cardinality: string,
  baseType: string,
  correct: readonly string[],
  mapping?: readonly { key: string; value: number }[],
];

/** What is answered, and its key, of each response that a question asks for; the reverse of `declaration.ts`. */
export function writeDeclarations(q: Question, response: string, el: El): string[] {
  const declare = (...of: Declared) => declaration(q, el, ...of);
  const pairs = partsOf(q).pairs.map((p) => ({
    key: `${asIdentifier(p.choice)} ${asIdentifier(p.target)}`,
    score: p.score,
  }));
  const scored = (list: readonly { id: string; score?: number | undefined }[]) =>
    list.flatMap((c) => (c.score === undefined ? [] : [{ key: asIdentifier(c.id), value: c.score }]));
  const right = (list: readonly { id: string; correct: boolean }[]) =>
    list.filter((c) => c.correct).map((c) => asIdentifier(c.id));
  switch (q.type) {
    case 'choice':
    case 'true/false':
      return [declare(response, 'single', 'identifier', right(q.choices), scored(q.choices))];
    case 'multiple response':
      return [declare(response, 'multiple', 'identifier', right(q.choices), scored(q.choices))];
    case 'hotspot':
      if (isPointing(q)) return [declarePoints(q, response, el)];
      return [declare(response, 'multiple', 'identifier', right(q.areas), scored(q.areas))];
    case 'ordering':
      return [declare(response, 'ordered', 'identifier', q.order.map(asIdentifier))];
    case 'matching':
    case 'associate':
    case 'gap match': {
      const mapping = pairs.flatMap((p) => (p.score === undefined ? [] : [{ key: p.key, value: p.score }]));
      const baseType = q.type === 'associate' ? 'pair' : 'directedPair';
      return [
        declare(
          response,
          'multiple',
          baseType,
          pairs.map((p) => p.key),
          mapping,
        ),
      ];
    }
    case 'cloze':
      return q.blanks.map((b) =>
        b.choices.length > 0
          ? declare(asIdentifier(b.id), 'single', 'identifier', right(b.choices), scored(b.choices))
          : declare(
              asIdentifier(b.id),
              'single',
              'string',
              b.answers.slice(0, 1).map((a) => a.text),
            ),
      );
    case 'numeric':
      return [
        declare(
          response,
          'single',
          'float',
          q.numbers.slice(0, 1).map((n) => String(n.value)),
        ),
      ];
    case 'several parts':
      return q.subquestions.flatMap((part) => writeDeclarations(part, asIdentifier(part.id), el));
    case 'upload':
      return [declare(response, 'single', 'file', [])];
    default:
      return [
        declare(
          response,
          'single',
          'string',
          partsOf(q)
            .answers.slice(0, 1)
            .map((a) => a.text),
        ),
      ];
  }
}

/** Points by the places that they lie in. */
function declarePoints(q: QuestionOf<'hotspot'>, identifier: string, el: El): string {
  const { others = 0, least, most } = q.scoring ?? {};
  return el(
    'responseDeclaration',
    { identifier, cardinality: asksForOnePoint(q) ? 'single' : 'multiple', baseType: 'point' },
    el(
      'areaMapping',
      { lowerBound: least, upperBound: most, defaultValue: others },
      ...q.areas.map((area) =>
        el('areaMapEntry', {
          shape: area.shape,
          coords: area.coords.join(','),
          mappedValue: valueOfPlace(q, area),
        }),
      ),
    ),
  );
}

function declaration(
  { scoring = {} }: Question,
  el: El,
  identifier: string,
  cardinality: string,
  baseType: string,
  correct: readonly string[],
  mapping: readonly { key: string; value: number }[] = [],
): string {
  const { others = 0, least, most } = scoring;
  return el(
    'responseDeclaration',
    { identifier, cardinality, baseType },
    correct.length === 0 ? '' : el('correctResponse', {}, ...correct.map((c) => el('value', {}, escapeXml(c)))),
    mapping.length === 0
      ? ''
      : el(
          'mapping',
          { lowerBound: least, upperBound: most, defaultValue: others },
          ...mapping.map((m) => el('mapEntry', { mapKey: m.key, mappedValue: m.value })),
        ),
  );
}
