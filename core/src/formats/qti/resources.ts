import { descendants, elements, is, named, type XmlElement } from '../../markup/index.ts';
import type { OutlineNode } from '../../model/index.ts';

/** Which resources of a manifest hold questions, and where an outline leads to them. */

/** The version of QTI that the resources of a manifest are of, or `null` if none is. */
export function qtiVersionOf(root: XmlElement): string | null {
  const types = named(root, 'resource').map((e) => e.attrs['type'] ?? '');
  const [first] = types.flatMap((t) => /^imsqti_\w*?xmlv(\d)p(\d)/.exec(t)?.slice(1, 3).join('.') ?? []);
  return first === '1.1' ? '1.2' : (first ?? null);
}

/** Whether a package is one of questions: its outline, if it has one, leads to nothing else. */
export function isOfQuestions(root: XmlElement): boolean {
  const types = new Map(
    descendants(root).flatMap((e): [string, string][] =>
      is(e, 'resource') ? [[e.attrs['identifier'] ?? '', e.attrs['type'] ?? '']] : [],
    ),
  );
  const entries = elements(root, 'organizations').flatMap(descendants);
  return entries.every((e) => {
    const ref = is(e, 'item') ? e.attrs['identifierref'] : undefined;
    return ref === undefined || isQti(types.get(ref) ?? '');
  });
}

/** Whether a resource of that type holds questions. */
export function isQti(type: string): boolean {
  return type.startsWith('imsqti_');
}

/** An outline that leads to items where it led to the resources that they were read from. */
export function leading(nodes: readonly OutlineNode[], itemOf: ReadonlyMap<string, string>): OutlineNode[] {
  return nodes.map((node) => {
    const item = node.item === undefined ? undefined : (itemOf.get(node.item) ?? node.item);
    const children = node.children.length === 0 ? node.children : leading(node.children, itemOf);
    return item === undefined ? { ...node, children } : { ...node, item, children };
  });
}

/** An identifier that none of these has. */
export function freeId(wanted: string, others: readonly { id: string }[]): string {
  const taken = new Set(others.map((one) => one.id));
  let id = wanted;
  for (let n = 2; taken.has(id); n++) id = `${wanted}-${n}`;
  return id;
}
