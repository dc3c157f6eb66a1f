import {
  QUESTION_TYPES,
  listIn,
  questionOf,
  remark,
  type Answer,
  type Choice,
  type FeedbackKind,
  type Note,
  type Question,
  type RichText,
} from '../../model/index.ts';
import { html } from '../archive/parts.ts';
import type { Answers, Choices, QuestionRule, Value } from './language.ts';
import type { Rec, Records } from './records.ts';
import { NOWHERE, richValue, textValue, valueOf, type Places } from './values.ts';

/** Reads questions as a description says where their parts are. */
export class QuestionReader {
  private readonly records: Records;
  private readonly notes: Note[];

  constructor(records: Records, notes: Note[]) {
    this.records = records;
    this.notes = notes;
  }

  async read(rules: readonly QuestionRule[], from: Rec, places: Places): Promise<Question[]> {
    const list: Question[] = [];
    for (const [i, rule] of rules.entries()) {
      for await (const rec of this.records.find(rule.find, from, `${from.rule}.questions.${i}`, rule.when)) {
        const question = await this.question(rule, rec, places);
        if (question) list.push(question);
      }
    }
    return list;
  }

  private async question(rule: QuestionRule, rec: Rec, places: Places): Promise<Question | null> {
    const { records } = this;
    const named = new Set<string>();
    const showing = { ...places, named };
    const text = (value: Value | undefined, field: string) => textValue(records, value, rec, field);
    const type = QUESTION_TYPES.find((t) => t === text(rule.type, 'type') && t !== 'several parts') ?? 'foreign';
    const prompt = richValue(records, rule.prompt, rec, 'prompt', showing) ?? html('');
    const options = rule.choices ? await this.choices(rule.choices, rec, showing, places) : [];
    const points = rule.points ? valueOf(records, { as: 'number', ...rule.points }, rec, 'points', NOWHERE, '') : null;
    const feedback: Partial<Record<FeedbackKind, RichText>> = {};
    for (const [kind, value] of Object.entries(rule.feedback ?? {})) {
      const reply = richValue(records, value, rec, `feedback ${kind}`, places);
      if (reply) feedback[kind as FeedbackKind] = reply;
    }
    const order = rule.order ? valueOf(records, { ...rule.order, as: 'list' }, rec, 'order', NOWHERE, '') : null;
    const targets = rule.targets
      ? await this.each(rule.targets, rec, 'targets', (r, i) => ({
          id: textValue(records, rule.targets?.id, r, 'id') || `t${i + 1}`,
          text: richValue(records, rule.targets?.text, r, 'text', places) ?? html(''),
        }))
      : [];
    const pairs = rule.pairs
      ? await this.each(rule.pairs, rec, 'pairs', (r) => ({
          choice: textValue(records, rule.pairs?.choice, r, 'choice'),
          target: textValue(records, rule.pairs?.target, r, 'target'),
          ...this.score(rule.pairs?.score, r),
        }))
      : [];
    const numbers = rule.numbers
      ? await this.each(rule.numbers, rec, 'numbers', (r) => {
          const number = (value: Value | undefined, otherwise: number) =>
            Number((value && valueOf(records, { as: 'number', ...value }, r, 'number', NOWHERE, '')) ?? otherwise);
          const value = number(rule.numbers?.value, 0);
          return {
            value,
            low: number(rule.numbers?.low, value),
            high: number(rule.numbers?.high, value),
            ...this.score(rule.numbers?.score, r),
          };
        })
      : [];
    const blanks = [];
    if (rule.blanks) {
      const { find, when, id, answers, choices } = rule.blanks;
      for await (const r of records.find(find, rec, `${rec.rule}.blanks`, when)) {
        blanks.push({
          id: textValue(records, id, r, 'id'),
          answers: answers ? await this.answers(answers, r) : [],
          choices: choices ? await this.choices(choices, r, showing, places) : [],
        });
      }
    }
    const parts = {
      choices: options,
      answers: rule.answers ? await this.answers(rule.answers, rec) : [],
      blanks,
      numbers,
      targets,
      pairs,
      order: Array.isArray(order) ? listIn(order) : [],
    };
    const common = {
      id: text(rule.id, 'id'),
      title: text(rule.title, 'title'),
      prompt,
      points: typeof points === 'number' ? points : null,
      feedback,
      ...(rule.category ? { category: text(rule.category, 'category') } : {}),
      files: [...named],
    };
    const question = questionOf(type, common, parts);
    const unfit = Object.entries(parts).filter(([part, list]) => list.length > 0 && !(part in question));
    if (unfit.length > 0) {
      this.notes.push(
        remark(
          'description-part',
          `The question “${common.title || common.id}” is of the type ${type}, which has no ${unfit.map(([part]) => part).join(', ')}: they are left out.`,
        ),
      );
    }
    return question;
  }

  private async each<T>(
    sub: { find: QuestionRule['find']; when?: QuestionRule['when'] },
    from: Rec,
    name: string,
    make: (rec: Rec, i: number) => T,
  ): Promise<T[]> {
    const made: T[] = [];
    for await (const rec of this.records.find(sub.find, from, `${from.rule}.${name}`, sub.when)) {
      made.push(make(rec, made.length));
    }
    return made;
  }

  private score(value: Value | undefined, rec: Rec): { score?: number } {
    const score = value ? valueOf(this.records, { as: 'number', ...value }, rec, 'score', NOWHERE, '') : null;
    return typeof score === 'number' ? { score } : {};
  }

  /** Files that a choice shows are those of the question; what is said to it may name others. */
  private choices(rule: Choices, from: Rec, showing: Places, places: Places): Promise<Choice[]> {
    const { records } = this;
    return this.each(rule, from, 'choices', (r, i) => {
      const feedback = richValue(records, rule.feedback, r, 'feedback', places);
      return {
        id: textValue(records, rule.id, r, 'id') || `c${i + 1}`,
        text: richValue(records, rule.text, r, 'text', showing) ?? html(''),
        correct: this.yes(rule.correct, r, 'correct'),
        ...this.score(rule.score, r),
        ...(feedback ? { feedback } : {}),
      };
    });
  }

  private answers(rule: Answers, from: Rec): Promise<Answer[]> {
    return this.each(rule, from, 'answers', (r) => ({
      text: textValue(this.records, rule.text, r, 'text'),
      caseSensitive: this.yes(rule.caseSensitive, r, 'caseSensitive'),
      match: this.yes(rule.part, r, 'part') ? ('substring' as const) : ('equal' as const),
      ...this.score(rule.score, r),
    }));
  }

  private yes(value: Value | undefined, rec: Rec, field: string): boolean {
    return value !== undefined && valueOf(this.records, { ...value, as: 'yes' }, rec, field, NOWHERE, '') === true;
  }
}
