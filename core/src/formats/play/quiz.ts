import { asHtml, escapeXml } from '../../markup/index.ts';
import {
  asksForOnePoint,
  isPointing,
  partsOf,
  splitAtBlanks,
  withGaps,
  valueOfPlace,
  type Answer,
  type Area,
  type Asked,
  type Choice,
  type ItemOf,
  type Question,
  type QuestionOf,
  type QuestionType,
  type RichText,
} from '../../model/index.ts';

/** Quizzes as forms that can be answered. The page bears the key; `runtime.ts` judges by it. */

/** How one control is judged: what a person enters there, and what that gives. */
export interface Part {
  /** Name of the control or group. */
  name: string;
  rule: 'values' | 'words' | 'number' | 'point' | 'none';
  /** Accepted values with what each gives, in points; with `all`, they have to be exactly those chosen. */
  accept: {
    value: string;
    score: number;
    caseSensitive?: boolean;
    within?: boolean;
    low?: number;
    high?: number;
    open?: 'low' | 'high' | 'both';
    /** Of a place that a point lies in. */
    shape?: Area['shape'];
    coords?: number[];
  }[];
  all: boolean;
}

export interface Judged {
  /** Of the question. */
  id: string;
  points: number;
  /** What the points of parts come to. */
  others: number;
  least: number | null;
  most: number | null;
  /** Right as a whole or not at all: every part has to be right. */
  whole: boolean;
  parts: Part[];
  feedback: { general?: string; correct?: string; incorrect?: string };
  /** Shown when its value is chosen. */
  replies: Record<string, string>;
}

const inline = (text: RichText) => asHtml(text).replace(/^<p>([\s\S]*)<\/p>$/, '$1');
const plain = (text: RichText) =>
  (text.format === 'html' ? text.text.replace(/<[^>]+>/g, ' ') : escapeXml(text.text)).trim();

interface Rendered {
  html: string;
  judged: Judged;
}

export function renderQuiz(item: ItemOf<'quiz'>): { html: string; key: Judged[] } {
  const { instructions } = item.settings;
  const all: Rendered[] = [];
  const shown = item.questions.map((q, i) => {
    if (q.type !== 'several parts') return fieldset(q, String(i + 1), all);
    const { subquestions, points } = q;
    // Where points are given for all of them together, each has its share.
    const share = (points ?? subquestions.length) / subquestions.length;
    const parts = subquestions.map((part, n) =>
      fieldset({ ...part, points: part.points ?? share }, `${i + 1}.${n + 1}`, all),
    );
    return `${asHtml({ ...q.prompt, text: withGaps(q.prompt.text) })}${parts.join('')}`;
  });
  const html = `${typeof instructions === 'string' ? instructions : ''}<form class="quiz" novalidate>${shown.join('')}<p><button type="submit">Hand in the answers</button> <output class="score"></output></p></form>`;
  return { html, key: all.map((q) => q.judged) };
}

/** A question with its place among those that are judged, which it is added to. */
function fieldset(q: Question, legend: string, all: Rendered[]): string {
  const rendered = renderQuestion(q, all.length);
  all.push(rendered);
  return `<fieldset data-question="${all.length - 1}"><legend>${legend}</legend>${rendered.html}<div class="reply" role="status"></div></fieldset>`;
}

function renderQuestion(q: Question, index: number): Rendered {
  const name = `q${index}`;
  const points = q.points ?? 1;
  const feedback = {
    ...(q.feedback.general ? { general: asHtml(q.feedback.general) } : {}),
    ...(q.feedback.correct ? { correct: asHtml(q.feedback.correct) } : {}),
    ...(q.feedback.incorrect ? { incorrect: asHtml(q.feedback.incorrect) } : {}),
  };
  const replies = Object.fromEntries(
    partsOf(q).choices.flatMap((c) => (c.feedback ? [[c.id, asHtml(c.feedback)]] : [])),
  );
  // Each type is rendered by what takes its type.
  const render = CONTROLS[q.type] as Render<Question>;
  const { others = 0, least = null, most = null } = q.scoring ?? {};
  const { html, parts, whole = true } = render(q, name, points);
  return { html, judged: { id: q.id, points, others, least, most, whole, parts, feedback, replies } };
}

interface Controls {
  html: string;
  parts: Part[];
  whole?: boolean;
}

type Render<Q extends Question> = (q: Q, name: string, points: number) => Controls;
type Choosing = QuestionOf<'choice' | 'multiple response' | 'true/false'>;

const scored = (list: readonly { score?: number | undefined }[]) => list.some((x) => x.score !== undefined);

function picks(q: Choosing, name: string, type: 'radio' | 'checkbox'): string {
  return `${asHtml(q.prompt)}<ul class="choices">${q.choices
    .map(
      (c) =>
        `<li><label><input type="${type}" name="${name}" value="${escapeXml(c.id)}"> <span>${inline(c.text)}</span></label></li>`,
    )
    .join('')}</ul>`;
}

function choicePart(name: string, choices: readonly Choice[], points: number, all: boolean): Part {
  const partial = scored(choices);
  const accept = choices
    .filter((c) => c.correct || c.score !== undefined)
    .map((c) => ({ value: c.id, score: c.score ?? points }));
  return { name, rule: 'values', accept, all: all && !partial };
}

function select(name: string, label: string, options: readonly { id: string; text: RichText }[]): string {
  return `<select name="${name}" aria-label="${escapeXml(label)}"><option value="">choose…</option>${options
    .map((o) => `<option value="${escapeXml(o.id)}">${escapeXml(plain(o.text))}</option>`)
    .join('')}</select>`;
}

function wordsPart(name: string, answers: readonly Answer[], points: number): Part {
  return {
    name,
    rule: 'words',
    accept: answers.map((a) => ({
      value: a.text,
      score: a.score ?? points,
      caseSensitive: a.caseSensitive,
      within: a.match === 'substring',
    })),
    all: false,
  };
}

const field = (name: string, label: string) =>
  `<input name="${name}" aria-label="${escapeXml(label)}" autocomplete="off">`;

/** A prompt with a control in place of each gap. */
function withControls(q: Question, put: (blank: string) => string): string {
  return splitAtBlanks(q.prompt.text)
    .map((part) => ('blank' in part ? put(part.blank) : q.prompt.format === 'html' ? part.text : escapeXml(part.text)))
    .join('');
}

const single: Render<Choosing> = (q, name, points) => ({
  html: picks(q, name, 'radio'),
  parts: [choicePart(name, q.choices, points, false)],
  whole: false,
});

const words: Render<QuestionOf<'short answer' | 'pattern'>> = (q, name, points) => ({
  html: `${asHtml(q.prompt)}<p>${field(name, 'Answer')}</p>`,
  parts: [wordsPart(name, q.answers, points)],
  whole: false,
});

/** Each source has a list of the targets. */
const matching: Render<QuestionOf<'matching' | 'associate'>> = (q, name, points) => {
  const { pairs } = q;
  const targets = q.type === 'matching' ? q.targets : q.choices;
  const partial = scored(pairs);
  const rows = q.choices.map(
    (c, i) => `<li><span>${inline(c.text)}</span> ${select(`${name}-${i}`, plain(c.text), targets)}</li>`,
  );
  return {
    html: `${asHtml(q.prompt)}<ul class="pairs">${rows.join('')}</ul>`,
    parts: q.choices.map((c, i): Part => {
      const own = pairs.filter((p) => p.choice === c.id);
      return {
        name: `${name}-${i}`,
        rule: 'values',
        accept: own.map((p) => ({ value: p.target, score: p.score ?? points })),
        // What belongs to nothing is right when it is left alone.
        all: !partial && own.length === 0,
      };
    }),
    whole: !partial,
  };
};

const none: Render<Question> = (q, name) => ({
  html: `${asHtml(q.prompt)}<p><textarea name="${name}" rows="8" aria-label="Answer"></textarea></p>`,
  parts: [{ name, rule: 'none', accept: [], all: false }],
});

/** What is to be put in order, with its place among the choices; where they stand in it already, by their words. */
function asShown({ choices, order }: QuestionOf<'ordering'>): [Choice, number][] {
  const all = choices.map((c, i): [Choice, number] => [c, i]);
  const isKey = order.every((id, i) => choices[i]?.id === id);
  return isKey ? all.sort(([a], [b]) => plain(a.text).localeCompare(plain(b.text), 'en')) : all;
}

/** What was set on a slider is a number between its ends; not yet touched, it is none. */
function numberField(range: Asked['range']): string {
  if (!range) return 'inputmode="decimal"';
  const { low, high, step } = range;
  return `type="number" min="${low}" max="${high}" step="${step ?? 'any'}" placeholder="${low} … ${high}"`;
}

/** A point is set on the picture, or written as its two distances, which is how a keyboard says it. */
function pointing(q: QuestionOf<'hotspot'>, name: string): Controls {
  const { image, areas } = q;
  const picture = image
    ? `<p class="picture"><img src="${escapeXml(image.file)}" alt="" class="spots" data-point="${name}"></p>`
    : '';
  const many = asksForOnePoint(q) ? 1 : areas.filter((area) => valueOfPlace(q, area) > 0).length;
  const fields = Array.from({ length: many }, (_, i) => {
    const label = `Point${many === 1 ? '' : ` ${i + 1}`} on the picture: pixels from the left, from the top`;
    return `<label>${label} <input name="${name}" inputmode="numeric" autocomplete="off" placeholder="0, 0" size="9"></label>`;
  });
  const accept = areas.map((area) => {
    const { id, shape, coords } = area;
    return { value: id, score: valueOfPlace(q, area), shape, coords };
  });
  return {
    html: `${asHtml(q.prompt)}${picture}<p class="points">${fields.join('<br>')}</p>`,
    parts: [{ name, rule: 'point', accept, all: false }],
    whole: false,
  };
}

const CONTROLS: { readonly [T in QuestionType]: Render<QuestionOf<T>> } = {
  choice: single,
  'true/false': single,
  'multiple response': (q, name, points) => ({
    html: picks(q, name, 'checkbox'),
    parts: [choicePart(name, q.choices, points, true)],
    whole: !scored(q.choices),
  }),
  'short answer': words,
  pattern: words,
  cloze: (q, name, points) => {
    const { blanks } = q;
    const at = (id: string) => `${name}-${blanks.findIndex((b) => b.id === id)}`;
    return {
      html: withControls(q, (id) => {
        const blank = blanks.find((b) => b.id === id);
        const label = `Gap ${blanks.findIndex((b) => b.id === id) + 1}`;
        return blank && blank.choices.length > 0 ? select(at(id), label, blank.choices) : field(at(id), label);
      }),
      parts: blanks.map((b) =>
        b.choices.length > 0 ? choicePart(at(b.id), b.choices, points, false) : wordsPart(at(b.id), b.answers, points),
      ),
      whole: !scored(blanks.flatMap((b) => [...b.answers, ...b.choices])),
    };
  },
  numeric: (q, name, points) => ({
    html: `${asHtml(q.prompt)}<p><input name="${name}" ${numberField(q.asked?.range)} aria-label="Number" autocomplete="off"></p>`,
    parts: [
      {
        name,
        rule: 'number',
        accept: q.numbers.map((n) => ({
          value: String(n.value),
          score: n.score ?? points,
          low: n.low,
          high: n.high,
          ...(n.open ? { open: n.open } : {}),
        })),
        all: false,
      },
    ],
    whole: false,
  }),
  essay: none,
  upload: (q, name) => ({
    html: `${asHtml(q.prompt)}<p><em>A file is handed in elsewhere.</em></p>`,
    parts: [{ name, rule: 'none', accept: [], all: false }],
  }),
  foreign: none,
  // Its parts are rendered each by itself.
  'several parts': none,
  matching,
  associate: matching,
  'gap match': (q, name, points) => {
    const { blanks, pairs } = q;
    return {
      html: withControls(q, (id) => {
        const n = blanks.findIndex((b) => b.id === id);
        return select(`${name}-${n}`, `Gap ${n + 1}`, q.choices);
      }),
      parts: blanks.map((b, n): Part => {
        const own = pairs.filter((p) => p.target === b.id);
        return {
          name: `${name}-${n}`,
          rule: 'values',
          accept: own.map((p) => ({ value: p.choice, score: p.score ?? points })),
          all: !scored(pairs) && own.length === 0,
        };
      }),
      whole: !scored(pairs),
    };
  },
  ordering: (q, name, points) => {
    const { order } = q;
    const places = order.map((_id, i) => ({
      id: String(i + 1),
      text: { format: 'plain' as const, text: String(i + 1) },
    }));
    return {
      html: `${asHtml(q.prompt)}<ul class="pairs">${asShown(q)
        .map(
          ([c, i]) =>
            `<li>${select(`${name}-${i}`, `Place of ${plain(c.text)}`, places)} <span>${inline(c.text)}</span></li>`,
        )
        .join('')}</ul>`,
      parts: q.choices.map((c, i): Part => ({
        name: `${name}-${i}`,
        rule: 'values',
        accept: [{ value: String(order.indexOf(c.id) + 1), score: points }],
        all: false,
      })),
    };
  },
  hotspot: (q, name, points) => {
    if (isPointing(q)) return pointing(q, name);
    const { areas } = q;
    const image = q.image
      ? `<p><img src="${escapeXml(q.image.file)}" alt="" class="spots" data-spots="${name}"></p>`
      : '';
    return {
      html: `${asHtml(q.prompt)}${image}<ul class="choices">${areas
        .map(
          (a, i) =>
            `<li><label><input type="checkbox" name="${name}" value="${escapeXml(a.id)}" data-shape="${a.shape}" data-coords="${a.coords.join(',')}"> <span>Place ${i + 1}</span></label></li>`,
        )
        .join('')}</ul>`,
      parts: [
        {
          name,
          rule: 'values',
          accept: areas
            .filter((a) => a.correct || a.score !== undefined)
            .map((a) => ({ value: a.id, score: a.score ?? points })),
          all: !scored(areas),
        },
      ],
      whole: !scored(areas),
    };
  },
};
