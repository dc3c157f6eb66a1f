import { leaves, type QAsk, type QCourse, type QNode } from './model.ts';

/** A course cut down to what an export was asked for. The standard form has no people anyway. */
export function chosen(course: QCourse, ask: QAsk): QCourse {
  const parts = ask.parts === null ? null : new Set(ask.parts);
  const cut = (nodes: readonly QNode[]): QNode[] =>
    nodes.flatMap((node): QNode[] => {
      if (!parts || parts.has(node.ref)) return [node];
      if (node.kind !== 'folder') return [];
      const inside = cut(node.inside);
      return inside.length > 0 ? [{ ...node, inside }] : [];
    });
  const nodes = cut(course.nodes);
  const left = new Set(refsOf(nodes));
  const stays = (item: string | null) => parts === null || item === null || left.has(item);
  const { rich } = course;
  return {
    ...course,
    nodes,
    banks: parts === null ? course.banks : course.banks.filter((b) => parts.has(b.ref)),
    rich: {
      ...rich,
      rules: rich.rules.filter((r) => stays(r.item)),
      automations: rich.automations.filter((a) => stays(a.item)),
      people: ask.people ? rich.people : [],
      work: ask.people ? rich.work.filter((w) => stays(w.item)) : [],
      linked: ask.linked === 'copy' ? {} : rich.linked,
    },
  };
}

function refsOf(nodes: readonly QNode[]): string[] {
  return nodes.flatMap((node) => [node.ref, ...(node.kind === 'folder' ? refsOf(node.inside) : [])]);
}

/** Files that go into an export: none of the class lists unless people are asked for, none that is only linked. */
export function filesFor(files: readonly string[], course: QCourse, ask: QAsk): string[] {
  const linked = new Set(ask.linked === 'leave' ? Object.keys(course.rich.linked) : []);
  const used = ask.parts === null ? null : usedBy(course);
  return files.filter((path) => {
    if (linked.has(path)) return false;
    if (!ask.people && path.startsWith('people/')) return false;
    return used === null || used.has(path) || /^content\/(style|pictures)\//.test(path);
  });
}

function usedBy(course: QCourse): Set<string> {
  const used = new Set<string>();
  for (const leaf of leaves(course.nodes)) {
    if (leaf.kind === 'page' || leaf.kind === 'file') used.add(leaf.path);
    if (leaf.kind === 'talk' || leaf.kind === 'task') leaf.attached.forEach((path) => used.add(path));
    if (leaf.kind === 'words') leaf.words.forEach((w) => w.pictures.forEach((path) => used.add(path)));
  }
  return used;
}
