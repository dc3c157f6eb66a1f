import * as z from 'zod';
import type { Course, Item, Settings } from '../model/index.ts';
import type { ChangeSet } from './changes.ts';

/** How what goes is to arrive, beyond what goes: seen or hidden, with first posts, its banks in one, its tools those that are there. */
export const Along = z.object({
  /** `as it was`, or all of it seen by learners, or all of it hidden from them. */
  shown: z.enum(['as it was', 'shown', 'hidden']),
  /** Whether discussions come with their first posts. */
  posts: z.boolean(),
  /** Addresses of external tools as they are to be, by those that they have. */
  tools: z.record(z.string(), z.string()),
});
export type Along = z.infer<typeof Along>;

export const AS_IT_WAS: Along = { shown: 'as it was', posts: true, tools: {} };

export function isAsItWas({ shown, posts, tools }: Along): boolean {
  return shown === 'as it was' && posts && Object.keys(tools).length === 0;
}

/** What of a course there is to decide on. */
export interface AlongFound {
  /** Discussions with a first post. */
  posts: number;
  /** Things and places that learners do not see. */
  hidden: number;
  /** Addresses of external tools, each with the titles of the items that start it. */
  tools: { address: string; titles: string[] }[];
}

export function alongIn(course: Course): AlongFound {
  const tools = new Map<string, string[]>();
  for (const item of course.items)
    if (item.kind === 'tool') tools.set(item.url, [...(tools.get(item.url) ?? []), item.title]);
  const places = (nodes: Course['outline']): number =>
    nodes.reduce((sum, node) => sum + Number(node.settings?.hidden === true) + places(node.children), 0);
  return {
    posts: course.items.filter((i) => i.settings.starterPost !== undefined).length,
    hidden: course.items.filter((i) => i.settings.hidden === true).length + places(course.outline),
    tools: [...tools].map(([address, titles]) => ({ address, titles })),
  };
}

/** Writes down what is to become of a course so that it arrives as it was chosen. */
export function goAlong(course: Course, { shown, posts, tools }: Along, changes: ChangeSet): void {
  for (const item of course.items) {
    if (!posts && item.settings.starterPost !== undefined) changes.change(item.id, without('starterPost'));
    const address = item.kind === 'tool' ? tools[item.url] : undefined;
    if (address !== undefined) changes.change(item.id, (one) => (one.kind === 'tool' ? { ...one, url: address } : one));
    if (shown === 'shown' && item.settings.hidden === true) changes.change(item.id, without('hidden'));
  }
  if (shown === 'shown') showPlaces(course.outline, changes);
  if (shown === 'hidden') hideAll(course, changes);
}

const without =
  (name: keyof Settings) =>
  (item: Item): Item => {
    const settings = { ...item.settings };
    delete settings[name];
    return { ...item, settings };
  };

function seen(settings: Settings): Settings {
  const rest = { ...settings };
  delete rest.hidden;
  return rest;
}

function showPlaces(nodes: Course['outline'], changes: ChangeSet): void {
  for (const node of nodes) {
    if (node.settings?.hidden === true) changes.changePlace(node.id, seen);
    showPlaces(node.children, changes);
  }
}

/** At each topmost place, as a folder that is hidden hides what stands in it. What stands in no outline is not seen there. */
function hideAll({ outline }: Course, changes: ChangeSet): void {
  const first = new Set<string>();
  for (const { id, item, heading } of outline) {
    if (item !== undefined && !first.has(item)) {
      first.add(item);
      changes.change(item, (one) => ({ ...one, settings: { ...one.settings, hidden: true } }));
    } else if (heading !== true) changes.changePlace(id, (settings) => ({ ...settings, hidden: true }));
  }
}
