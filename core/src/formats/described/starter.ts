import { stringify } from 'yaml';
import type { Package } from '../../container/index.ts';
import { Refusal } from '../../model/index.ts';
import type { OpenArchive } from './try-out.ts';
import { findAll, leavesOf, openDocument, plainOf, type Doc } from './documents.ts';

/** A description to begin with: what can be guessed of an archive from its documents, to be mended by a person. */
export async function starter({ pkg, document }: OpenArchive, name: string): Promise<string> {
  const root = await rootOf(pkg);
  const title = name.replace(/\.[^.]*$/, '').trim() || 'Archive';
  const id = title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '')
    .slice(0, 40);
  const head = { description: 1, id: id.length > 1 ? id : 'archive', name: title.slice(0, 80), version: '1' };
  if (!root) return stringify({ ...head, fits: { file: '*' }, course: { find: { in: '*' }, title: { is: title } } });
  const isJson = root.form === 'json';
  const node = isJson ? root.root : findAll(root, root.root, '/*')[0]?.node;
  return stringify(
    {
      ...head,
      fits: { file: root.path },
      ...(document ? { container: document } : {}),
      course: { find: { in: root.path, at: isJson ? '$' : '/*' }, title: titleOf(root, node) ?? { is: title } },
      outline: await rulesOf(pkg, root, node, 0),
    },
    { lineWidth: 0 },
  );
}

/** The document nearest to the archive's root; of several, the one that is largest. */
async function rootOf(pkg: Package): Promise<Doc | null> {
  const depth = (path: string) => path.split('/').length;
  const candidates = [...pkg.entries.values()]
    .filter((e) => /\.(json|ya?ml|xml)$/i.test(e.path))
    .sort((a, b) => depth(a.path) - depth(b.path) || b.size - a.size);
  for (const { path } of candidates.slice(0, 20)) {
    try {
      return await openDocument(pkg, path);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
    }
  }
  return null;
}

const TITLES = /(^|[.@/])(title|name|heading|label|caption|subject)$/i;
const KEYS = /(^|[.@/])(id|key|ref|no|number|uuid|guid)$/i;

/** Places of a record itself, not of those in it. */
function ownPlaces(doc: Doc, node: unknown): { place: string; value: string }[] {
  return [...leavesOf(doc, node)].filter(({ place }) =>
    doc.form === 'json' ? /^\$\.[^.[]+$/.test(place) : /^@?[^/]+$/.test(place),
  );
}

function titleOf(doc: Doc, node: unknown): string | undefined {
  const own = ownPlaces(doc, node);
  // Failing a name that says so, the first thing that reads like one.
  const likely = own.filter(({ place, value }) => !KEYS.test(place) && /\p{L}{2}/u.test(value) && value.length < 120);
  return (
    own.find(({ place }) => TITLES.test(place)) ??
    likely.find(({ place }) => !place.startsWith('@')) ??
    likely[0]
  )?.place;
}

/** Rules for what stands there several times: folders where there is more inside, pages where a text is. */
async function rulesOf(pkg: Package, doc: Doc, node: unknown, depth: number): Promise<object[]> {
  const rules: object[] = [];
  if (depth > 4) return rules;
  for (const at of repeated(doc, node)) {
    const [first] = findAll(doc, node, at);
    if (!first) continue;
    const plain = plainOf(doc, first.node);
    const pointed = typeof plain === 'string' && pkg.entries.has(plain) ? await opened(pkg, plain) : null;
    const there = pointed ?? doc;
    const record = pointed ? pointed.root : first.node;
    const own = ownPlaces(there, record);
    const title = titleOf(there, record);
    if (title === undefined) continue;
    const inside = await rulesOf(pkg, there, record, depth + 1);
    const text = own.filter((o) => o.place !== title).sort((a, b) => b.value.length - a.value.length)[0];
    const key = own.find(({ place }) => KEYS.test(place))?.place;
    rules.push({
      find: pointed ? { at, follow: true } : { at },
      kind: inside.length > 0 ? 'folder' : 'page',
      id: key ?? title,
      title,
      ...(inside.length > 0 ? { inside } : text ? { text: text.place } : {}),
    });
  }
  return rules;
}

async function opened(pkg: Package, path: string): Promise<Doc | null> {
  try {
    const doc = await openDocument(pkg, path);
    return doc.form === 'json' && typeof doc.root === 'object' ? doc : null;
  } catch (error) {
    if (error instanceof Refusal) return null;
    throw error;
  }
}

/** Paths of lists in a value of JSON, of elements in XML. */
function repeated(doc: Doc, node: unknown): string[] {
  if (doc.form === 'json') {
    if (typeof node !== 'object' || node === null || Array.isArray(node)) return [];
    return Object.entries(node)
      .filter(([, v]) => Array.isArray(v) && v.length > 0)
      .map(([key]) => `$.${key}[*]`);
  }
  const names = findAll(doc, node, '*').map(({ place }) => place ?? '');
  return [...new Set(names)].filter((name) => name !== '' && findAll(doc, node, `${name}/@*|${name}/*`).length > 0);
}
