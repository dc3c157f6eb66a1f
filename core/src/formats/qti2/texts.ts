import {
  descendants,
  elements,
  escapeXml,
  fold,
  peekAt,
  taken,
  textOf,
  xml,
  type XmlElement,
} from '../../markup/index.ts';
import { blankMark, type RichText } from '../../model/index.ts';
import { ASKED, html, innerHtml } from './html.ts';
import { isAsking, isInteraction } from './interactions.ts';
import { attributeOf, id, kid, kids, nameOf } from './names.ts';

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

/** The texts of an item as they are read. */
export class ItemTexts {
  private readonly root: XmlElement;
  private readonly body: XmlElement | undefined;

  constructor(root: XmlElement, body: XmlElement | undefined) {
    this.root = root;
    this.body = body;
  }

  rich(element: XmlElement, without: readonly string[] = []): RichText {
    return html(this.slice(element, (e) => (without.includes(nameOf(e)) ? '' : null)));
  }

  inside(element: XmlElement): string {
    return this.slice(element, () => null);
  }

  /** The feedback of that identifier. */
  modal(ident: string): RichText | undefined {
    const element = kids(this.root, 'modalFeedback').find((m) => id(m) === ident);
    return element && this.rich(kid(element, 'contentBody') ?? element);
  }

  /** What is told by steps, in the body and beside its choices. */
  steps(): string {
    if (!this.body) return '';
    return descendants(this.body)
      .filter((e) => /^feedback(Block|Inline)$/.test(nameOf(e)) && !descendants(e).some(isAsking))
      .map((e) => xml('div', {}, this.inside(e)))
      .join('');
  }

  /** The body without what is answered in it. */
  around(): string {
    if (!this.body) return '';
    return this.slice(this.body, (e) => (isAsking(e) || nameOf(e) === 'positionObjectStage' ? '' : null));
  }

  /** What a part of a question asks before its interaction. */
  askedBefore(interaction: XmlElement): string {
    for (const parent of this.body ? [this.body, ...descendants(this.body)] : []) {
      const inside = elements(parent);
      const before = inside[inside.indexOf(interaction) - 1];
      if (before && isAsked(before)) return this.inside(taken(before));
    }
    return '';
  }

  /** The body with a mark where each answer goes. */
  marked(): string {
    if (!this.body) return '';
    return this.slice(this.body, (e) => {
      if (isAsked(e)) return '';
      if (isAsking(e)) return blankMark(attributeOf(e, 'responseIdentifier') ?? '');
      if (nameOf(e) !== 'positionObjectStage') return null;
      return descendants(e)
        .filter(isAsking)
        .map((i) => blankMark(attributeOf(i, 'responseIdentifier') ?? ''))
        .join('');
    });
  }

  /** The text that gaps stand in, each as its mark. */
  gapped(interaction: XmlElement): string {
    return this.slice(interaction, (e) => {
      const name = nameOf(e);
      if (name === 'gapText' || name === 'gapImg' || name === 'prompt') return '';
      return name === 'gap' ? blankMark(id(e)) : null;
    });
  }

  /** The text in which words are picked, as it reads. */
  withHotWords(interaction: XmlElement): string {
    return this.slice(interaction, (e) => {
      const name = nameOf(e);
      if (name === 'prompt') return '';
      return name === 'hottext' ? this.inside(e) : null;
    });
  }

  private slice(element: XmlElement, put: (element: XmlElement) => string | null): string {
    return innerHtml(element, (e) => {
      const instead = put(e) ?? pictureIn(e);
      if (instead !== null) return instead;
      const name = nameOf(e);
      // What is watched is shown; what ends a try is not.
      if (isInteraction(e) && !isAsking(e)) return name === 'mediaInteraction' ? this.media(e) : '';
      if (!ASIDE.has(name)) return null;
      // What is asked in a later step is asked all the same.
      return descendants(e).some(isAsking) ? this.slice(e, put) : '';
    });
  }

  private media(interaction: XmlElement): string {
    return this.slice(interaction, (e) => {
      const [type] = nameOf(e) === 'object' ? (/^(?:video|audio)(?=\/)/.exec(peekAt(e, 'type') ?? '') ?? []) : [];
      return type === undefined ? null : `<${type} controls=""${attributesOf(e)}>${wordsIn(e)}</${type}>`;
    });
  }
}

function isAsked(element: XmlElement): boolean {
  if (nameOf(element) !== 'div' || peekAt(element, 'class') !== ASKED) return false;
  void attributeOf(element, 'class');
  return true;
}

/** A picture that is written as an `object`, as HTML's own element for it; what else is written so is left as it is. */
function pictureIn(element: XmlElement): string | null {
  if (nameOf(element) !== 'object' || !/^image\//.test(peekAt(element, 'type') ?? '')) return null;
  return `<img alt="${wordsIn(element)}"${attributesOf(element)}>`;
}

const wordsIn = (element: XmlElement) => escapeXml(fold(textOf(element)));

function attributesOf(element: XmlElement): string {
  // HTML tells by the file what the source tells by its type.
  void attributeOf(element, 'type');
  return ['data', 'width', 'height', 'id', 'class']
    .flatMap((name) => {
      const value = attributeOf(element, name);
      return value === undefined ? [] : [` ${name === 'data' ? 'src' : name}="${escapeXml(value)}"`];
    })
    .join('');
}
