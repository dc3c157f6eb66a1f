import type {
  Answer,
  Area,
  Choice,
  ItemOf,
  NumberKey,
  Question,
  QuestionOf,
  QuestionType,
  RichText,
} from '../../model/index.ts';
import { partsOf, splitAtBlanks } from '../../model/index.ts';
import { escapeXml, xml } from '../../markup/index.ts';
import { material } from './material-xml.ts';
import { drawing, sectioned } from './write-sections.ts';
import { asType, withoutPartialCredit } from '../questions.ts';

/** What a dialect of QTI 1.2.1 can say. */
export interface Dialect {
  /** Types that it has; others become the type named, or stay away where it is `null`. */
  nearest: Partial<Record<QuestionType, QuestionType | null>>;
  /** Scores of the cartridge profile are per cent, and whole or nothing. */
  cartridge: boolean;
}

/** IMS Common Cartridge, QTI profile: six types. */
export const CARTRIDGE: Dialect = {
  cartridge: true,
  nearest: {
    cloze: 'essay',
    numeric: 'short answer',
    matching: 'essay',
    associate: 'essay',
    'gap match': 'essay',
    ordering: 'essay',
    hotspot: 'essay',
    upload: 'essay',
    'several parts': 'essay',
    foreign: null,
  },
};

/** The whole of QTI 1.2.1 that this writer uses. */
export const WIDE: Dialect = {
  cartridge: false,
  nearest: {
    associate: 'matching',
    'gap match': 'matching',
    upload: 'essay',
    'several parts': 'essay',
    foreign: null,
  },
};

/** Writes a quiz or a bank as QTI 1.2.1; the reverse of `read.ts`. */
export function writeQti(item: ItemOf<'quiz'> | ItemOf<'bank'>, dialect: Dialect = CARTRIDGE): string {
  const questions = item.questions.flatMap((q) => writeQuestion(q, dialect));
  const body =
    item.kind === 'quiz'
      ? xml(
          'assessment',
          { ident: dialect.cartridge ? `${item.id}_assessment` : item.id, title: item.title },
          quizMetadata(item, dialect),
          typeof item.settings.instructions === 'string'
            ? xml('rubric', {}, material({ format: 'html', text: item.settings.instructions }))
            : '',
          ...(dialect.cartridge
            ? [xml('section', { ident: 'root_section' }, ...questions)]
            : sectioned(item, (q) => writeQuestion(q, dialect))),
          ...(dialect.cartridge ? [] : drawing(item)),
        )
      : xml(
          'objectbank',
          { ident: dialect.cartridge ? `${item.id}_bank` : item.id },
          dialect.cartridge ? '' : xml('qtimetadata', {}, field('qmd_title', item.title)),
          ...questions,
        );
  return (
    '<?xml version="1.0" encoding="UTF-8"?>\n' +
    xml('questestinterop', { xmlns: 'http://www.imsglobal.org/xsd/ims_qtiasiv1p2' }, body)
  );
}

function field(label: string, entry: string | number): string {
  return xml('qtimetadatafield', {}, xml('fieldlabel', {}, label), xml('fieldentry', {}, escapeXml(String(entry))));
}

function quizMetadata(item: ItemOf<'quiz'>, dialect: Dialect): string {
  const { attempts, timeLimit } = item.settings;
  return xml(
    'qtimetadata',
    {},
    dialect.cartridge ? field('cc_profile', 'cc.exam.v0p1') : '',
    field('qmd_assessmenttype', 'Examination'),
    field('qmd_scoretype', 'Percentage'),
    typeof attempts === 'number' || typeof attempts === 'string' ? field('cc_maxattempts', attempts) : '',
    typeof timeLimit === 'number' ? field('qmd_timelimit', timeLimit) : '',
  );
}

const PROFILES: Partial<Record<QuestionType, string>> = {
  choice: 'cc.multiple_choice.v0p1',
  'multiple response': 'cc.multiple_response.v0p1',
  'true/false': 'cc.true_false.v0p1',
  'short answer': 'cc.fib.v0p1',
  pattern: 'cc.pattern_match.v0p1',
  essay: 'cc.essay.v0p1',
};

function writeQuestion(question: Question, dialect: Dialect): string[] {
  const type = dialect.nearest[question.type] === undefined ? question.type : dialect.nearest[question.type];
  if (type === null || type === undefined) return [];
  const typed = asType(question, type);
  const q = dialect.cartridge ? withoutPartialCredit(typed) : typed;
  const profile = PROFILES[q.type];
  const meta = [
    // The six types of the cartridge profile are named wherever scores are whole, since nothing else tells them apart.
    profile !== undefined && dialect.cartridge ? field('cc_profile', profile) : '',
    q.points === null ? '' : field('cc_weighting', q.points),
    q.category === undefined ? '' : field('cc_question_category', q.category),
    dialect.cartridge ? '' : field('qmd_itemtype', q.type),
    ...(q.type === 'essay' ? [field('qmd_scoringpermitted', 'Yes'), field('qmd_computerscored', 'No')] : []),
  ];
  return [
    xml(
      'item',
      { ident: q.id, title: q.title },
      xml('itemmetadata', {}, xml('qtimetadata', {}, ...meta)),
      xml('presentation', {}, ...presentation(q)),
      processing(q, dialect),
      ...feedbacks(q),
    ),
  ];
}

const label = (c: { id: string; text: RichText }) => xml('response_label', { ident: c.id }, material(c.text));

function lid(
  ident: string,
  cardinality: string,
  labels: readonly string[],
  { before = '', shuffled }: { before?: string; shuffled?: true | undefined } = {},
): string {
  const choices = xml('render_choice', { shuffle: shuffled ? 'Yes' : undefined }, ...labels);
  return xml('response_lid', { ident, rcardinality: cardinality }, before, choices);
}

const fib = (ident: string, more: Record<string, string> = {}) =>
  xml('response_str', { ident, rcardinality: 'Single' }, xml('render_fib', { fibtype: 'String', ...more }));

function presentation(q: Question): string[] {
  switch (q.type) {
    case 'choice':
    case 'true/false':
      return [material(q.prompt), lid('response', 'Single', q.choices.map(label), q)];
    case 'multiple response':
      return [material(q.prompt), lid('response', 'Multiple', q.choices.map(label), q)];
    case 'ordering':
      return [material(q.prompt), lid('response', 'Ordered', q.choices.map(label), q)];
    case 'matching':
      return [
        material(q.prompt),
        ...q.choices.map((c) =>
          lid(c.id, 'Single', q.targets.map(label), { before: material(c.text), shuffled: q.shuffled }),
        ),
      ];
    case 'cloze':
      return splitAtBlanks(q.prompt.text).map((part) => {
        if ('text' in part) return material({ ...q.prompt, text: part.text });
        const blank = q.blanks.find((b) => b.id === part.blank);
        if (!blank || blank.choices.length === 0) return fib(part.blank);
        return lid(part.blank, 'Single', blank.choices.map(label));
      });
    case 'numeric':
      return [
        material(q.prompt),
        xml('response_num', { ident: 'response', rcardinality: 'Single' }, xml('render_fib', { fibtype: 'Decimal' })),
      ];
    case 'hotspot':
      return [material(q.prompt), hotspot(q)];
    case 'essay':
      return [material(q.prompt), fib('response', { rows: '10', columns: '60' })];
    default:
      return [material(q.prompt), fib('response')];
  }
}

const RAREA: Record<Area['shape'], string> = {
  circle: 'Ellipse',
  ellipse: 'Ellipse',
  rect: 'Rectangle',
  poly: 'Bounded',
  default: 'Rectangle',
};

const isKey = (area: Area) => area.correct || area.score !== undefined;

function hotspot({ image, areas }: QuestionOf<'hotspot'>): string {
  return xml(
    'response_xy',
    { ident: 'response', rcardinality: areas.filter(isKey).length > 1 ? 'Multiple' : 'Single' },
    xml(
      'render_hotspot',
      {},
      image ? xml('material', {}, xml('matimage', { uri: image.file, width: image.width, height: image.height })) : '',
      ...areas.map((a) => xml('response_label', { ident: a.id, rarea: RAREA[a.shape] }, escapeXml(a.coords.join(',')))),
    ),
  );
}

interface Scoring {
  test: string;
  /** In points; `null` where it is all of the question's. */
  score: number | null;
}

function condition(test: string, scoring: string, shows: string | null, goOn: boolean): string {
  return xml(
    'respcondition',
    { continue: goOn ? 'Yes' : 'No' },
    xml('conditionvar', {}, test),
    scoring,
    shows === null ? '' : xml('displayfeedback', { feedbacktype: 'Response', linkrefid: shows }),
  );
}

function test(
  name: string,
  respident: string,
  text: string | number,
  more: Record<string, string | number | undefined> = {},
): string {
  return xml(name, { respident, ...more }, escapeXml(String(text)));
}

const equals = (id: string, respident = 'response') => test('varequal', respident, id);
const and = (...tests: string[]) => (tests.length === 1 ? (tests[0] ?? '') : xml('and', {}, ...tests));

/** What is right: one entry where the question is right as a whole, one a part where parts give points. */
function scorings(q: Question): Scoring[] {
  const one = (tests: readonly string[]): Scoring[] =>
    tests.length === 0 ? [] : [{ test: and(...tests), score: null }];
  const byPart = <T extends { score?: number | undefined }>(parts: readonly T[], toTest: (part: T) => string) =>
    parts.map((p): Scoring => ({ test: toTest(p), score: p.score ?? null }));
  const partial = (parts: readonly { score?: number | undefined }[]) => parts.some((p) => p.score !== undefined);
  switch (q.type) {
    case 'multiple response':
      if (partial(q.choices))
        return byPart(
          q.choices.filter((c) => c.score !== undefined),
          (c) => equals(c.id),
        );
      return one(q.choices.map((c) => (c.correct ? equals(c.id) : xml('not', {}, equals(c.id)))));
    case 'choice':
    case 'true/false':
      return byPart(
        q.choices.filter((c) => c.correct || c.score !== undefined),
        (c) => equals(c.id),
      );
    case 'ordering':
      return one(q.order.map((id, i) => test('varequal', 'response', id, { index: i + 1 })));
    case 'matching': {
      const { pairs } = q;
      return partial(pairs)
        ? byPart(pairs, (p) => equals(p.target, p.choice))
        : one([
            ...pairs.map((p) => equals(p.target, p.choice)),
            // What belongs to nothing is right when it is left alone.
            ...q.choices
              .filter((c) => !pairs.some((p) => p.choice === c.id))
              .map((c) => xml('unanswered', { respident: c.id })),
          ]);
    }
    case 'cloze': {
      const keys = q.blanks.map((blank) => [
        ...blank.answers.map((a) => ({ test: answerTest(a, blank.id), score: a.score })),
        ...blank.choices
          .filter((c: Choice) => c.correct || c.score !== undefined)
          .map((c: Choice) => ({ test: equals(c.id, blank.id), score: c.score })),
      ]);
      if (partial(keys.flat())) return byPart(keys.flat(), (k) => k.test);
      const each = keys
        .filter((k) => k.length > 0)
        .map((k) => (k.length === 1 ? (k[0]?.test ?? '') : xml('or', {}, ...k.map((x) => x.test))));
      return one(each);
    }
    case 'numeric':
      return byPart(q.numbers, numberTest);
    case 'hotspot':
      // Several that are right together, or any of those that give points.
      if (!partial(q.areas) && q.areas.filter((a) => a.correct).length > 1) {
        return one(q.areas.map((a) => (a.correct ? equals(a.id) : xml('not', {}, equals(a.id)))));
      }
      return byPart(q.areas.filter(isKey), (a) => equals(a.id));
    case 'short answer':
    case 'pattern':
      return byPart(q.answers, (a) => answerTest(a));
    default:
      return [];
  }
}

function answerTest(a: Answer, respident = 'response'): string {
  return test(a.match === 'equal' ? 'varequal' : 'varsubstring', respident, a.text, {
    case: a.caseSensitive ? 'Yes' : 'No',
  });
}

function takesAway(q: Question): boolean {
  const { choices } = partsOf(q);
  return choices.some((c) => (c.score ?? 0) < 0);
}

function numberTest({ value, low, high, open }: NumberKey): string {
  const exact = test('varequal', 'response', value);
  if (low === high) return exact;
  const within = and(
    test(open === 'low' || open === 'both' ? 'vargt' : 'vargte', 'response', low),
    test(open === 'high' || open === 'both' ? 'varlt' : 'varlte', 'response', high),
  );
  return xml('or', {}, exact, within);
}

/** What is said to single answers, choices aside. */
function replies(q: Question): { test: string; text: RichText }[] {
  const { answers, numbers } = partsOf(q);
  return [
    ...answers.flatMap((a) => (a.feedback ? [{ test: answerTest(a), text: a.feedback }] : [])),
    ...numbers.flatMap((n) => (n.feedback ? [{ test: numberTest(n), text: n.feedback }] : [])),
  ];
}

function processing(q: Question, { cartridge }: Dialect): string {
  const top = cartridge ? 100 : (q.points ?? 100);
  const all = scorings(q);
  const adds = all.some((s) => s.score !== null) && q.type !== 'choice' && q.type !== 'true/false';
  const other = xml('other', {});
  const conditions: string[] = [];
  if (q.feedback.general) conditions.push(condition(other, '', 'general_fb', true));
  replies(q).forEach((reply, i) => conditions.push(condition(reply.test, '', `answer_${i + 1}_fb`, true)));
  for (const c of partsOf(q).choices) if (c.feedback) conditions.push(condition(equals(c.id), '', `${c.id}_fb`, true));
  const correct = q.feedback.correct ? 'correct_fb' : null;
  for (const s of all) {
    const action = adds ? 'Add' : 'Set';
    const setvar = xml('setvar', { action, varname: 'SCORE' }, String(s.score ?? top));
    conditions.push(condition(s.test, setvar, (s.score ?? top) > 0 ? correct : null, adds));
  }
  if (q.feedback.incorrect) conditions.push(condition(other, '', 'general_incorrect_fb', true));
  const outcomes = xml(
    'outcomes',
    {},
    xml('decvar', {
      // Per cent that stand for no points are not declared, so that nobody takes them for any.
      maxvalue: cartridge || q.points !== null ? top : undefined,
      // Where parts take points away, their sum ends where the question says, or nowhere.
      minvalue: adds || takesAway(q) ? q.scoring?.least : 0,
      varname: 'SCORE',
      vartype: 'Decimal',
    }),
  );
  return xml('resprocessing', {}, outcomes, ...(conditions.length > 0 ? conditions : [ANYTHING]));
}

/** Judging names at least one condition: where a person judges, whatever was answered changes nothing. */
const ANYTHING = xml('respcondition', {}, xml('conditionvar', {}, xml('other', {})));

function feedbacks(q: Question): string[] {
  const plain = (ident: string, text: RichText | undefined) =>
    text ? [xml('itemfeedback', { ident }, xml('flow_mat', {}, material(text)))] : [];
  const held = (ident: 'hint' | 'solution', text: RichText | undefined) =>
    text ? [xml('itemfeedback', { ident }, xml(ident, {}, xml(`${ident}material`, {}, material(text))))] : [];
  return [
    ...plain('general_fb', q.feedback.general),
    ...plain('correct_fb', q.feedback.correct),
    ...plain('general_incorrect_fb', q.feedback.incorrect),
    ...replies(q).flatMap((reply, i) => plain(`answer_${i + 1}_fb`, reply.text)),
    ...partsOf(q).choices.flatMap((c) => plain(`${c.id}_fb`, c.feedback)),
    ...held('hint', q.feedback.hint),
    ...held('solution', q.feedback.solution),
  ];
}
