import { SaxesParser, type SaxesTagNS } from 'saxes';
import { DEFAULT_LIMITS } from '../container/limits.ts';
import { Refusal, problem } from '../model/index.ts';
import { CountedElement, NO_ATTRIBUTES, type XmlElement } from './xml-tree.ts';

/** Attributes that say how a file is to be checked, and nothing of what is in it (XML Schema 1.0, 2.6). */
const SCHEMA_INSTANCE = 'http://www.w3.org/2001/XMLSchema-instance';

/** A long text given at once has the parser's loop compiled before its end was seen, and then anew for every text. */
const PIECE = 4096;

/**
 * Parses XML into a small tree. No DTD is obeyed and no entity but the five of XML itself is known.
 * @throws Refusal `xml-entities` where entities are declared, `xml-depth`, `xml-malformed` with the line
 */
export function parseXml(text: string, file: string, depthLimit = DEFAULT_LIMITS.xmlDepth): XmlElement {
  const parser = new SaxesParser({ xmlns: true, position: true, fileName: file });
  let root: XmlElement | null = null;
  const stack: CountedElement[] = [];
  parser.on('doctype', (doctype) => {
    if (/<!ENTITY/i.test(doctype)) {
      throw new Refusal(
        problem('xml-entities', `${file} declares entities of its own, which can make a small file grow without end.`, {
          file,
          line: parser.line,
        }),
      );
    }
  });
  parser.on('error', (error) => {
    throw new Refusal(
      problem(
        'xml-malformed',
        `${file} is not well-formed XML at line ${parser.line}: ${error.message.replace(/^[^ ]*:\d+:\d+: /, '')}`,
        { file, line: parser.line },
      ),
      { cause: error },
    );
  });
  parser.on('opentag', (tag: SaxesTagNS) => {
    if (stack.length >= depthLimit) {
      throw new Refusal(
        problem('xml-depth', `${file} nests deeper than ${depthLimit} elements.`, {
          file,
          line: parser.line,
        }),
      );
    }
    let attrs: Record<string, string> | null = null;
    for (const name in tag.attributes) {
      const attribute = tag.attributes[name];
      // A declared prefix is no attribute, and must not stand in for one of its name.
      if (!attribute || attribute.prefix === 'xmlns' || attribute.name === 'xmlns') continue;
      if (attribute.uri === SCHEMA_INSTANCE) continue;
      attrs ??= {};
      attrs[Object.hasOwn(attrs, attribute.local) ? name : attribute.local] = attribute.value;
    }
    const openEnd = parser.position;
    // A raw `<` can't stand inside a tag, so the nearest one before its end opens it.
    const start = text.lastIndexOf('<', openEnd - 1);
    const element = new CountedElement(tag.local, tag.uri, attrs ?? NO_ATTRIBUTES, parser.line, [start, openEnd]);
    const parent = stack.at(-1);
    if (parent) parent.add(element);
    else root = element;
    stack.push(element);
  });
  const addText = (part: string) => {
    const parent = stack.at(-1);
    if (!parent) return;
    const last = parent.inner.length - 1;
    const before = parent.inner[last];
    if (typeof before === 'string') parent.inner[last] = before + part;
    else parent.add(part);
  };
  parser.on('text', addText);
  parser.on('cdata', addText);
  parser.on('closetag', (tag) => {
    const element = stack.pop();
    if (!element) return;
    element.end = parser.position;
    element.closeStart = tag.isSelfClosing ? element.openEnd : text.lastIndexOf('<', element.end - 1);
  });
  for (let at = 0; at < text.length; at += PIECE) parser.write(text.slice(at, at + PIECE));
  parser.close();
  if (!root) {
    throw new Refusal(problem('xml-malformed', `${file} is empty.`, { file, line: 1 }, 'Export the course again.'));
  }
  return root;
}

/** Comments, marked sections and instructions, in which nothing is a tag (XML 1.0, 2.5 to 2.7). */
const SILENT = /<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\?[^]*?\?>/g;
/** An open tag, which may hold a `>` in a value. */
const OPEN_TAG = /<[^!?/\s](?:[^"'>]|"[^"]*"|'[^']*')*>/y;

/**
 * The open tags that hold what is looked for (a global expression), in order, of a text that is known to be well-formed:
 * a small part of the work of parsing it.
 */
export function* openTagsWith(text: string, wanted: RegExp): Generator<{ start: number; tag: string }> {
  const silent = text.matchAll(SILENT);
  let quiet = silent.next().value;
  let start = -1;
  let end = 0;
  for (const { index } of text.matchAll(wanted)) {
    if (index < end) continue;
    for (; quiet && quiet.index + quiet[0].length <= index; quiet = silent.next().value) {
      end = Math.max(end, quiet.index + quiet[0].length);
    }
    if (quiet && quiet.index <= index) continue;
    for (let next = text.indexOf('<', start + 1); next >= 0 && next <= index; next = text.indexOf('<', next + 1)) {
      start = next;
    }
    if (start < end) continue;
    OPEN_TAG.lastIndex = start;
    const tag = OPEN_TAG.exec(text)?.[0];
    if (tag === undefined || start + tag.length <= index) continue;
    end = start + tag.length;
    yield { start, tag };
  }
}
