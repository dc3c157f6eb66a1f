import type { XmlElement } from '../../markup/index.ts';
import type { Answer, Blank, Choice, MatchPair, NumberKey, RichText } from '../../model/index.ts';
import { UNDECLARED, type Declaration } from './declaration.ts';
import { attributeOf, id, isNamed, kids } from './names.ts';
import { sameNumber } from './numbers.ts';
import type { NumberTest, Processing } from './processing.ts';
import type { ItemTexts } from './texts.ts';

/** What the keys of an item are read from. */
interface Keyed {
  declarations: ReadonlyMap<string, Declaration>;
  processing: Processing;
  points: number | null;
  texts: ItemTexts;
  /** It has one interaction. */
  isOnly: boolean;
  /** It is no part of a question that has several. */
  isWhole: boolean;
}

/** What is right, and what it gives: of an item, or of one of its parts. */
export class ItemKeys {
  private readonly declarations: ReadonlyMap<string, Declaration>;
  private readonly processing: Processing;
  private readonly points: number | null;
  private readonly texts: ItemTexts;
  private readonly isOnly: boolean;
  private readonly isWhole: boolean;

  constructor({ declarations, processing, points, texts, isOnly, isWhole }: Keyed) {
    this.declarations = declarations;
    this.processing = processing;
    this.points = points;
    this.texts = texts;
    this.isOnly = isOnly;
    this.isWhole = isWhole;
  }

  declarationOf(interaction: XmlElement | undefined): Declaration {
    const found = this.declarations.get((interaction && attributeOf(interaction, 'responseIdentifier')) ?? '');
    return found ?? UNDECLARED;
  }

  /** Points of a part: none where it gives all of them, or where the question is right as a whole. */
  share(value: number | undefined): { score?: number } {
    return value === undefined || value === 0 || value === this.points ? {} : { score: value };
  }

  choices(interaction: XmlElement, list: readonly XmlElement[]): Choice[] {
    const { correct, mapping, cardinality } = this.declarationOf(interaction);
    const response = attributeOf(interaction, 'responseIdentifier') ?? '';
    const { mapped, keyed, choices } = this.processing;
    const tested = choices.filter((c) => c.variable === response);
    const scores = new Map(
      mapped.has(response)
        ? mapping.map((m): [string, number] => [m.key, m.value])
        : tested.flatMap((c): [string, number][] => (c.score === undefined ? [] : [[c.choice, c.score]])),
    );
    // Of several responses each gives its own share to the choice that is its key.
    const share = !this.isOnly ? keyed.get(response) : undefined;
    if (scores.size === 0 && share !== undefined) for (const key of correct) scores.set(key, share);
    const values = [...scores.values()].filter((v) => v !== 0);
    // A single choice whose only entry gives everything is right as a whole, though it is written as a mapping.
    const whole = cardinality === 'single' && values.length === 1 && values[0] === this.points;
    return list.map((element): Choice => {
      const own = id(element);
      const value = scores.get(own) ?? 0;
      const inline = kids(element, 'feedbackInline')[0] ?? kids(element, 'feedbackBlock')[0];
      const modal = this.processing.choiceFeedback.get(`${response} ${own}`);
      const feedback = inline ? this.texts.rich(inline) : modal === undefined ? undefined : this.texts.modal(modal);
      return {
        id: own,
        text: this.texts.rich(element, ['feedbackInline', 'feedbackBlock']),
        correct:
          correct.includes(own) ||
          (correct.length === 0 && (value > 0 || tested.some((c) => c.choice === own && c.score === undefined))),
        ...(!whole && value !== 0 ? { score: value } : {}),
        ...(feedback ? { feedback } : {}),
      };
    });
  }

  answers(interaction: XmlElement): Answer[] {
    const { correct, mapping } = this.declarationOf(interaction);
    const own = attributeOf(interaction, 'responseIdentifier') ?? '';
    if (mapping.length > 0 && this.processing.mapped.has(own)) {
      return mapping.map((m) => ({
        text: m.key,
        caseSensitive: m.caseSensitive,
        match: 'equal',
        ...this.share(m.value),
      }));
    }
    const tested = this.processing.strings.filter((s) => s.variable === own);
    if (tested.length > 0) {
      return tested.map(({ text, caseSensitive, match, score }) => ({
        text,
        caseSensitive,
        match,
        ...this.share(score),
        ...this.reply((r) =>
          r.strings.some(
            (s) => s.variable === own && s.text === text && s.match === match && s.caseSensitive === caseSensitive,
          ),
        ),
      }));
    }
    const share = !this.isOnly ? this.share(this.processing.keyed.get(own)) : {};
    return correct.map((text) => ({ text, caseSensitive: true, match: 'equal', ...share }));
  }

  private reply(says: (reply: Processing['replies'][number]) => boolean): { feedback?: RichText } {
    const reply = this.processing.replies.find(says);
    const feedback = reply && this.texts.modal(reply.ident);
    return feedback ? { feedback } : {};
  }

  blank(interaction: XmlElement): Blank {
    const own = attributeOf(interaction, 'responseIdentifier') ?? '';
    if (isNamed(interaction, 'textEntryInteraction')) {
      return { id: own, answers: this.answers(interaction), choices: [] };
    }
    return { id: own, answers: [], choices: this.choices(interaction, kids(interaction, 'inlineChoice')) };
  }

  numbersOf(interaction: XmlElement): readonly NumberTest[] {
    const own = attributeOf(interaction, 'responseIdentifier');
    return this.processing.numbers.filter((n) => this.isWhole || n.variable === own);
  }

  numbers(interaction: XmlElement): NumberKey[] {
    const tested = this.numbersOf(interaction);
    if (tested.length > 0) {
      const correct = Number(this.declarationOf(interaction).correct[0]);
      return tested.map((n) => {
        const value = n.value ?? correct;
        return {
          value,
          low: n.low(value),
          high: n.high(value),
          ...(n.open ? { open: n.open } : {}),
          ...(n.tolerance ? { tolerance: n.tolerance } : {}),
          ...this.share(n.score),
          ...this.reply((r) => r.numbers.some((x) => sameNumber(x, n))),
        };
      });
    }
    const { correct, mapping } = this.declarationOf(interaction);
    const keys =
      mapping.length > 0
        ? mapping.map((m) => ({ text: m.key, value: m.value }))
        : correct.map((text) => ({ text, value: undefined }));
    return keys
      .map(({ text, value }) => ({ n: Number(text), value }))
      .filter(({ n }) => Number.isFinite(n))
      .map(({ n, value }) => ({ value: n, low: n, high: n, ...this.share(value) }));
  }

  pairs(interaction: XmlElement): MatchPair[] {
    const { correct, mapping } = this.declarationOf(interaction);
    const mapped = this.processing.mapped.has(attributeOf(interaction, 'responseIdentifier') ?? '');
    const keys = correct.length > 0 ? correct : mapping.filter((m) => m.value > 0).map((m) => m.key);
    return keys.map((key) => {
      const [choice = '', target = ''] = key.split(/\s+/);
      const value = mapped ? mapping.find((m) => m.key === key)?.value : undefined;
      return { choice, target, ...(value === undefined ? {} : { score: value }) };
    });
  }
}
