import { descendants, fold, textOf, type XmlElement } from '../../markup/index.ts';
import {
  blankMark,
  hasPartialCredit,
  limitsOf,
  partsOf,
  questionOf,
  type Choice,
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
import { emptied, html } from './html.ts';
import { ItemKeys } from './keys.ts';
import { ItemTexts } from './texts.ts';
import { hotspotOf } from './hotspot.ts';
import { TYPES, askedBy, interactionsIn } from './interactions.ts';
import { numbered, pictureOf, placesOf } from './places.ts';
import { pointsOf, worth } from './points.ts';
import { readProcessing, type Processing } from './processing.ts';

/** Questions of QTI 2.1, 2.2 and 3.0 (Assessment, Section and Item Information Model). */

export type Resolve = (reference: string) => string | null;

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
  private readonly texts: ItemTexts;
  private readonly keys: ItemKeys;
  private readonly isReadable: boolean;
  private readonly isMadeAnew: boolean;

  /**
   * @param instance the item with the values that its template made; `null` where they can't be made
   * @param part the interaction of one part of a question that has several
   */
  constructor(item: XmlElement, resolve: Resolve, instance: XmlElement | null = item, part?: XmlElement) {
    const root = instance ?? item;
    this.root = root;
    this.isReadable = instance !== null;
    this.isMadeAnew = instance !== item;
    this.resolve = resolve;
    for (const d of kids(root, 'responseDeclaration')) this.declarations.set(id(d), readDeclaration(d));
    this.body = kid(root, 'itemBody');
    this.part = part;
    this.interactions = part ? [part] : interactionsIn(this.body);
    this.processing = readProcessing(kid(root, 'responseProcessing'), [...this.declarations.keys()]);
    this.texts = new ItemTexts(root, this.body);
    const { declarations, processing, texts } = this;
    const own = (part && attributeOf(part, 'responseIdentifier')) ?? '';
    const isOnly = this.interactions.length === 1;
    const scored = { root, declarations, processing, single: isOnly };
    if (!part) this.points = pointsOf(scored);
    else this.points = processing.together ? null : (worth(own, declarations.get(own) ?? UNDECLARED, scored) ?? null);
    const { points } = this;
    this.keys = new ItemKeys({ declarations, processing, points, texts, isOnly, isWhole: !part });
  }

  read(): Question {
    const type = this.typeOf();
    const parts = this.parts(type);
    const prompt = this.prompt(type);
    const isAdaptive = !this.part && attributeOf(this.root, 'adaptive') === 'true';
    const feedback = this.part ? {} : feedbackOf(this.body, this.processing.feedback, this.texts);
    if (isAdaptive && this.texts.steps() !== '') feedback.hint ??= html(this.texts.steps());
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
    const asked =
      type === 'foreign' ? undefined : askedBy(this.interactions, { isMadeAnew: this.isMadeAnew, isAdaptive });
    const shuffled = this.interactions.some((i) => attributeOf(i, 'shuffle') === 'true');
    const question = questionOf(
      type,
      { ...common, ...(shuffled ? { shuffled } : {}), ...(asked ? { asked } : {}) },
      parts,
    );
    const scoring = this.scoring(question);
    return scoring ? { ...question, scoring } : question;
  }

  /** What the points of parts come to, of a question whose only response is mapped. */
  private scoring(question: Question): Scoring | undefined {
    const [interaction, ...more] = this.interactions;
    if (!interaction || more.length > 0 || !hasPartialCredit(question)) return undefined;
    const { limits, cardinality } = this.keys.declarationOf(interaction);
    if (!this.processing.mapped.has(attributeOf(interaction, 'responseIdentifier') ?? '')) return undefined;
    const { choices, pairs, areas } = partsOf(question);
    const scores = [...choices, ...pairs, ...areas].flatMap((part) => part.score ?? []);
    return limitsOf(scores, cardinality === 'single', limits);
  }

  private typeOf(): QuestionType {
    const [first, ...more] = this.interactions;
    if (!first || !this.isReadable) return 'foreign';
    const names = this.interactions.map(nameOf);
    const inline = (name: string) => name === 'textEntryInteraction' || name === 'inlineChoiceInteraction';
    if (more.length > 0) {
      if (names.every(inline)) return 'cloze';
      return this.interactions.some((i) => this.ofPart(i).typeOf() === 'foreign') ? 'foreign' : 'several parts';
    }
    if (names[0] === 'choiceInteraction' || names[0] === 'hottextInteraction') return this.choosingType(first);
    if (names[0] === 'textEntryInteraction') return this.textEntryType(first);
    return TYPES[names[0] ?? ''] ?? 'foreign';
  }

  private choosingType(interaction: XmlElement): QuestionType {
    if (this.keys.declarationOf(interaction).cardinality === 'multiple') return 'multiple response';
    if (/\btrue-false\b/.test(attributeOf(interaction, 'class') ?? '')) return 'true/false';
    const words = kids(interaction, 'simpleChoice').map((c) => fold(textOf(c)).toLowerCase());
    return [...words].sort().join() === 'false,true' ? 'true/false' : 'choice';
  }

  private ofPart(interaction: XmlElement): ItemReader {
    return new ItemReader(this.root, this.resolve, this.root, interaction);
  }

  private textEntryType(interaction: XmlElement): QuestionType {
    const { baseType } = this.keys.declarationOf(interaction);
    if (baseType === 'float' || baseType === 'integer' || this.keys.numbersOf(interaction).length > 0) return 'numeric';
    const response = attributeOf(interaction, 'responseIdentifier');
    const words = this.processing.strings.filter((s) => s.variable === response);
    if (this.part) return words.some((s) => s.match === 'substring') ? 'pattern' : 'short answer';
    // A gap that text follows is a gap; one that ends the question is where the answer goes.
    const marked = this.texts.marked();
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
        return { choices: this.keys.choices(first, choicesIn(first)) };
      case 'short answer':
      case 'pattern':
        return { answers: this.keys.answers(first) };
      case 'cloze':
        return { blanks: this.interactions.map((i) => this.keys.blank(i)) };
      case 'numeric':
        return { numbers: this.keys.numbers(first) };
      case 'several parts':
        return { subquestions: this.interactions.flatMap((i) => this.ofPart(i).asPart()) };
      case 'ordering':
        return {
          choices: isNamed(first, 'graphicOrderInteraction')
            ? places(first, 'hotspotChoice')
            : this.bare(kids(first, 'simpleChoice')),
          order: this.keys.declarationOf(first).correct,
        };
      case 'associate':
        return {
          choices: isNamed(first, 'graphicAssociateInteraction')
            ? places(first, 'associableHotspot')
            : this.bare(kids(first, 'simpleAssociableChoice')),
          pairs: this.keys.pairs(first),
        };
      case 'matching': {
        if (isNamed(first, 'graphicGapMatchInteraction')) {
          return {
            choices: this.bare(kids(first).filter((e) => isNamed(e, 'gapImg', 'gapText'))),
            targets: placesOf(first, 'associableHotspot').map(({ id: own, text }) => ({ id: own, text })),
            pairs: this.keys.pairs(first),
          };
        }
        const [sources, targets] = kids(first, 'simpleMatchSet');
        return {
          choices: this.bare(kids(sources, 'simpleAssociableChoice')),
          targets: kids(targets, 'simpleAssociableChoice').map((t) => ({ id: id(t), text: this.texts.rich(t) })),
          pairs: this.keys.pairs(first),
        };
      }
      case 'gap match':
        return {
          choices: this.bare([...kids(first, 'gapText'), ...kids(first, 'gapImg')]),
          blanks: descendants(first)
            .filter((e) => isNamed(e, 'gap'))
            .map((g) => ({ id: id(g), answers: [], choices: [] })),
          pairs: this.keys.pairs(first),
        };
      case 'hotspot':
        return hotspotOf(first, this.keys.declarationOf(first), {
          resolve: this.resolve,
          isMapped: this.processing.mapped.has(attributeOf(first, 'responseIdentifier') ?? ''),
          stage: this.stageOf(first),
          share: (value) => this.keys.share(value),
        });
      default:
        return {};
    }
  }

  private bare(list: readonly XmlElement[]): Choice[] {
    return list.map((element) => ({ id: id(element), text: this.texts.rich(element), correct: false }));
  }

  /** A part that asks one thing; of points that are given for all of them together it has none. */
  private asPart(): SimpleQuestion[] {
    const question = this.read();
    if (question.type === 'several parts') return [];
    if (!this.processing.together) return [question];
    return [withoutPartialCredit(question)];
  }

  /** What is asked: the body around the interaction, the interaction's own prompt, and what it shows beside its choices. */
  private prompt(type: QuestionType): RichText {
    const [first] = this.interactions;
    if (type === 'cloze' && this.part) return html(blankMark(attributeOf(this.part, 'responseIdentifier') ?? ''));
    if (type === 'cloze' || type === 'several parts') return html(this.texts.marked());
    const inner = first && kid(first, 'prompt');
    const around = this.part ? this.texts.askedBefore(this.part) : emptied(this.texts.around());
    return html(around + (inner ? this.texts.inside(inner) : '') + (first ? this.shown(first) : ''));
  }

  /** What an interaction shows beside its prompt and its choices. */
  private shown(interaction: XmlElement): string {
    switch (nameOf(interaction)) {
      case 'gapMatchInteraction':
        return this.texts.gapped(interaction);
      case 'hottextInteraction':
        return this.texts.withHotWords(interaction);
      case 'graphicOrderInteraction':
        return numbered(pictureOf(interaction), placesOf(interaction, 'hotspotChoice'));
      case 'graphicGapMatchInteraction':
      case 'graphicAssociateInteraction':
        return numbered(pictureOf(interaction), placesOf(interaction, 'associableHotspot'));
      case 'drawingInteraction':
        return numbered(pictureOf(interaction), []);
      case 'positionObjectInteraction':
        // What is to be put on the picture.
        return numbered(pictureOf(interaction), []);
      default:
        return '';
    }
  }

  /** The stage that an object is put on. */
  private stageOf(interaction: XmlElement): XmlElement | undefined {
    if (!isNamed(interaction, 'positionObjectInteraction') || !this.body) return undefined;
    return descendants(this.body).find(
      (e) => isNamed(e, 'positionObjectStage') && descendants(e).includes(interaction),
    );
  }
}

/** What can be chosen: the choices of a list, or words in a text. */
function choicesIn(interaction: XmlElement): XmlElement[] {
  if (!isNamed(interaction, 'hottextInteraction')) return kids(interaction, 'simpleChoice');
  return descendants(interaction).filter((e) => isNamed(e, 'hottext'));
}

/** Places on a picture as what can be chosen. */
function places(interaction: XmlElement, name: string): Choice[] {
  return placesOf(interaction, name).map(({ id: own, text }) => ({ id: own, text, correct: false }));
}
