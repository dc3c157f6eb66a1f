import { DOMImplementation, type Element } from '@xmldom/xmldom';
import { JSONPath } from 'jsonpath-plus';
import * as xpathLibrary from 'xpath';
import { parted, yamlOf } from '../archive/texts.ts';
import type { Package } from '../../container/index.ts';
import { decodeText, parseXml, type XmlElement } from '../../markup/index.ts';
import { Refusal, problem } from '../../model/index.ts';

/** What is used of the package: a path is compiled once and followed many times, which its published types leave out. */
interface Compiled {
  evaluate(seen: { node: unknown }): { toArray?(): unknown[]; b?: boolean; num?: number; stringValue(): string };
}
const xpath = xpathLibrary as unknown as { parse(path: string): Compiled };

/** A document of an archive, in which paths find things. */
export interface Doc {
  path: string;
  form: 'json' | 'xml';
  /** A value of JSON, or the document node of XML. */
  root: unknown;
  /** Of XML: the mark-up inside an element, as it stands in the file. */
  inside: (node: unknown) => string;
}

/** A thing found, and where it stands: steps that are the same for all of its like, as `$.units[*].title`. */
export interface FoundNode {
  node: unknown;
  /** Steps from the node it was sought from; null where it stands elsewhere in its document. */
  place: string | null;
}

/**
 * Reads a document by what it is: JSON, YAML, XML; a text has its head in YAML as `head` and the rest as `body`.
 * @throws Refusal those of the readers of XML and YAML; `archive-document`
 */
export async function openDocument(pkg: Package, path: string): Promise<Doc> {
  const text = decodeText(await pkg.bytes(path));
  const json = (root: unknown): Doc => ({ path, form: 'json', root, inside: () => '' });
  switch (formOf(path, text)) {
    case 'xml':
      return xmlDocument(path, text);
    case 'json':
      try {
        return json(JSON.parse(text));
      } catch (error) {
        throw new Refusal(problem('archive-document', `${path} is not well-formed JSON.`, { file: path }), {
          cause: error,
        });
      }
    case 'yaml':
      return json(yamlOf(text, path));
    case 'text':
      return json(parted(text, path));
  }
}

function formOf(path: string, text: string): 'xml' | 'json' | 'yaml' | 'text' {
  if (/\.json$/i.test(path)) return 'json';
  if (/\.ya?ml$/i.test(path)) return 'yaml';
  if (/\.xml$/i.test(path)) return 'xml';
  if (/\.(md|txt)$/i.test(path)) return 'text';
  const first = text.trimStart().charAt(0);
  return first === '<' ? 'xml' : first === '{' || first === '[' ? 'json' : 'text';
}

/** XML as a DOM without namespaces: a name in a path stands for the local name, whatever its prefix. */
function xmlDocument(path: string, text: string): Doc {
  const root = parseXml(text, path);
  const doc = new DOMImplementation().createDocument(null, '', null);
  const from = new Map<unknown, XmlElement>();
  const build = (source: XmlElement): Element => {
    const element = doc.createElement(source.name);
    from.set(element, source);
    for (const [name, value] of Object.entries(source.attrs)) element.setAttribute(name, value);
    for (const node of source.children) {
      element.appendChild(typeof node === 'string' ? doc.createTextNode(node) : build(node));
    }
    return element;
  };
  doc.appendChild(build(root));
  return {
    path,
    form: 'xml',
    root: doc,
    inside: (node) => {
      const source = from.get(node);
      return source ? text.slice(source.openEnd, source.closeStart) : '';
    },
  };
}

/** What is wrong with a path, or null. Filters of JSONPath would be run as programs: `when` does their work. */
export function pathProblem(path: string): string | null {
  if (path.startsWith('$')) {
    if (/\?\s*\(|\[\s*\(|@/.test(path)) return 'filters and scripts are not obeyed; say it with when';
    if ((path.match(/\[/g) ?? []).length !== (path.match(/\]/g) ?? []).length) return 'a bracket is not closed';
    return null;
  }
  try {
    xpath.parse(path);
    return null;
  } catch (error) {
    return `not an XPath (${error instanceof Error ? error.message.split('\n')[0] : String(error)})`;
  }
}

const parsed = new Map<string, Compiled>();

/**
 * All that a path finds, seen from a node of the document.
 * @throws Refusal `description-path` where the path is of the other kind, or can't be followed
 */
export function findAll(doc: Doc, node: unknown, path: string): FoundNode[] {
  const isJson = path.startsWith('$');
  if (isJson !== (doc.form === 'json')) {
    throw new Refusal(
      problem(
        'description-path',
        `${path} is ${isJson ? 'a JSONPath' : 'an XPath'}, and ${doc.path} is ${isJson ? 'XML' : 'none of it'}.`,
        { file: doc.path },
        isJson ? 'Write an XPath, as title or @id.' : 'Write a JSONPath, as $.title.',
      ),
    );
  }
  try {
    return isJson ? inJson(node, path) : inXml(node, path);
  } catch (error) {
    throw new Refusal(problem('description-path', `${path} can't be followed in ${doc.path}.`, { file: doc.path }), {
      cause: error,
    });
  }
}

function inJson(node: unknown, path: string): FoundNode[] {
  if (path === '$') return [{ node, place: '$' }];
  if (typeof node !== 'object' || node === null) return [];
  const found: unknown = JSONPath({ path, json: node, resultType: 'all', eval: false, wrap: true });
  return (found as { value: unknown; path: string }[]).map(({ value, path: place }) => ({
    node: value,
    place: place.replace(/\['([^']*)'\]/g, '.$1').replace(/\[\d+\]/g, '[*]'),
  }));
}

function inXml(node: unknown, path: string): FoundNode[] {
  const compiled = parsed.get(path) ?? xpath.parse(path);
  parsed.set(path, compiled);
  const result = compiled.evaluate({ node });
  if (result.toArray) return result.toArray().map((found) => ({ node: found, place: placeOf(found, node) }));
  return result.b === false ? [] : [{ node: result.b ?? result.num ?? result.stringValue(), place: null }];
}

/** Names of the elements on the way down; null for what is not below. */
function placeOf(found: unknown, from: unknown): string | null {
  const steps: string[] = [];
  for (let at = found as DomNode | null; at !== null; at = at.ownerElement ?? at.parentNode) {
    if (at === from) return steps.length === 0 ? '.' : steps.join('/');
    if (at.nodeType === 2) steps.unshift(`@${at.nodeName}`);
    else if (at.nodeType === 1) steps.unshift(at.nodeName);
    else if (at.nodeType === 3) steps.unshift('text()');
  }
  return null;
}

/** What is used of a node, of whatever making. */
interface DomNode {
  nodeType: number;
  nodeName: string;
  parentNode: DomNode | null;
  ownerElement?: DomNode | null;
  nodeValue: string | null;
  textContent: string | null;
  attributes?: ArrayLike<DomNode>;
  childNodes: ArrayLike<DomNode>;
}

/** A found thing as a plain value: a value of JSON as it is, the text of what is found in XML. */
export function plainOf(doc: Doc, node: unknown): unknown {
  if (doc.form === 'json' || typeof node !== 'object' || node === null) return node;
  const { nodeType, nodeValue, textContent } = node as DomNode;
  return nodeType === 1 || nodeType === 9 ? (textContent ?? '') : (nodeValue ?? '');
}

/** A plain value in words; a list or an object as JSON writes it, nothing as nothing. */
export function asText(value: unknown): string {
  if (typeof value === 'string') return value;
  return value === null || value === undefined ? '' : JSON.stringify(value);
}

/** Everything that a record holds: each leaf by its place, as `findAll` would give it. */
export function* leavesOf(doc: Doc, node: unknown): Generator<{ place: string; value: string }> {
  if (doc.form === 'json') yield* leavesOfJson(node, '$');
  else yield* leavesOfXml(node as DomNode, '');
}

function* leavesOfJson(node: unknown, place: string): Generator<{ place: string; value: string }> {
  if (Array.isArray(node)) for (const each of node) yield* leavesOfJson(each, `${place}[*]`);
  else if (typeof node === 'object' && node !== null) {
    for (const [key, value] of Object.entries(node)) yield* leavesOfJson(value, `${place}.${key}`);
  } else if (node !== null && node !== '') yield { place, value: asText(node) };
}

function* leavesOfXml(node: DomNode, place: string): Generator<{ place: string; value: string }> {
  const at = (name: string) => (place === '' ? name : `${place}/${name}`);
  for (const { nodeName, nodeValue } of Array.from(node.attributes ?? [])) {
    if (nodeValue) yield { place: at(`@${nodeName}`), value: nodeValue };
  }
  for (const below of Array.from(node.childNodes)) {
    if (below.nodeType === 1) yield* leavesOfXml(below, at(below.nodeName));
    else if (below.nodeType === 3 && (below.nodeValue ?? '').trim() !== '') {
      yield { place: place === '' ? '.' : place, value: (below.nodeValue ?? '').trim() };
    }
  }
}
