import type { Course, OutlineNode } from '../model/index.ts';

/** Where everything of a course stood, so that parts of it can be put together as they were. */
export interface Seam {
  outline: SeamNode[];
  items: string[];
  files: string[];
}
interface SeamNode {
  id: string;
  children: SeamNode[];
}

export function seamOf({ outline, items, files }: Course): Seam {
  const placed = (nodes: readonly OutlineNode[]): SeamNode[] =>
    nodes.map(({ id, children }) => ({ id, children: placed(children) }));
  return { outline: placed(outline), items: items.map((i) => i.id), files: files.map((f) => f.path) };
}

/**
 * Two parts of one course as one: what `leaveOutOf` parted, together again. What both have is held once; what stood under
 * an item that was left out goes back under it. What neither has stays away.
 */
export function mergeParts(first: Course, second: Course, seam: Seam): Course {
  const nodes = new Map<string, OutlineNode>();
  for (const part of [second, first]) gather(part.outline, nodes);
  const rebuilt = (places: readonly SeamNode[]): OutlineNode[] =>
    places.flatMap(({ id, children }) => {
      const node = nodes.get(id);
      const below = rebuilt(children);
      // Where an item is in neither part, what stood under it takes its place.
      return node ? [{ ...node, children: below }] : below;
    });
  const personal = first.personal ?? second.personal;
  return {
    ...first,
    outline: rebuilt(seam.outline),
    items: inOrder([...second.items, ...first.items], (i) => i.id, seam.items),
    files: inOrder([...second.files, ...first.files], (f) => f.path, seam.files),
    ...(personal ? { personal } : {}),
  };
}

function gather(nodes: readonly OutlineNode[], into: Map<string, OutlineNode>): void {
  for (const node of nodes) {
    into.set(node.id, node);
    gather(node.children, into);
  }
}

/** Each once, in the order of their names; of two that bear one name, the later. */
function inOrder<T>(all: readonly T[], nameOf: (one: T) => string, names: readonly string[]): T[] {
  const known = new Map(all.map((one) => [nameOf(one), one]));
  return names.flatMap((name) => known.get(name) ?? []);
}
