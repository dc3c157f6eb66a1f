import { escapeXml, xml } from '../../markup/index.ts';
import {
  asksForOnePoint,
  isPointing,
  mediaTypeOf,
  partsOf,
  splitAtBlanks,
  type Asked,
  type Blank,
  type HotspotImage,
  type Question,
  type QuestionOf,
  type RichText,
} from '../../model/index.ts';
import { ASKED, madeOf } from './html.ts';
import { writeDeclarations } from './write-declarations.ts';
import { choiceOutcome, repliesToChoices, writeProcessing } from './write-processing.ts';
import {
  DECLARATION,
  NAMESPACES,
  asIdentifier,
  attributeName,
  elementName,
  type Attributes,
  type QtiVersion,
} from './names.ts';

/** Writes one question as an item of QTI 2.1, 2.2 or 3.0; the reverse of `read.ts`. `html` prepares texts. */
export function writeItem(question: Question, version: QtiVersion, html: (text: RichText) => string): string {
  return DECLARATION + new ItemWriter(question, version, html).write();
}

/** Whether the words of a question stand around what is answered, or beside it, whatever they are. */
function placesItsWords({ type, asked }: Question): boolean {
  if (type === 'numeric') return asked?.range === undefined;
  return ['cloze', 'gap match', 'several parts', 'short answer', 'pattern', 'foreign'].includes(type);
}

class ItemWriter {
  private readonly q: Question;
  private readonly version: QtiVersion;
  private readonly html: (text: RichText) => string;
  /** Of what is asked by one question of several parts. */
  private readonly parts: readonly ItemWriter[];
  /** What its answer goes by. */
  private readonly response: string;
  private readonly isPart: boolean;

  constructor(question: Question, version: QtiVersion, html: (text: RichText) => string, part?: string) {
    this.q = question;
    this.version = version;
    this.html = html;
    this.isPart = part !== undefined;
    this.response = part ?? 'RESPONSE';
    const { subquestions } = partsOf(question);
    this.parts = subquestions.map((q) => new ItemWriter(q, version, html, asIdentifier(q.id)));
  }

  private el(name: string, attributes: Attributes, ...children: string[]): string {
    if (this.version !== '3.0') return xml(name, attributes, ...children);
    const named: Attributes = {};
    for (const key in attributes) named[attributeName(key, this.version)] = attributes[key];
    return xml(elementName(name, this.version), named, ...children);
  }

  write(): string {
    const { q } = this;
    return this.el(
      'assessmentItem',
      {
        xmlns: NAMESPACES[this.version],
        identifier: asIdentifier(q.id),
        title: q.title,
        adaptive: 'false',
        timeDependent: 'false',
      },
      ...writeDeclarations(q, 'RESPONSE', (name, attributes, ...children) => this.el(name, attributes, ...children)),
      this.outcome('SCORE', 'float', { normalMaximum: q.points ?? undefined }, '0'),
      q.points === null ? this.outcome('WHOLE', 'float', {}, '1') : '',
      this.outcome('FEEDBACK', 'identifier'),
      this.outcome('FEEDBACK_GENERAL', 'identifier'),
      this.outcome('FEEDBACK_CHOICE', 'identifier'),
      ...this.parts
        .filter((part) => repliesToChoices(part.q))
        .map((part) => this.outcome(part.choiceOutcome, 'identifier')),
      this.replies().length === 0 ? '' : this.outcome('FEEDBACK_ANSWER', 'identifier'),
      this.el('itemBody', {}, ...this.body(), ...this.rubrics()),
      writeProcessing(q, (name, attributes, ...children) => this.el(name, attributes, ...children)),
      ...this.modals(),
    );
  }

  private get shuffle(): string {
    return String(this.q.shuffled === true);
  }

  /** What tells which choice was made, so that what is said to it is shown. */
  private get choiceOutcome(): string {
    return choiceOutcome(this.isPart ? this.response : null);
  }

  private outcome(identifier: string, baseType: string, more: Attributes = {}, value?: string): string {
    const initial = value === undefined ? [] : [this.el('defaultValue', {}, this.el('value', {}, value))];
    return this.el('outcomeDeclaration', { identifier, cardinality: 'single', baseType, ...more }, ...initial);
  }

  private choice(
    name: string,
    c: { id: string; text: RichText; feedback?: RichText | undefined },
    more: Attributes = {},
  ): string {
    const identifier = asIdentifier(c.id);
    return this.el(
      name,
      { identifier, ...more },
      this.html(c.text),
      c.feedback ? this.reply(identifier, this.html(c.feedback)) : '',
    );
  }

  /** What is said to a choice: words among its own, or blocks below them. */
  private reply(identifier: string, text: string): string {
    const name = madeOf(text) === 'words' ? 'feedbackInline' : 'feedbackBlock';
    return this.el(name, { outcomeIdentifier: this.choiceOutcome, identifier, showHide: 'show' }, text);
  }

  /**
   * What is asked, and how it is answered. A `prompt` of QTI 2 holds a line of words (Item Information Model, `prompt`):
   * paragraphs, lists and tables stand before the interaction.
   */
  private body(): string[] {
    const { q } = this;
    const asked = this.html(q.prompt);
    const shape = this.version === '3.0' || placesItsWords(q) ? 'words' : madeOf(asked);
    if (shape !== 'words' && this.isPart) return [xml('div', { class: ASKED }, asked), ...this.interaction('')];
    if (shape !== 'words') return [shape === 'both' ? xml('div', {}, asked) : asked, ...this.interaction('')];
    return this.interaction(this.isPart && q.prompt.text === '' ? '' : this.el('prompt', {}, asked));
  }

  private interaction(prompt: string): string[] {
    const { q } = this;
    const respond = { responseIdentifier: this.response };
    const many = (list: readonly unknown[]) => Math.max(1, list.length);
    switch (q.type) {
      case 'choice':
      case 'true/false':
      case 'multiple response':
        return [
          this.el(
            'choiceInteraction',
            {
              ...respond,
              // Told by a class, since QTI has no such interaction and the words may be in any language.
              class: q.type === 'true/false' ? 'true-false' : undefined,
              shuffle: this.shuffle,
              maxChoices: q.type === 'multiple response' ? 0 : 1,
            },
            prompt,
            ...q.choices.map((c) => this.choice('simpleChoice', c)),
          ),
        ];
      case 'ordering':
        return [
          this.el(
            'orderInteraction',
            { ...respond, shuffle: this.shuffle },
            prompt,
            ...q.choices.map((c) => this.choice('simpleChoice', c)),
          ),
        ];
      case 'associate':
        return [
          this.el(
            'associateInteraction',
            { ...respond, shuffle: this.shuffle, maxAssociations: many(q.pairs) },
            prompt,
            ...q.choices.map((c) => this.choice('simpleAssociableChoice', c, { matchMax: many(q.choices) })),
          ),
        ];
      case 'matching': {
        const set = (list: readonly { id: string; text: RichText }[]) =>
          this.el(
            'simpleMatchSet',
            {},
            ...list.map((c) => this.choice('simpleAssociableChoice', c, { matchMax: many(q.choices) })),
          );
        return [
          this.el(
            'matchInteraction',
            { ...respond, shuffle: this.shuffle, maxAssociations: many(q.pairs) },
            prompt,
            set(q.choices),
            set(q.targets),
          ),
        ];
      }
      case 'gap match':
        return [
          this.el(
            'gapMatchInteraction',
            { ...respond, shuffle: this.shuffle },
            ...q.choices.map((c) => this.choice('gapText', c, { matchMax: many(q.blanks) })),
            xml(
              'div',
              {},
              this.withBlanks((id) => this.el('gap', { identifier: asIdentifier(id) })),
            ),
          ),
        ];
      case 'cloze':
        return [
          xml(
            'div',
            {},
            this.withBlanks((id) =>
              this.inline(
                q.blanks.find((b) => b.id === id),
                id,
              ),
            ),
          ),
        ];
      case 'hotspot':
        return [this.hotspot(prompt, q)];
      case 'essay':
        return [this.el('extendedTextInteraction', { ...respond, expectedLines: 10 }, prompt)];
      case 'upload':
        return [this.el('uploadInteraction', respond, prompt)];
      case 'several parts':
        return [this.partsInPlace()];
      case 'numeric':
        if (q.asked?.range) return [this.slider(prompt, q.asked.range)];
        return [xml('div', {}, this.html(q.prompt)), xml('p', {}, this.entry(30))];
      default:
        return [xml('div', {}, this.html(q.prompt)), xml('p', {}, this.entry(30))];
    }
  }

  private slider(prompt: string, { low, high, step }: NonNullable<Asked['range']>): string {
    const bounds = { lowerBound: low, upperBound: high, step };
    return this.el('sliderInteraction', { responseIdentifier: this.response, ...bounds }, prompt);
  }

  private entry(expectedLength: number): string {
    return this.el('textEntryInteraction', { responseIdentifier: this.response, expectedLength });
  }

  /** What is asked, each where its mark stands; what has none follows. */
  private partsInPlace(): string {
    const left = new Map(this.parts.map((part) => [part.q.id, part]));
    const text = this.withBlanks((id) => {
      const part = left.get(id);
      left.delete(id);
      return part ? part.inPlace() : '';
    });
    return xml('div', {}, text, ...[...left.values()].map((part) => part.inPlace()));
  }

  private inPlace(): string {
    const { q } = this;
    const inline = (id: string) =>
      this.inline(
        partsOf(q).blanks.find((b) => b.id === id),
        id,
      );
    if (q.type === 'cloze') return this.withBlanks(inline);
    if (q.asked?.range) return this.body().join('');
    const isEntry = q.type === 'short answer' || q.type === 'pattern' || q.type === 'numeric';
    return isEntry ? this.html(q.prompt) + this.entry(30) : this.body().join('');
  }

  private inline(blank: Blank | undefined, id: string): string {
    const responseIdentifier = asIdentifier(id);
    if (!blank || blank.choices.length === 0)
      return this.el('textEntryInteraction', { responseIdentifier, expectedLength: 20 });
    return this.el(
      'inlineChoiceInteraction',
      { responseIdentifier, shuffle: 'false' },
      ...blank.choices.map((c) => this.choice('inlineChoice', c)),
    );
  }

  /** Marks are words to the preparation of texts, and are exchanged when that is done. */
  private withBlanks(put: (blank: string) => string): string {
    return splitAtBlanks(this.html(this.q.prompt))
      .map((part) => ('text' in part ? part.text : put(part.blank)))
      .join('');
  }

  private hotspot(prompt: string, q: QuestionOf<'hotspot'>): string {
    const respond = { responseIdentifier: this.response };
    if (isPointing(q)) {
      const maxChoices = asksForOnePoint(q) ? 1 : 0;
      return this.el('selectPointInteraction', { ...respond, maxChoices }, prompt, this.picture(q.image));
    }
    return this.el(
      'hotspotInteraction',
      { ...respond, maxChoices: 0 },
      prompt,
      this.picture(q.image),
      ...q.areas.map((a) =>
        this.el('hotspotChoice', { identifier: asIdentifier(a.id), shape: a.shape, coords: a.coords.join(',') }),
      ),
    );
  }

  private picture(image: HotspotImage | null): string {
    const { file = '', width, height } = image ?? {};
    const shown = this.html({ format: 'html', text: `<img src="${escapeXml(file)}" alt="">` });
    const source = /src="([^"]*)"/.exec(shown)?.[1] ?? '';
    const size = `${width === undefined ? '' : ` width="${width}"`}${height === undefined ? '' : ` height="${height}"`}`;
    return this.version === '3.0'
      ? `<img src="${source}" alt=""${size}/>`
      : `<object data="${source}" type="${mediaTypeOf(file)}"${size}/>`;
  }

  private rubrics(): string[] {
    const { feedback, category } = this.q;
    const block = (use: string, view: string, content: string) =>
      this.el(
        'rubricBlock',
        { class: use, view, ...(this.version === '3.0' ? { use: 'instructions' } : {}) },
        this.version === '3.0' ? this.el('contentBody', {}, content) : content,
      );
    return [
      feedback.hint ? block('hint', 'candidate', xml('div', {}, this.html(feedback.hint))) : '',
      feedback.solution ? block('solution', 'scorer tutor', xml('div', {}, this.html(feedback.solution))) : '',
      category === undefined ? '' : block('category', 'author', xml('p', {}, escapeXml(category))),
    ];
  }

  /** What is said to single answers, choices aside; the reverse stands in `write-processing.ts`, in the same order. */
  private replies(): RichText[] {
    const { answers, numbers } = partsOf(this.q);
    const own = [...answers, ...numbers].flatMap((key) => key.feedback ?? []);
    return [...own, ...this.parts.flatMap((part) => part.replies())];
  }

  private modals(): string[] {
    const { feedback } = this.q;
    const modal = (text: RichText | undefined, outcomeIdentifier: string, identifier: string) => {
      if (!text) return '';
      const content = xml('div', {}, this.html(text));
      return this.el(
        'modalFeedback',
        { outcomeIdentifier, identifier, showHide: 'show' },
        this.version === '3.0' ? this.el('contentBody', {}, content) : content,
      );
    };
    return [
      modal(feedback.general, 'FEEDBACK_GENERAL', 'general'),
      modal(feedback.correct, 'FEEDBACK', 'correct'),
      modal(feedback.incorrect, 'FEEDBACK', 'incorrect'),
      ...this.replies().map((text, i) => modal(text, 'FEEDBACK_ANSWER', `answer-${i + 1}`)),
    ];
  }
}
