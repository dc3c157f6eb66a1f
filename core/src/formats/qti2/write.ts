import { escapeXml, toXhtml, xml } from '../../markup/index.ts';
import type { Blank, Question, QuestionOf, RichText } from '../../model/index.ts';
import { partsOf, splitAtBlanks } from '../../model/index.ts';
import { writeProcessing } from './write-processing.ts';
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

class ItemWriter {
  private readonly q: Question;
  private readonly version: QtiVersion;
  private readonly html: (text: RichText) => string;

  constructor(question: Question, version: QtiVersion, html: (text: RichText) => string) {
    this.q = question;
    this.version = version;
    this.html = html;
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
      ...this.declarations(),
      this.outcome('SCORE', 'float', { normalMaximum: q.points ?? undefined }, '0'),
      q.points === null ? this.outcome('WHOLE', 'float', {}, '1') : '',
      this.outcome('FEEDBACK', 'identifier'),
      this.outcome('FEEDBACK_GENERAL', 'identifier'),
      this.outcome('FEEDBACK_CHOICE', 'identifier'),
      this.replies().length === 0 ? '' : this.outcome('FEEDBACK_ANSWER', 'identifier'),
      this.el('itemBody', {}, ...this.body(), ...this.rubrics()),
      writeProcessing(this.q, (name, attributes, ...children) => this.el(name, attributes, ...children)),
      ...this.modals(),
    );
  }

  private get shuffle(): string {
    return String(this.q.shuffled === true);
  }

  private outcome(identifier: string, baseType: string, more: Attributes = {}, value?: string): string {
    const initial = value === undefined ? [] : [this.el('defaultValue', {}, this.el('value', {}, value))];
    return this.el('outcomeDeclaration', { identifier, cardinality: 'single', baseType, ...more }, ...initial);
  }

  private declaration(
    identifier: string,
    cardinality: string,
    baseType: string,
    correct: readonly string[],
    mapping: readonly { key: string; value: number }[] = [],
  ): string {
    const { others = 0, least, most } = this.q.scoring ?? {};
    return this.el(
      'responseDeclaration',
      { identifier, cardinality, baseType },
      correct.length === 0
        ? ''
        : this.el('correctResponse', {}, ...correct.map((c) => this.el('value', {}, escapeXml(c)))),
      mapping.length === 0
        ? ''
        : this.el(
            'mapping',
            { lowerBound: least, upperBound: most, defaultValue: others },
            ...mapping.map((m) => this.el('mapEntry', { mapKey: m.key, mappedValue: m.value })),
          ),
    );
  }

  private declarations(): string[] {
    const { q } = this;
    const pairs = partsOf(q).pairs.map((p) => ({
      key: `${asIdentifier(p.choice)} ${asIdentifier(p.target)}`,
      score: p.score,
    }));
    const scored = (list: readonly { id: string; score?: number | undefined }[]) =>
      list.flatMap((c) => (c.score === undefined ? [] : [{ key: asIdentifier(c.id), value: c.score }]));
    const right = (list: readonly { id: string; correct: boolean }[]) =>
      list.filter((c) => c.correct).map((c) => asIdentifier(c.id));
    switch (q.type) {
      case 'choice':
      case 'true/false':
        return [this.declaration('RESPONSE', 'single', 'identifier', right(q.choices), scored(q.choices))];
      case 'multiple response':
        return [this.declaration('RESPONSE', 'multiple', 'identifier', right(q.choices), scored(q.choices))];
      case 'hotspot':
        return [this.declaration('RESPONSE', 'multiple', 'identifier', right(q.areas), scored(q.areas))];
      case 'ordering':
        return [this.declaration('RESPONSE', 'ordered', 'identifier', q.order.map(asIdentifier))];
      case 'matching':
      case 'associate':
      case 'gap match': {
        const mapping = pairs.flatMap((p) => (p.score === undefined ? [] : [{ key: p.key, value: p.score }]));
        const baseType = q.type === 'associate' ? 'pair' : 'directedPair';
        return [
          this.declaration(
            'RESPONSE',
            'multiple',
            baseType,
            pairs.map((p) => p.key),
            mapping,
          ),
        ];
      }
      case 'cloze':
        return q.blanks.map((b) =>
          b.choices.length > 0
            ? this.declaration(asIdentifier(b.id), 'single', 'identifier', right(b.choices), scored(b.choices))
            : this.declaration(
                asIdentifier(b.id),
                'single',
                'string',
                b.answers.slice(0, 1).map((a) => a.text),
              ),
        );
      case 'numeric':
        return [
          this.declaration(
            'RESPONSE',
            'single',
            'float',
            q.numbers.slice(0, 1).map((n) => String(n.value)),
          ),
        ];
      case 'upload':
        return [this.declaration('RESPONSE', 'single', 'file', [])];
      default:
        return [
          this.declaration(
            'RESPONSE',
            'single',
            'string',
            partsOf(q)
              .answers.slice(0, 1)
              .map((a) => a.text),
          ),
        ];
    }
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
      c.feedback
        ? this.el(
            'feedbackInline',
            { outcomeIdentifier: 'FEEDBACK_CHOICE', identifier, showHide: 'show' },
            this.html(c.feedback),
          )
        : '',
    );
  }

  private body(): string[] {
    const { q } = this;
    const prompt = this.el('prompt', {}, this.html(q.prompt));
    const respond = { responseIdentifier: 'RESPONSE' };
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
      default:
        return [
          xml('div', {}, this.html(q.prompt)),
          xml('p', {}, this.el('textEntryInteraction', { ...respond, expectedLength: 30 })),
        ];
    }
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

  private hotspot(prompt: string, { image, areas }: QuestionOf<'hotspot'>): string {
    const size = { width: image?.width, height: image?.height };
    const picture = this.html({ format: 'html', text: `<img src="${escapeXml(image?.file ?? '')}" alt="">` });
    const source = /src="([^"]*)"/.exec(picture)?.[1] ?? '';
    return this.el(
      'hotspotInteraction',
      { responseIdentifier: 'RESPONSE', maxChoices: 0 },
      prompt,
      this.version === '3.0'
        ? `<img src="${source}" alt=""${size.width ? ` width="${size.width}"` : ''}${size.height ? ` height="${size.height}"` : ''}/>`
        : `<object data="${source}" type="image/*"${size.width ? ` width="${size.width}"` : ''}${size.height ? ` height="${size.height}"` : ''}/>`,
      ...areas.map((a) =>
        this.el('hotspotChoice', { identifier: asIdentifier(a.id), shape: a.shape, coords: a.coords.join(',') }),
      ),
    );
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
    return [...answers, ...numbers].flatMap((key) => key.feedback ?? []);
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

/** A text as XHTML, its references rewritten. */
export function xhtmlWith(rewrite: (html: string) => string): (text: RichText) => string {
  return (text) => (text.format === 'html' ? toXhtml(rewrite(text.text)) : escapeXml(text.text));
}
