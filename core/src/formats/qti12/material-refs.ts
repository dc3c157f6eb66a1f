import { descendants, insideOf, peekAt, remade, taken, type XmlElement } from '../../markup/index.ts';

/** Material that is written once and shown in several places (ASI Information Model, `material_ref` and `matref`). */

const REFERENCES = ['material_ref', 'matref'];
const NAMED = /^(?:material|flow_mat|mattext|matemtext|matimage|mataudio|matvideo)$/;

/** The document with what it refers to in the place of the reference; itself where it refers to nothing. */
export function withMaterial(root: XmlElement): XmlElement {
  const all = descendants(root);
  if (!all.some((e) => REFERENCES.includes(e.name))) return root;
  const byName = new Map<string, XmlElement>();
  for (const e of all) {
    const name = NAMED.test(e.name) ? (peekAt(e, 'ident') ?? peekAt(e, 'label')) : undefined;
    if (name !== undefined && !byName.has(name)) byName.set(name, e);
  }
  const put = (node: XmlElement | string): XmlElement | string => {
    if (typeof node === 'string') return node;
    if (!REFERENCES.includes(node.name)) return remade(node, insideOf(node).map(put));
    const meant = byName.get(peekAt(node, 'linkrefid') ?? '');
    // What leads nowhere stays, and is told as not read; what leads on is not followed a second time.
    if (!meant || descendants(meant).some((e) => REFERENCES.includes(e.name))) return node;
    void taken(node).attrs['linkrefid'];
    // What it is called by is only used here.
    for (const name of ['ident', 'label']) void meant.attrs[name];
    return meant;
  };
  return remade(root, insideOf(root).map(put));
}
