import {
  child,
  descendants,
  is,
  named,
  plainText,
  takenAs,
  textOf,
  vocabularyOf,
  type XmlElement,
} from '../../markup/index.ts';
import {
  openEnds,
  type Answer,
  type Area,
  type Blank,
  type Choice,
  type MatchPair,
  type NumberKey,
  type QuestionParts,
  type QuestionType,
  type RichText,
} from '../../model/index.ts';
import { replyTo, type Condition, type Feedback, type Test } from './conditions.ts';
import { identOf, materialOf, type Resolve } from './material.ts';

/* The parts of a question of QTI 1.2.1, type by type. */

/** What a question is made of beside its prompt, title, points and feedback, as far as its type has it. */
type Parts = Partial<QuestionParts>;

/** The presentation and processing of one item, as the parts are made from it. */
export interface Source {
  presentation: XmlElement | undefined;
  responses: XmlElement[];
  conditions: Condition[];
  /** Highest score that can be reached, in the item's own scale, and in points. */
  top: number;
  points: number | null;
  perChoice: ReadonlyMap<string, RichText>;
  feedbacks: ReadonlyMap<string, Feedback>;
  resolve: Resolve;
}

export const NOTHING: RichText = { format: 'html', text: '' };

export function labelsOf(response: XmlElement): XmlElement[] {
  return named(response, 'response_label');
}

const LABELS = vocabularyOf('response_label material mattext flow_mat flow_label', 'ident texttype');

/** Whether several responses name the same words. */
export function sameLabels(responses: readonly XmlElement[]): boolean {
  const texts = responses.map((r) =>
    labelsOf(r)
      .map((l) => plainText(materialOf(l)?.text ?? ''))
      .join('\n'),
  );
  return texts.every((t) => t === texts[0]);
}

/** A share of the highest score in points, or nothing where the part gives all of it. */
function share(source: Source, value: number): { score?: number } {
  if (value === source.top && source.top > 0) return {};
  const { points, top } = source;
  return { score: points === null || top === 0 ? value : (value * points) / top };
}

function scored(source: Source): Condition[] {
  return source.conditions.filter((c) => c.score !== 0);
}

function choicesFrom(source: Source, labels: readonly XmlElement[]): Choice[] {
  const good = scored(source);
  const partial = good.some((c) => c.adds) || new Set(good.map((c) => c.score)).size > 1;
  const scoreOf = (id: string) =>
    good.find((c) => c.tests.some((t) => t.text === id) && (c.tests.length === 1 || !partial))?.score ?? 0;
  return labels.map((label): Choice => {
    const id = identOf(label);
    const value = scoreOf(id);
    const feedback = source.perChoice.get(id);
    return {
      id,
      text: materialOf(label) ?? { format: 'plain', text: '' },
      correct: partial ? value > 0 && (good.some((c) => c.adds) || value === source.top) : value > 0,
      ...(partial && value !== 0 ? scoreIn(source, value) : {}),
      ...(feedback ? { feedback } : {}),
    };
  });
}

function scoreIn({ points, top }: Source, value: number): { score: number } {
  return { score: points === null || top === 0 ? value : (value * points) / top };
}

function readChoices(source: Source): Parts {
  return { choices: choicesFrom(source, source.responses.flatMap(labelsOf)) };
}

function answersFor(source: Source, respident?: string): Answer[] {
  return scored(source).flatMap((condition) =>
    condition.tests
      .filter((t) => respident === undefined || t.respident === respident)
      .filter((t) => t.op === 'varequal' || t.op === 'varsubstring')
      .map((t): Answer => ({
        text: t.text,
        caseSensitive: t.caseSensitive,
        match: t.op === 'varequal' ? 'equal' : 'substring',
        ...(condition.tests.length === 1 || !condition.all ? share(source, condition.score) : {}),
        ...(respident === undefined ? replyTo([t], source.conditions, source.feedbacks) : {}),
      })),
  );
}

function readAnswers(source: Source): Parts {
  return { answers: answersFor(source) };
}

function readBlanks(source: Source): Parts {
  const blanks = source.responses.map((response): Blank => {
    const id = identOf(response);
    const labels = labelsOf(response).filter(() => response.name === 'response_lid');
    if (labels.length === 0) return { id, answers: answersFor(source, id), choices: [] };
    const keys = answersFor(source, id);
    const choices = labels.map((label): Choice => {
      const key = keys.find((k) => k.text === identOf(label));
      return {
        id: identOf(label),
        text: materialOf(label) ?? NOTHING,
        correct: key !== undefined,
        ...(key?.score === undefined ? {} : { score: key.score }),
      };
    });
    return { id, answers: [], choices };
  });
  return { blanks };
}

function readNumbers(source: Source): Parts {
  const numbers = scored(source).flatMap((condition): NumberKey[] => {
    let low = -Infinity;
    let high = Infinity;
    const open = { low: false, high: false };
    let value: number | null = null;
    for (const test of condition.tests) {
      const n = Number(test.text.replace(',', '.'));
      if (!Number.isFinite(n)) continue;
      if (test.op === 'varequal') value = n;
      else if (test.op.startsWith('vargt') && n > low) {
        low = n;
        open.low = test.op === 'vargt';
      } else if (test.op.startsWith('varlt') && n < high) {
        high = n;
        open.high = test.op === 'varlt';
      }
    }
    if (value === null && (low === -Infinity || high === Infinity)) return [];
    const middle = value ?? (low + high) / 2;
    return [
      {
        value: middle,
        low: low === -Infinity ? middle : low,
        high: high === Infinity ? middle : high,
        ...openEnds(open),
        ...share(source, condition.score),
        ...replyTo(condition.tests, source.conditions, source.feedbacks),
      },
    ];
  });
  return { numbers };
}

function readMatching(source: Source): Parts {
  const pairs = scored(source).flatMap((condition) =>
    condition.tests.map((test): MatchPair => {
      const [first, second] = test.text.split(',').map((part) => part.trim());
      const [choice, target] = second === undefined ? [test.respident, test.text] : [first ?? '', second];
      return { choice, target, ...(condition.tests.length === 1 ? share(source, condition.score) : {}) };
    }),
  );
  const [first] = source.responses;
  // Each response names all that it may be matched with.
  if (sameLabels(source.responses)) {
    for (const label of source.responses.flatMap(labelsOf)) takenAs(LABELS, label);
  }
  if (first?.name === 'response_grp') {
    const labels = labelsOf(first);
    const isSource = (label: XmlElement) => label.attrs['match_group'] !== undefined;
    return {
      choices: labels.filter(isSource).map(plainChoice),
      targets: labels.filter((l) => !isSource(l)).map((l) => ({ id: identOf(l), text: materialOf(l) ?? NOTHING })),
      pairs,
    };
  }
  return {
    choices: source.responses.map((response) => ({
      id: identOf(response),
      text: materialOf(response, { stopAt: ['render_choice', 'render_extension'] }) ?? NOTHING,
      correct: false,
    })),
    targets: labelsOf(first ?? EMPTY).map((l) => ({ id: identOf(l), text: materialOf(l) ?? NOTHING })),
    pairs,
  };
}

const EMPTY: XmlElement = {
  name: '',
  ns: '',
  attrs: {},
  children: [],
  line: 0,
  start: 0,
  openEnd: 0,
  closeStart: 0,
  end: 0,
};

function plainChoice(label: XmlElement): Choice {
  return { id: identOf(label), text: materialOf(label) ?? NOTHING, correct: false };
}

function readOrdering(source: Source): Parts {
  const labels = source.responses.flatMap(labelsOf);
  const [condition] = scored(source);
  const tests = (condition?.tests ?? []).filter((t) => t.op === 'varequal');
  const order = tests.every((t) => t.index !== null)
    ? [...tests].sort((a, b) => (a.index ?? 0) - (b.index ?? 0)).map((t) => t.text)
    : tests.map((t) => t.text);
  return { choices: labels.map(plainChoice), order };
}

const SHAPES: Record<string, Area['shape']> = {
  ellipse: 'ellipse',
  rectangle: 'rect',
  bounded: 'poly',
  circle: 'circle',
  rect: 'rect',
  poly: 'poly',
};

function readHotspot(source: Source): Parts {
  const inside = source.presentation ? descendants(source.presentation) : [];
  const image = inside.find((e) => is(e, 'matimage'));
  for (const render of inside.filter((e) => is(e, 'render_hotspot'))) child(render, 'material');
  const uri = image?.attrs['uri'] ?? '';
  const good = scored(source);
  const areas = inside
    .filter((e) => is(e, 'response_label'))
    .map((label): Area => {
      const id = identOf(label);
      const area = areaOf(label.attrs['rarea'], textOf(label));
      // It is asked for by its name, or by the place that it is.
      const isThere = ({ op, text }: Test) =>
        text === id || (op === 'varinside' && numbersIn(text).join() === area.coords.join());
      const hit = good.find((c) => c.tests.some(isThere));
      return {
        id,
        ...area,
        correct: hit !== undefined,
        ...(hit && hit.tests.length === 1 ? share(source, hit.score) : {}),
      };
    });
  const inAreas = good.flatMap((c) =>
    c.tests
      .filter((t) => t.op === 'varinside')
      .map((t, i): Area => ({
        id: `area-${i + 1}`,
        shape: SHAPES[t.area ?? ''] ?? 'rect',
        coords: numbersIn(t.text),
        correct: true,
        ...share(source, c.score),
      })),
  );
  const size = { width: Number(image?.attrs['width']), height: Number(image?.attrs['height']) };
  return {
    ...(uri === ''
      ? {}
      : {
          image: {
            file: source.resolve(uri) ?? uri,
            ...(size.width > 0 ? { width: size.width } : {}),
            ...(size.height > 0 ? { height: size.height } : {}),
          },
        }),
    areas: areas.length > 0 ? areas : inAreas,
  };
}

/** An ellipse of one radius is a circle. */
function areaOf(kind: string | undefined, text: string): Pick<Area, 'shape' | 'coords'> {
  const coords = numbersIn(text);
  const shape = SHAPES[kind?.toLowerCase() ?? ''] ?? 'rect';
  return { shape: shape === 'ellipse' && coords.length === 3 ? 'circle' : shape, coords };
}

function numbersIn(text: string): number[] {
  return (text.match(/-?\d+(\.\d+)?/g) ?? []).map(Number);
}

export const READERS: Record<QuestionType, (source: Source) => Parts> = {
  choice: readChoices,
  'multiple response': readChoices,
  'true/false': readChoices,
  'short answer': readAnswers,
  pattern: readAnswers,
  cloze: readBlanks,
  numeric: readNumbers,
  essay: () => ({}),
  matching: readMatching,
  associate: readMatching,
  'gap match': readBlanks,
  ordering: readOrdering,
  hotspot: readHotspot,
  upload: () => ({}),
  'several parts': () => ({}),
  foreign: () => ({}),
};
