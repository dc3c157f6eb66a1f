import * as z from 'zod';
import { Line, Totals, totalsOf, type Forecast, type Outcome, type PartLine, type SettingLine } from '../fit/index.ts';
import { readable } from '../inspect/index.ts';
import { emphasized } from '../markup/index.ts';
import {
  holdsQuestions,
  definitionOf,
  sameSetting,
  saysNothing,
  KIND_LABELS,
  SETTINGS,
  settingOf,
  baseName,
  listIn,
  partsOf,
  type Answer,
  type Area,
  type Choice,
  type Course,
  type Item,
  type OutlineNode,
  type Question,
  type QuestionParts,
  type Subject,
} from '../model/index.ts';
import { align, type Pair } from './align.ts';

const Checked = Line.extend({
  /** What the forecast said, `null` for extras and where there was no forecast. */
  predicted: Line.shape.outcome.nullable(),
});
export type CheckedLine = z.infer<typeof Checked>;

/** Comparisons that were kept before call the forecast otherwise. */
export const CheckedLine: z.ZodType<CheckedLine, unknown> = z.preprocess(
  (given) =>
    typeof given === 'object' && given !== null && 'foretold' in given
      ? { predicted: given.foretold, ...given }
      : given,
  Checked,
);

export const Comparison = z.object({
  lines: z.array(CheckedLine),
  totals: Totals,
  /** Lines whose outcome is not the one that was forecast. */
  otherwise: z.number().int(),
});
export type Comparison = z.infer<typeof Comparison>;

/**
 * Compares what was sent with what was read back, item by item and setting by setting. Every subject of both sides is
 * named exactly once.
 */
export function compare(source: Course, arrived: Course, predicted?: Forecast): Comparison {
  const predictions = new Map(predicted?.lines.map((line) => [line.source, line.outcome]));
  const hashes = { source: hashesOf(source), arrived: hashesOf(arrived) };
  const pairs = align(source, arrived);
  const places = new Places(pairs);
  const lines = pairs.map((pair): CheckedLine => {
    const line = compareSubjects(pair, hashes, places);
    return { ...line, predicted: predictions.get(line.source) ?? null };
  });
  return {
    lines,
    totals: totalsOf(lines),
    otherwise: lines.filter(differsFromForecast).length,
  };
}

/** Whether an outcome is not the one foretold. Where nothing was foretold, only what nobody sent is a surprise. */
export function differsFromForecast({ predicted, outcome }: Pick<CheckedLine, 'predicted' | 'outcome'>): boolean {
  return predicted === null ? outcome === 'extra' : predicted !== outcome;
}

interface Hashes {
  source: ReadonlyMap<string, string>;
  arrived: ReadonlyMap<string, string>;
}

/** What stands for a file when paths have changed: its hash, or its name where it has none. */
function hashesOf(course: Course): Map<string, string> {
  return new Map(course.files.map((f) => [f.path, f.sha256 ?? baseName(f.path)]));
}

/** What shows what and hangs where, on both sides. */
class Places {
  /** Of each item of the source, the item that it is at the other side. */
  private readonly items = new Map<string, string>();
  /** Of each place of the source, the place that it is at the other side. */
  private readonly nodes = new Map<OutlineNode, Subject>();

  constructor(pairs: readonly Pair[]) {
    for (const { source, arrived } of pairs) {
      if (source?.item && arrived?.item) this.items.set(source.item.id, arrived.item.id);
      if (source?.placed && arrived) this.nodes.set(source.placed.node, arrived);
    }
  }

  /** Differences in place; folders that became headings, or are gone, are told of themselves. */
  differences(source: Subject, arrived: Subject): string[] {
    const [was, is] = [source.placed?.node, arrived.placed?.node];
    if (!was) return [];
    const reasons: string[] = [];
    if (source.kind === 'occurrence' && arrived.kind === 'occurrence') {
      if (this.items.get(was.item ?? '') !== is?.item) reasons.push('it leads to something else');
    }
    if (source.item && was.children.some((below) => this.leaves(below, is))) {
      reasons.push('what hung below it does so no more');
    }
    return reasons;
  }

  private leaves(below: OutlineNode, parent: OutlineNode | undefined): boolean {
    const there = this.nodes.get(below);
    return there !== undefined && there.placed?.parent !== parent;
  }
}

function compareSubjects(pair: Pair, hashes: Hashes, places: Places): Line {
  const { source, arrived } = pair;
  if (!source) {
    if (!arrived) throw new RangeError('a pair with two empty sides');
    return {
      ...head(arrived),
      source: null,
      arrived: arrived.key,
      as: arrived.kind,
      outcome: 'extra',
      reasons: ['nobody sent it'],
    };
  }
  if (!arrived) {
    const settings = SETTINGS.flatMap((name): SettingLine[] => {
      const was = settingOf(source, name);
      return was === null
        ? []
        : [
            {
              name,
              was,
              is: null,
              outcome: 'left behind',
              reason: `the ${source.item ? 'item' : 'place'} is not there`,
            },
          ];
    });
    return {
      ...head(source),
      source: source.key,
      arrived: null,
      as: null,
      outcome: 'left behind',
      reasons: ['it is not there'],
      settings,
    };
  }
  const reasons: string[] = [];
  if (source.kind !== arrived.kind) reasons.push(`arrived as ${KIND_LABELS[arrived.kind]}`);
  if (source.title !== arrived.title) reasons.push(`its title is now “${arrived.title}”`);
  reasons.push(...places.differences(source, arrived));
  const settings = compareSettings(source, arrived, hashes);
  const parts =
    questionsOf(source) && questionsOf(arrived)
      ? compareQuestions(questionsOf(source) ?? [], questionsOf(arrived) ?? [], hashes)
      : [];
  const text = source.item && arrived.item ? compareText(source.item, arrived.item) : null;
  if (text) reasons.push(text.reason);
  const lossy = reasons.some((r) => r !== text?.reason) || text?.outcome === 'reworked' || parts.length > 0;
  const outcome: Outcome =
    lossy || settings.some((s) => s.outcome !== 'whole' && s.outcome !== 'unsure')
      ? 'reworked'
      : text?.outcome === 'unsure' || settings.some((s) => s.outcome === 'unsure')
        ? 'unsure'
        : 'whole';
  return {
    ...head(source),
    source: source.key,
    arrived: arrived.key,
    as: arrived.kind,
    outcome,
    reasons,
    settings,
    parts,
  };
}

function head(subject: Subject): Pick<Line, 'title' | 'kind' | 'trail' | 'settings' | 'parts'> {
  return {
    title: subject.title,
    kind: subject.kind,
    trail: [...(subject.placed?.trail ?? [])],
    settings: [],
    parts: [],
  };
}

function questionsOf({ item }: Subject): Question[] | null {
  return item && holdsQuestions(item) ? item.questions : null;
}

/** Quizzes and banks are compared question by question; everything else by its fingerprint. */
function compareText(a: Item, b: Item): { outcome: 'reworked' | 'unsure'; reason: string } | null {
  if (a.kind !== b.kind) return null;
  if (holdsQuestions(a)) return null;
  if (a.kind === 'link' && b.kind === 'link')
    return a.url === b.url ? null : { outcome: 'reworked', reason: `leads to ${b.url || 'nowhere'} now` };
  if (a.fingerprint === undefined || b.fingerprint === undefined) {
    return a.fingerprint === b.fingerprint
      ? null
      : { outcome: 'unsure', reason: 'its content could not be read on both sides' };
  }
  if (a.fingerprint === b.fingerprint) return null;
  return { outcome: 'reworked', reason: a.kind === 'file' ? 'its bytes are not the same' : 'its text is not the same' };
}

function compareSettings(a: Subject, b: Subject, hashes: Hashes): SettingLine[] {
  return SETTINGS.flatMap((name): SettingLine[] => {
    const was = settingOf(a, name);
    const is = settingOf(b, name);
    if (was === null && is === null) return [];
    if (name === 'attachments' || name === 'instructorAttachments' || name === 'embeds') {
      const judged = judgeFiles(name, a, b, hashes);
      return judged ? [{ name, was, is, ...judged }] : [];
    }
    if (was === null && definitionOf(name).mayAppear) return [];
    const only = was === null ? is : is === null ? was : null;
    if (only !== null && saysNothing(name, only, emphasized)) return [{ name, was, is, outcome: 'whole', reason: '' }];
    if (was === null) return [{ name, was, is, outcome: 'extra', reason: 'nobody set it' }];
    if (is === null) return [{ name, was, is, outcome: 'left behind', reason: 'it is not there' }];
    return [
      // Words alone would not tell that a list became a paragraph.
      sameSetting(name, was, is, emphasized)
        ? { name, was, is, outcome: 'whole', reason: '' }
        : { name, was, is, outcome: 'reworked', reason: 'has another value' },
    ];
  });
}

/**
 * Files by what they hold, since their paths change. A file that was attached and is now handed out in the text, or the
 * other way round, is there all the same.
 */
function judgeFiles(
  name: 'attachments' | 'instructorAttachments' | 'embeds',
  a: Subject,
  b: Subject,
  hashes: Hashes,
): Pick<SettingLine, 'outcome' | 'reason'> | null {
  // What is for instructors must not be found among what learners see.
  const among = name === 'instructorAttachments' ? [name] : (['attachments', 'embeds'] as const);
  const both = (item: Subject, side: ReadonlyMap<string, string>) =>
    new Set(among.flatMap((one) => listIn(item.settings[one])).map((path) => side.get(path) ?? path));
  const sent = both(a, hashes.source);
  const there = both(b, hashes.arrived);
  const was = listIn(a.settings[name]);
  const missing = was.filter((path) => !there.has(hashes.source.get(path) ?? path));
  const added = listIn(b.settings[name]).filter((path) => !sent.has(hashes.arrived.get(path) ?? path));
  if (missing.length > 0) {
    return missing.length === was.length && b.settings[name] === undefined
      ? { outcome: 'left behind', reason: 'it is not there' }
      : { outcome: 'reworked', reason: `not there: ${missing.map(baseName).join(', ')}` };
  }
  if (added.length > 0) {
    return was.length === 0
      ? { outcome: 'extra', reason: 'nobody sent it' }
      : { outcome: 'reworked', reason: `added: ${added.map(baseName).join(', ')}` };
  }
  return was.length === 0 ? null : { outcome: 'whole', reason: '' };
}

function compareQuestions(source: readonly Question[], arrived: readonly Question[], hashes: Hashes): PartLine[] {
  // A question may be asked twice.
  const open = [...arrived];
  const take = (test: (q: Question) => boolean) => {
    const at = open.findIndex(test);
    return at < 0 ? undefined : open.splice(at, 1)[0];
  };
  const lines: PartLine[] = [];
  const unpaired: Question[] = [];
  const judgePair = (a: Question, b: Question) => {
    const reasons = questionDifferences(a, b, hashes);
    if (reasons.length > 0) lines.push({ title: a.title || a.id, outcome: 'reworked', reason: reasons.join('; ') });
  };
  for (const question of source) {
    const same = take((q) => q.id === question.id);
    if (same) judgePair(question, same);
    else unpaired.push(question);
  }
  for (const question of unpaired) {
    const prompt = readable(question.prompt);
    const same = take((q) => readable(q.prompt) === prompt);
    if (same) judgePair(question, same);
    else
      lines.push({ title: question.title || question.id, outcome: 'left behind', reason: 'the question is not there' });
  }
  for (const extra of open)
    lines.push({ title: extra.title || extra.id, outcome: 'extra', reason: 'nobody sent this question' });
  return lines;
}

function questionDifferences(a: Question, b: Question, hashes: Hashes): string[] {
  const reasons: string[] = [];
  if (a.type !== b.type) reasons.push(`${a.type} became ${b.type}`);
  if (a.title !== b.title) reasons.push('its title is not the same');
  if (readable(a.prompt) !== readable(b.prompt)) reasons.push('its prompt is not the same');
  if (a.points !== b.points) reasons.push(`${a.points ?? 'no'} points became ${b.points ?? 'none'}`);
  if (a.category !== b.category) reasons.push('its category is not the same');
  const [partsOfA, partsOfB] = [partsOf(a), partsOf(b)];
  const differ = (part: (q: QuestionParts, side: ReadonlyMap<string, string>) => unknown) =>
    JSON.stringify(part(partsOfA, hashes.source)) !== JSON.stringify(part(partsOfB, hashes.arrived));
  const choices = (list: readonly Choice[]) => list.map((c) => [readable(c.text), c.correct, c.score]);
  const scoringOf = (q: Question) => JSON.stringify([q.scoring?.others, q.scoring?.least, q.scoring?.most]);
  if (scoringOf(a) !== scoringOf(b)) reasons.push('what its points come to is not the same');
  if (JSON.stringify(a.asked) !== JSON.stringify(b.asked)) reasons.push('it is asked in another manner');
  if (a.shuffled !== b.shuffled) reasons.push('its choices are shuffled on one side only');
  const answers = (list: readonly Answer[]) => list.map((x) => [x.text, x.caseSensitive, x.match, x.score]);
  if (differ((q) => choices(q.choices))) reasons.push('its choices or keys are not the same');
  if (differ((q) => answers(q.answers))) reasons.push('its accepted answers are not the same');
  if (differ((q) => q.blanks.map((b) => [answers(b.answers), choices(b.choices)])))
    reasons.push('its blanks are not the same');
  if (differ((q) => q.numbers.map((n) => [n.value, n.low, n.high, n.open, n.score])))
    reasons.push('its accepted numbers are not the same');
  if (differ((q) => [q.targets.map((t) => readable(t.text)), pairsByPlace(q), orderByPlace(q)]))
    reasons.push('what belongs together is not the same');
  if (
    differ((q, side) => [
      q.image && [side.get(q.image.file) ?? q.image.file, q.image.width, q.image.height],
      q.areas.map(areaOf),
    ])
  )
    reasons.push('its areas are not the same');
  const feedback = (q: Question, { choices: list, answers: words, numbers }: QuestionParts) =>
    JSON.stringify([
      Object.entries(q.feedback)
        .map(([kind, text]) => [kind, readable(text)])
        .sort(),
      [...list, ...words, ...numbers].flatMap((key, i) => (key.feedback ? [[i, readable(key.feedback)]] : [])),
    ]);
  if (feedback(a, partsOfA) !== feedback(b, partsOfB)) reasons.push('its feedback is not the same');
  const inside = [partsOfA.subquestions, partsOfB.subquestions] as const;
  if (inside[0].length !== inside[1].length) reasons.push('it does not ask as many things');
  inside[0].forEach((part, i) => {
    const other = inside[1][i];
    if (other) reasons.push(...questionDifferences(part, other, hashes).map((reason) => `part ${i + 1}: ${reason}`));
  });
  const files = (q: Question, side: ReadonlyMap<string, string>) =>
    JSON.stringify(q.files.map((f) => side.get(f) ?? f).sort());
  if (files(a, hashes.source) !== files(b, hashes.arrived)) reasons.push('its pictures are not the same');
  return reasons;
}

/** Keys by the places of their parts, since identifiers change. */
function pairsByPlace(q: QuestionParts): unknown[] {
  const at = (list: readonly { id: string }[], id: string) => list.findIndex((x) => x.id === id);
  return q.pairs
    .map((p) => [
      at(q.choices, p.choice),
      Math.max(at(q.targets, p.target), at(q.blanks, p.target), at(q.choices, p.target)),
      p.score,
    ])
    .sort((x, y) => String(x).localeCompare(String(y)));
}

function orderByPlace(q: QuestionParts): number[] {
  return q.order.map((id) => q.choices.findIndex((c) => c.id === id));
}

function areaOf({ shape, coords, correct, score }: Area): unknown[] {
  return [shape, coords, correct, score];
}
