import { escapeXml } from '../../markup/index.ts';
import { isPointing, partsOf, type Answer, type Blank, type NumberKey, type Question } from '../../model/index.ts';
import { asIdentifier, type Attributes } from './names.ts';

type El = (name: string, attributes: Attributes, ...children: string[]) => string;

/** How an answer is judged and what is then said; the reverse of `processing.ts`. `el` spells names as the version does. */
export function writeProcessing(question: Question, el: El): string {
  return new ProcessingWriter(question, el).write();
}

/** The outcome that tells which choice was made: of the only response, or of that of a part. */
export function choiceOutcome(part: string | null): string {
  return part === null ? 'FEEDBACK_CHOICE' : `FEEDBACK_CHOICE_${part}`;
}

class ProcessingWriter {
  private readonly q: Question;
  private readonly el: El;
  private readonly response: string;
  /** Of what is asked by one question of several parts. */
  private readonly parts: readonly ProcessingWriter[];

  constructor(question: Question, el: El, response = 'RESPONSE') {
    this.q = question;
    this.el = el;
    this.response = response;
    this.parts = partsOf(question).subquestions.map((part) => new ProcessingWriter(part, el, asIdentifier(part.id)));
  }

  private set(identifier: string, ...value: string[]): string {
    return this.el('setOutcomeValue', { identifier }, ...value);
  }

  private base(baseType: string, value: string | number): string {
    return this.el('baseValue', { baseType }, escapeXml(String(value)));
  }

  private variable(identifier = this.response): string {
    return this.el('variable', { identifier });
  }

  private matchCorrect(identifier = this.response): string {
    return this.el('match', {}, this.variable(identifier), this.el('correct', { identifier }));
  }

  /** What the mapping gives. */
  private mapped(): string {
    return this.el(isPointing(this.q) ? 'mapResponsePoint' : 'mapResponse', { identifier: this.response });
  }

  /** Points have no key but their mapping. */
  private rightAsWhole(): string {
    return isPointing(this.q) ? this.el('gt', {}, this.mapped(), this.base('float', 0)) : this.matchCorrect();
  }

  private join(name: 'and' | 'or', tests: readonly string[]): string {
    return tests.length === 1 ? (tests[0] ?? '') : this.el(name, {}, ...tests);
  }

  private answerTest(a: Answer, identifier = this.response): string {
    const caseSensitive = String(a.caseSensitive);
    return a.match === 'equal'
      ? this.el('stringMatch', { caseSensitive }, this.variable(identifier), this.base('string', a.text))
      : this.el('substring', { caseSensitive }, this.base('string', a.text), this.variable(identifier));
  }

  private whole(): string {
    const { points } = this.q;
    return this.set('SCORE', points === null ? this.variable('WHOLE') : this.base('float', points));
  }

  /** A share of the points, on top of what other parts gave. */
  private add(value: string): string {
    return this.set('SCORE', this.el('sum', {}, this.variable('SCORE'), value));
  }

  write(): string {
    const { q } = this;
    const rules: string[] = [];
    if (q.feedback.general) rules.push(this.set('FEEDBACK_GENERAL', this.base('identifier', 'general')));
    if (repliesToChoices(q)) rules.push(this.set(choiceOutcome(null), this.variable()));
    for (const part of this.parts) {
      if (repliesToChoices(part.q)) rules.push(part.set(choiceOutcome(part.response), part.variable()));
    }
    for (const [i, test] of this.replied().entries()) {
      const tell = this.set('FEEDBACK_ANSWER', this.base('identifier', `answer-${i + 1}`));
      rules.push(this.el('responseCondition', {}, this.el('responseIf', {}, test, tell)));
    }
    rules.push(...this.scoring());
    return rules.join('') === '' ? '' : this.el('responseProcessing', {}, ...rules);
  }

  /** The tests of single answers to which something is said, choices aside. */
  private replied(): string[] {
    const { answers, numbers } = partsOf(this.q);
    return [
      ...answers.filter((a) => a.feedback).map((a) => this.answerTest(a)),
      ...numbers.filter((n) => n.feedback).map((n) => this.numberTest(n)),
      ...this.parts.flatMap((part) => part.replied()),
    ];
  }

  private scoring(): string[] {
    const { q } = this;
    const partial = (list: readonly { score?: number | undefined }[]) => list.some((p) => p.score !== undefined);
    switch (q.type) {
      case 'choice':
      case 'true/false':
      case 'multiple response':
      case 'hotspot':
      case 'matching':
      case 'associate':
      case 'gap match': {
        const { choices, areas, pairs } = partsOf(q);
        if (isPointing(q) || partial(choices) || partial(areas) || partial(pairs)) {
          return [this.set('SCORE', this.mapped()), ...this.judged(this.rightAsWhole(), '')];
        }
        return this.judged(this.matchCorrect(), this.whole());
      }
      case 'ordering':
        return this.judged(this.matchCorrect(), this.whole());
      case 'cloze':
        return this.clozeScoring(q.blanks);
      case 'several parts':
        return this.partsScoring();
      case 'numeric':
        return this.byKey(q.numbers.map((n) => ({ test: this.numberTest(n), score: n.score })));
      case 'short answer':
      case 'pattern':
        return this.byKey(q.answers.map((a) => ({ test: this.answerTest(a), score: a.score })));
      default:
        return this.judged(null, '');
    }
  }

  private numberTest({ value, low, high, open, tolerance }: NumberKey): string {
    const [openLow, openHigh] = [open === 'low' || open === 'both', open === 'high' || open === 'both'];
    if (tolerance && (tolerance === 'absolute' || value !== 0)) {
      // What was added to a number does not come out to the last bit when it is taken off again.
      const by = (width: number) =>
        Number((tolerance === 'absolute' ? width : (width / Math.abs(value)) * 100).toPrecision(12));
      const attributes = {
        toleranceMode: tolerance,
        tolerance: `${by(value - low)} ${by(high - value)}`,
        includeLowerBound: openLow ? 'false' : undefined,
        includeUpperBound: openHigh ? 'false' : undefined,
      };
      // The bounds lie around the first of the two.
      return this.el('equal', attributes, this.base('float', value), this.variable());
    }
    const exact = this.el('equal', { toleranceMode: 'exact' }, this.variable(), this.base('float', value));
    if (low === high) return exact;
    const bound = (name: string, n: number) => this.el(name, {}, this.variable(), this.base('float', n));
    return this.el(
      'or',
      {},
      exact,
      this.el('and', {}, bound(openLow ? 'gt' : 'gte', low), bound(openHigh ? 'lt' : 'lte', high)),
    );
  }

  /** If right, then; else. Where nothing hangs on it, nothing is written. */
  private judged(test: string | null, then: string): string[] {
    const { correct, incorrect } = this.q.feedback;
    const tell = (kind: string) => this.set('FEEDBACK', this.base('identifier', kind));
    if (test === null) {
      return [correct ? tell('correct') : '', incorrect ? tell('incorrect') : ''].filter((rule) => rule !== '');
    }
    if (then === '' && !correct && !incorrect) return [];
    return [
      this.el(
        'responseCondition',
        {},
        this.el('responseIf', {}, test, then, correct ? tell('correct') : ''),
        incorrect ? this.el('responseElse', {}, tell('incorrect')) : '',
      ),
    ];
  }

  /** Alternatives: each gives everything, or points of its own. */
  private byKey(keys: readonly { test: string; score: number | undefined }[]): string[] {
    if (keys.length === 0) return this.judged(null, '');
    const { correct, incorrect } = this.q.feedback;
    const tell = (kind: string) => this.set('FEEDBACK', this.base('identifier', kind));
    const groups = new Map<number | undefined, string[]>();
    for (const { test, score } of keys) groups.set(score, [...(groups.get(score) ?? []), test]);
    if (groups.size === 1 && groups.has(undefined))
      return this.judged(
        this.join(
          'or',
          keys.map((k) => k.test),
        ),
        this.whole(),
      );
    const branches = keys.map(({ test, score }, i) =>
      this.el(
        i === 0 ? 'responseIf' : 'responseElseIf',
        {},
        test,
        score === undefined ? this.whole() : this.set('SCORE', this.base('float', score)),
        correct ? tell('correct') : '',
      ),
    );
    return [
      this.el('responseCondition', {}, ...branches, incorrect ? this.el('responseElse', {}, tell('incorrect')) : ''),
    ];
  }

  /** Each part adds its points, or all of them are right together. */
  private partsScoring(): string[] {
    const tests = this.parts.flatMap((part) => part.rightTest() ?? []);
    const all = tests.length === 0 ? null : this.join('and', tests);
    const together = this.parts.every((part) => part.q.points === null);
    return [
      ...this.parts.flatMap((part) => part.addition()),
      ...this.judged(all, together && all !== null && this.q.points !== null ? this.whole() : ''),
    ];
  }

  /** What a right answer to a part is; `null` where a person judges it. */
  private rightTest(): string | null {
    const { q } = this;
    const { answers, numbers, blanks } = partsOf(q);
    switch (q.type) {
      case 'essay':
      case 'upload':
      case 'foreign':
        return null;
      case 'short answer':
      case 'pattern':
        return this.anyOf(answers.map((a) => this.answerTest(a)));
      case 'numeric':
        return this.anyOf(numbers.map((n) => this.numberTest(n)));
      case 'cloze':
        return this.allBlanks(blanks);
      default:
        return this.rightAsWhole();
    }
  }

  /** The points of a part, on top of what others gave. */
  private addition(): string[] {
    const { q } = this;
    const { choices, areas, pairs, answers, numbers, blanks } = partsOf(q);
    if (q.points === null) return [];
    const share = (score: number | undefined) => this.add(this.base('float', score ?? q.points ?? 0));
    const given = (test: string, score?: number) =>
      this.el('responseCondition', {}, this.el('responseIf', {}, test, share(score)));
    if (isPointing(q) || [...choices, ...areas, ...pairs].some((part) => part.score !== undefined)) {
      return [this.add(this.mapped())];
    }
    if (q.type === 'cloze' && blanks.some((b) => [...b.answers, ...b.choices].some((k) => k.score !== undefined))) {
      return this.blankShares(blanks);
    }
    const keys = [
      ...answers.map((a) => ({ test: this.answerTest(a), score: a.score })),
      ...numbers.map((n) => ({ test: this.numberTest(n), score: n.score })),
    ];
    if (keys.some((key) => key.score !== undefined)) {
      const branches = keys.map(({ test, score }, i) =>
        this.el(i === 0 ? 'responseIf' : 'responseElseIf', {}, test, share(score)),
      );
      return [this.el('responseCondition', {}, ...branches)];
    }
    const right = this.rightTest();
    return right === null ? [] : [given(right)];
  }

  private anyOf(tests: readonly string[]): string | null {
    return tests.length === 0 ? null : this.join('or', tests);
  }

  private allBlanks(blanks: readonly Blank[]): string | null {
    const tests = blanks.flatMap((b) => {
      const id = asIdentifier(b.id);
      if (b.choices.length > 0) return [this.matchCorrect(id)];
      const answers = b.answers.map((a) => this.answerTest(a, id));
      return answers.length === 0 ? [] : [this.join('or', answers)];
    });
    return tests.length === 0 ? null : this.join('and', tests);
  }

  private clozeScoring(blanks: readonly Blank[]): string[] {
    const keys = blanks.flatMap((b) => [...b.answers, ...b.choices]);
    const all = this.allBlanks(blanks);
    if (!keys.some((k) => k.score !== undefined)) return this.judged(all, all === null ? '' : this.whole());
    return [...this.blankShares(blanks), ...this.judged(all, '')];
  }

  private blankShares(blanks: readonly Blank[]): string[] {
    return blanks.flatMap((b) => {
      const identifier = asIdentifier(b.id);
      if (b.choices.length > 0) return [this.add(this.el('mapResponse', { identifier }))];
      return b.answers.map((a) =>
        this.el(
          'responseCondition',
          {},
          this.el('responseIf', {}, this.answerTest(a, identifier), this.add(this.base('float', a.score ?? 0))),
        ),
      );
    });
  }
}

export function repliesToChoices(q: Question): boolean {
  return partsOf(q).choices.some((c) => c.feedback);
}
