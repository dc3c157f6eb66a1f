import type { Course, OutlineNode } from '../model/index.ts';
import { changedSince } from './since.ts';

/** What was sent beside something, held apart from what it stands beside. */
export interface Beside {
  /** The course without what stood there before. */
  ours: Course;
  /** Titles of what stood there before and was changed, and of what is gone. */
  changed: string[];
  gone: string[];
  /** How many things stood there before and are as they were. */
  stayed: number;
}

/**
 * Takes apart a course that was delivered into: what stood there before, and what came. What bears the identifier of something that
 * was sent is ours, though it stood there before: it was overwritten.
 */
export function besideThose(arrived: Course, before: Course, sent: Course): Beside {
  const came = new Set(sent.items.map((i) => i.id));
  const stood = new Set(before.items.flatMap((i) => (came.has(i.id) ? [] : [i.id])));
  const theirNodes = new Set(nodeIds(before.outline));
  const paths = new Set(before.files.map((f) => f.path));
  const prune = (nodes: readonly OutlineNode[]): OutlineNode[] =>
    nodes.flatMap((node) => {
      const children = prune(node.children);
      const theirs = node.item === undefined ? theirNodes.has(node.id) : stood.has(node.item);
      return theirs && children.length === 0 ? [] : [{ ...node, children }];
    });
  const kept = (items: Course['items'], of: (id: string) => boolean) => items.filter((i) => of(i.id));
  const ours: Course = {
    ...arrived,
    outline: prune(arrived.outline),
    items: kept(arrived.items, (id) => !stood.has(id)),
    files: arrived.files.filter((f) => !paths.has(f.path)),
  };
  const theirs = (course: Course): Course => ({ ...course, items: kept(course.items, (id) => stood.has(id)) });
  const { items, gone } = changedSince(theirs(before), theirs(arrived));
  const changed = items.filter((i) => i.since === 'changed').map(({ id }) => id);
  const titles = new Map(arrived.items.map((i) => [i.id, i.title]));
  return {
    ours,
    changed: changed.map((id) => titles.get(id) ?? id),
    gone: gone.map((i) => i.title),
    stayed: items.length - changed.length,
  };
}

function nodeIds(nodes: readonly OutlineNode[]): string[] {
  return nodes.flatMap((node) => [node.id, ...nodeIds(node.children)]);
}
