import { descendants, fold, textOf, type XmlElement } from '../../markup/index.ts';
import {
  blankMark,
  hasPartialCredit,
  limitsOf,
  partsOf,
  questionOf,
  type Answer,
  type Blank,
  type Choice,
  type NumberKey,
  type MatchPair,
  type Question,
  type QuestionParts,
  type QuestionType,
  type RichText,
  type Scoring,
  type SimpleQuestion,
} from '../../model/index.ts';
import { withoutPartialCredit } from '../questions.ts';
import { attributeOf, id, kid, kids, isNamed, nameOf } from './names.ts';
import { UNDECLARED, readDeclaration, type Declaration } from './declaration.ts';
import { categoryIn, feedbackOf } from './feedback.ts';
import { emptied, html, innerHtml } from './html.ts';
import { hotspotOf } from './hotspot.ts';
import { pointsOf, worth } from './points.ts';
import { readProcessing, type NumberTest, type Processing } from './processing.ts';
import { sameNumber } from './numbers.ts';

/** Questions of QTI 2.1, 2.2 and 3.0 (Assessment, Section and Item Information Model). */

export type Resolve = (reference: string) => string | null;

export const INTERACTION = /Interaction$/;

/** What an interaction by itself asks for; choices and words are told apart by more than their names. */
const TYPES: Readonly<Record<string, QuestionType>> = {
  inlineChoiceInteraction: 'cloze',
  extendedTextInteraction: 'essay',
  matchInteraction: 'matching',
  associateInteraction: 'associate',
  gapMatchInteraction: 'gap match',
  orderInteraction: 'ordering',
  hotspotInteraction: 'hotspot',
  selectPointInteraction: 'hotspot',
  uploadInteraction: 'upload',
};

/**
 * What stands in a text and is not shown with it: said to others than those who answer, only once something was answered,
 * or only for some values of a template.
 */
const ASIDE: ReadonlySet<string> = new Set([
  'rubricBlock',
  'feedbackBlock',
  'feedbackInline',
  'templateBlock',
  'templateInline',
]);

/** Reads an item, or one of the parts of a question that has several. */
export class ItemReader {
  private readonly declarations = new Map<string, Declaration>();
  private readonly root: XmlElement;
  private readonly resolve: Resolve;
  private readonly body: XmlElement | undefined;
  private readonly interactions: XmlElement[];
  private readonly processing: Processing;
  private readonly points: number | null;
  private readonly part: XmlElement | undefined;

  /** `part` is the interaction of one part of a question that has several. */
  constructor(root: XmlElement, resolve: Resolve, part?: XmlElement) {
    this.root = root;
    this.resolve = resolve;
    for (const d of kids(root, 'responseDeclaration')) this.declarations.set(id(d), readDeclaration(d));
    this.body = kid(root, 'itemBody');
    this.part = part;
    const found = this.body ? descendants(this.body).filter((e) => INTERACTION.test(nameOf(e))) : [];
    this.interactions = part ? [part] : found;
    this.processing = readProcessing(kid(root, 'responseProcessing'), [...this.declarations.keys()]);
    const { declarations, processing } = this;
    const own = (part && attributeOf(part, 'responseIdentifier')) ?? '';
    const scored = { root, declarations, processing, single: this.interactions.length === 1 };
    if (!part) this.points = pointsOf(scored);
    else this.points = processing.together ? null : (worth(own, this.declarationOf(part), scored) ?? null);
  }

  read(): Question {
    const type = this.typeOf();
    const parts = this.parts(type);
    const prompt = this.prompt(type);
    const feedback = this.part ? {} : feedbackOf(this.body, this.processing.feedback, this);
    const references = [
      prompt,
      ...(parts.choices ?? []).map((c) => c.text),
      ...(parts.targets ?? []).map((t) => t.text),
    ];
    const inside = parts.subquestions?.flatMap((q) => q.files) ?? [];
    const files = references.flatMap((t) =>
      [...t.text.matchAll(/(?:src|href|data)\s*=\s*"([^"]+)"/gi)].map((m) => m[1] ?? ''),
    );
    const category = this.part ? undefined : categoryIn(this.body);
    const common = {
      id: (this.part && attributeOf(this.part, 'responseIdentifier')) ?? id(this.root),
      title: this.part ? '' : (attributeOf(this.root, 'title') ?? ''),
      prompt,
      points: this.points,
      feedback,
      ...(category === undefined ? {} : { category }),
      files: [...new Set([...files.flatMap((r) => this.resolve(r) ?? []), ...inside])],
    };
    const shuffled = this.interactions.some((i) => attributeOf(i, 'shuffle') === 'true');
    const question = questionOf(type, { ...common, ...(shuffled ? { shuffled } : {}) }, parts);
    const scoring = this.scoring(question);
    return scoring ? { ...question, scoring } : question;
  }

  /** What the points of parts come to, of a question whose only response is mapped. */
  private scoring(question: Question): Scoring | undefined {
    const [interaction, ...more] = this.interactions;
    if (!interaction || more.length > 0 || !hasPartialCredit(question)) return undefined;
    const { limits, cardinality } = this.declarationOf(interaction);
    if (!this.processing.mapped.has(attributeOf(interaction, 'responseIdentifier') ?? '')) return undefined;
    const { choices, pairs, areas } = partsOf(question);
    const scores = [...choices, ...pairs, ...areas].flatMap((part) => part.score ?? []);
    return limitsOf(scores, cardinality === 'single', limits);
  }

  private declarationOf(interaction: XmlElement | undefined): Declaration {
    const found = this.declarations.get((interaction && attributeOf(interaction, 'responseIdentifier')) ?? '');
    return found ?? UNDECLARED;
  }

  private typeOf(): QuestionType {
    const [first, ...more] = this.interactions;
    // What is asked may change with every try: what stands in the file is not what a learner meets.
    const changes = attributeOf(this.root, 'adaptive') === 'true' || kids(this.root, 'templateDeclaration').length > 0;
    if (!first || changes) return 'foreign';
    const names = this.interactions.map(nameOf);
    const inline = (name: string) => name === 'textEntryInteraction' || name === 'inlineChoiceInteraction';
    if (more.length > 0) {
      if (names.every(inline)) return 'cloze';
      return this.interactions.some((i) => this.ofPart(i).typeOf() === 'foreign') ? 'foreign' : 'several parts';
    }
    if (names[0] === 'choiceInteraction') return this.choosingType(first);
    if (names[0] === 'textEntryInteraction') return this.textEntryType(first);
    return TYPES[names[0] ?? ''] ?? 'foreign';
  }

  private choosingType(interaction: XmlElement): QuestionType {
    if (this.declarationOf(interaction).cardinality === 'multiple') return 'multiple response';
    if (/\btrue-false\b/.test(attributeOf(interaction, 'class') ?? '')) return 'true/false';
    const words = kids(interaction, 'simpleChoice').map((c) => fold(textOf(c)).toLowerCase());
    return [...words].sort().join() === 'false,true' ? 'true/false' : 'choice';
  }

  private ofPart(interaction: XmlElement): ItemReader {
    return new ItemReader(this.root, this.resolve, interaction);
  }

  private textEntryType(interaction: XmlElement): QuestionType {
    const { baseType } = this.declarationOf(interaction);
    if (baseType === 'float' || baseType === 'integer' || this.numbersOf(interaction).length > 0) return 'numeric';
    const response = attributeOf(interaction, 'responseIdentifier');
    const words = this.processing.strings.filter((s) => s.variable === response);
    if (this.part) return words.some((s) => s.match === 'substring') ? 'pattern' : 'short answer';
    // A gap that text follows is a gap; one that ends the question is where the answer goes.
    const marked = this.markedBody();
    const own = attributeOf(interaction, 'responseIdentifier') ?? '';
    if (!/^RESPONSE/i.test(own)) return 'cloze';
    const mark = blankMark(own);
    const after = fold(marked.slice(marked.indexOf(mark) + mark.length).replace(/<[^>]*>/g, ' '));
    if (/[\p{L}\p{N}]/u.test(after)) return 'cloze';
    return this.processing.strings.some((s) => s.match === 'substring') ? 'pattern' : 'short answer';
  }

  private parts(type: QuestionType): Partial<QuestionParts> {
    const [first] = this.interactions;
    if (!first) return {};
    switch (type) {
      case 'choice':
      case 'multiple response':
      case 'true/false':
        return { choices: this.choices(first, 'simpleChoice') };
      case 'short answer':
      case 'pattern':
        return { answers: this.answers(first) };
      case 'cloze':
        return { blanks: this.interactions.map((i) => this.blank(i)) };
      case 'numeric':
        return { numbers: this.numbers(first) };
      case 'several parts':
        return { subquestions: this.interactions.flatMap((i) => this.ofPart(i).asPart()) };
      case 'ordering':
        return {
          choices: this.bare(kids(first, 'simpleChoice')),
          order: this.declarationOf(first).correct,
        };
      case 'associate':
        return { choices: this.bare(kids(first, 'simpleAssociableChoice')), pairs: this.pairs(first) };
      case 'matching': {
        const [sources, targets] = kids(first, 'simpleMatchSet');
        return {
          choices: this.bare(kids(sources, 'simpleAssociableChoice')),
          targets: kids(targets, 'simpleAssociableChoice').map((t) => ({ id: id(t), text: this.rich(t) })),
          pairs: this.pairs(first),
        };
      }
      case 'gap match':
        return {
          choices: this.bare([...kids(first, 'gapText'), ...kids(first, 'gapImg')]),
          blanks: descendants(first)
            .filter((e) => isNamed(e, 'gap'))
            .map((g) => ({ id: id(g), answers: [], choices: [] })),
          pairs: this.pairs(first),
        };
      case 'hotspot':
        return hotspotOf(first, this.declarationOf(first), {
          resolve: this.resolve,
          isMapped: this.processing.mapped.has(attributeOf(first, 'responseIdentifier') ?? ''),
          share: (value) => this.share(value),
        });
      default:
        return {};
    }
  }

  /** Points of a part: none where it gives all of them, or where the question is right as a whole. */
  private share(value: number | undefined): { score?: number } {
    return value === undefined || value === 0 || value === this.points ? {} : { score: value };
  }

  private choices(interaction: XmlElement, name: string): Choice[] {
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
    const share = this.interactions.length > 1 ? keyed.get(response) : undefined;
    if (scores.size === 0 && share !== undefined) for (const key of correct) scores.set(key, share);
    const values = [...scores.values()].filter((v) => v !== 0);
    // A single choice whose only entry gives everything is right as a whole, though it is written as a mapping.
    const whole = cardinality === 'single' && values.length === 1 && values[0] === this.points;
    return kids(interaction, name).map((element): Choice => {
      const own = id(element);
      const value = scores.get(own) ?? 0;
      const inline = kids(element, 'feedbackInline')[0] ?? kids(element, 'feedbackBlock')[0];
      const modal = this.processing.choiceFeedback.get(`${response} ${own}`);
      const feedback = inline ? this.rich(inline) : modal === undefined ? undefined : this.modal(modal);
      return {
        id: own,
        text: this.rich(element, ['feedbackInline', 'feedbackBlock']),
        correct:
          correct.includes(own) ||
          (correct.length === 0 && (value > 0 || tested.some((c) => c.choice === own && c.score === undefined))),
        ...(!whole && value !== 0 ? { score: value } : {}),
        ...(feedback ? { feedback } : {}),
      };
    });
  }

  private bare(list: readonly XmlElement[]): Choice[] {
    return list.map((element) => ({ id: id(element), text: this.rich(element), correct: false }));
  }

  private answers(interaction: XmlElement): Answer[] {
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
    const share = this.interactions.length > 1 ? this.share(this.processing.keyed.get(own)) : {};
    return correct.map((text) => ({ text, caseSensitive: true, match: 'equal', ...share }));
  }

  private reply(says: (reply: Processing['replies'][number]) => boolean): { feedback?: RichText } {
    const reply = this.processing.replies.find(says);
    const feedback = reply && this.modal(reply.ident);
    return feedback ? { feedback } : {};
  }

  private blank(interaction: XmlElement): Blank {
    const own = attributeOf(interaction, 'responseIdentifier') ?? '';
    if (isNamed(interaction, 'textEntryInteraction')) {
      return { id: own, answers: this.answers(interaction), choices: [] };
    }
    return { id: own, answers: [], choices: this.choices(interaction, 'inlineChoice') };
  }

  /** A part that asks one thing; of points that are given for all of them together it has none. */
  private asPart(): SimpleQuestion[] {
    const question = this.read();
    if (question.type === 'several parts') return [];
    if (!this.processing.together) return [question];
    return [withoutPartialCredit(question)];
  }

  private numbersOf(interaction: XmlElement): readonly NumberTest[] {
    const own = attributeOf(interaction, 'responseIdentifier');
    return this.processing.numbers.filter((n) => !this.part || n.variable === own);
  }

  private numbers(interaction: XmlElement): NumberKey[] {
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

  private pairs(interaction: XmlElement): MatchPair[] {
    const { correct, mapping } = this.declarationOf(interaction);
    const mapped = this.processing.mapped.has(attributeOf(interaction, 'responseIdentifier') ?? '');
    const keys = correct.length > 0 ? correct : mapping.filter((m) => m.value > 0).map((m) => m.key);
    return keys.map((key) => {
      const [choice = '', target = ''] = key.split(/\s+/);
      const value = mapped ? mapping.find((m) => m.key === key)?.value : undefined;
      return { choice, target, ...(value === undefined ? {} : { score: value }) };
    });
  }

  /** What is asked: the body around the interaction, and the interaction's own prompt. */
  private prompt(type: QuestionType): RichText {
    const [first] = this.interactions;
    if (type === 'cloze' && this.part) return html(blankMark(attributeOf(this.part, 'responseIdentifier') ?? ''));
    if (type === 'cloze' || type === 'several parts') return html(this.markedBody());
    const gaps = type === 'gap match' && first ? this.gapText(first) : '';
    const inner = first && kid(first, 'prompt');
    const around =
      this.body && !this.part ? this.slice(this.body, (e) => (INTERACTION.test(nameOf(e)) ? '' : null)) : '';
    return html(emptied(around) + (inner ? this.slice(inner, () => null) : '') + gaps);
  }

  private markedBody(): string {
    if (!this.body) return '';
    return this.slice(this.body, (e) =>
      INTERACTION.test(nameOf(e)) ? blankMark(attributeOf(e, 'responseIdentifier') ?? '') : null,
    );
  }

  private gapText(interaction: XmlElement): string {
    return this.slice(interaction, (e) => {
      const name = nameOf(e);
      if (name === 'gapText' || name === 'gapImg' || name === 'prompt') return '';
      return name === 'gap' ? blankMark(id(e)) : null;
    });
  }

  modal(ident: string): RichText | undefined {
    const element = kids(this.root, 'modalFeedback').find((m) => id(m) === ident);
    return element && this.rich(kid(element, 'contentBody') ?? element);
  }

  rich(element: XmlElement, without: readonly string[] = []): RichText {
    return html(this.slice(element, (e) => (without.includes(nameOf(e)) ? '' : null)));
  }

  private slice(element: XmlElement, put: (element: XmlElement) => string | null): string {
    return innerHtml(element, (e) => put(e) ?? (ASIDE.has(nameOf(e)) ? '' : null));
  }
}
