import type { Package } from '../container/index.ts';
import type { Finding } from '../inspect/index.ts';
import { decodeText, splice, type Splice } from '../markup/index.ts';
import { STYLE_PART } from '../inspect/index.ts';
import {
  PAGE_PART,
  mapParts,
  mapTexts,
  textsOf,
  type Course,
  type Item,
  type OutlineNode,
  type Settings,
} from '../model/index.ts';

export type SettingsChange = (settings: Settings) => Settings;

/** Pieces of a text that change, in a place that one text of the course has. */
export interface Cuts extends TextPlace {
  splices: Splice[];
}

/** A text of the course: of an item, or of a file that belongs to none. */
export interface TextPlace {
  item: string | null;
  part: string;
  file: string | null;
}

export const placeOf = (at: TextPlace) => (at.item === null ? `file ${at.file ?? ''}` : `item ${at.item} ${at.part}`);

/** What is to become of a course and its files. Nothing of it is done by being written down here. */
export class ChangeSet {
  readonly items = new Map<string, ((item: Item) => Item)[]>();
  /** What becomes of the settings of folders, headings and further places. */
  readonly places = new Map<string, SettingsChange[]>();
  /** What becomes of what is set of the course as a whole. */
  readonly ofCourse: SettingsChange[] = [];
  readonly leftOut = { items: new Set<string>(), nodes: new Set<string>(), files: new Set<string>() };
  /** New paths of files, by the old ones. */
  readonly renamed = new Map<string, string>();
  /** Files that another takes the place of, with that one. */
  readonly merged = new Map<string, string>();
  /** Files that are made anew without what they tell of people, with the finding that asked for it. */
  readonly remade = new Map<string, string>();
  /** Files that come from outside, by the address they were supplied under. */
  readonly supplied = new Map<string, { path: string; bytes: Uint8Array }>();
  readonly cuts = new Map<string, Cuts>();
  withoutPeople = false;

  get isEmpty(): boolean {
    const { items, nodes, files } = this.leftOut;
    const some = [this.items, this.places, this.cuts, this.renamed, this.remade, items, nodes, files].some(
      (part) => part.size > 0,
    );
    return !some && this.ofCourse.length === 0 && !this.withoutPeople;
  }

  change(item: string, change: (item: Item) => Item): void {
    const list = this.items.get(item);
    if (list) list.push(change);
    else this.items.set(item, [change]);
  }

  changeCourse(change: SettingsChange): void {
    this.ofCourse.push(change);
  }

  changePlace(node: string, change: SettingsChange): void {
    const list = this.places.get(node);
    if (list) list.push(change);
    else this.places.set(node, [change]);
  }

  outlineAfter(nodes: readonly OutlineNode[]): OutlineNode[] {
    return nodes.map((node) => {
      const settings = this.settingsAfter(node);
      const after: OutlineNode = { ...node, settings, children: this.outlineAfter(node.children) };
      if (Object.keys(settings).length === 0) delete after.settings;
      return after;
    });
  }

  settingsAfter({ id, settings = {} }: OutlineNode): Settings {
    return (this.places.get(id) ?? []).reduce((after, change) => change(after), settings);
  }

  cutsOf(at: TextPlace): Cuts {
    const place = placeOf(at);
    let cuts = this.cuts.get(place);
    if (!cuts) this.cuts.set(place, (cuts = { item: at.item, part: at.part, file: at.file, splices: [] }));
    return cuts;
  }

  /** Takes all of these stretches, or none where another changes the same place. */
  cut(at: TextPlace, splices: readonly Splice[]): boolean {
    const cuts = this.cutsOf(at);
    if (splices.some((a) => cuts.splices.some((b) => overlap(a, b)))) return false;
    cuts.splices.push(...splices);
    return true;
  }

  /** Texts of items that lie in no file of their own, by item and part. */
  texts(): Map<string, Map<string, Splice[]>> {
    const found = new Map<string, Map<string, Splice[]>>();
    for (const { item, part, splices } of this.cuts.values()) {
      if (item === null || isInFile(part) || splices.length === 0) continue;
      const parts = found.get(item) ?? new Map<string, Splice[]>();
      found.set(item, parts.set(part, splices));
    }
    return found;
  }

  itemAfter(item: Item, parts?: ReadonlyMap<string, Splice[]>): Item {
    let after = item;
    if (parts) {
      after = mapTexts(after, (part, text) => {
        const splices = parts.get(part);
        return splices ? { ...text, text: splice(text.text, splices) } : text;
      });
    }
    for (const change of this.items.get(item.id) ?? []) after = change(after);
    return this.renamed.size === 0 ? after : withPaths(after, (path) => this.renamed.get(path) ?? path);
  }
}

/** Whether a part of an item is the text of a file, and not of the item itself. */
export function isInFile(part: string): boolean {
  return part === PAGE_PART || part === STYLE_PART;
}

/** The text of a place as it is in the package; `null` where there is none. */
export async function textAt(pkg: Package, course: ItemsById, at: TextPlace): Promise<string | null> {
  const item = at.item === null ? undefined : course.get(at.item);
  if (isInFile(at.part)) {
    const path = fileOf(item, at);
    return path === null || !pkg.entries.has(path) ? null : decodeText(await pkg.bytes(path));
  }
  return item ? (textsOf(item).find((t) => t.part === at.part)?.text.text ?? null) : null;
}

export type ItemsById = ReadonlyMap<string, Item>;

export function itemsById(course: Course): ItemsById {
  return new Map(course.items.map((item) => [item.id, item]));
}

/** The file that a text of an item stands in. */
export function fileOf(item: Item | undefined, at: Pick<Finding, 'file'>): string | null {
  return item?.kind === 'page' ? item.file : at.file;
}

export function overlap(a: { start: number; end: number }, b: { start: number; end: number }): boolean {
  return a.start < b.end && b.start < a.end;
}

/** An item whose files lie elsewhere. */
export function withPaths(item: Item, moved: (path: string) => string): Item {
  const settings = { ...item.settings };
  for (const name of ['attachments', 'instructorAttachments', 'embeds'] as const) {
    const list = settings[name];
    if (Array.isArray(list)) settings[name] = [...new Set(list.map(moved))];
  }
  const place = item.definitionPath === null ? null : moved(item.definitionPath);
  switch (item.kind) {
    case 'page':
    case 'file':
      return { ...item, definitionPath: place, settings, file: moved(item.file) };
    case 'foreign':
      return { ...item, definitionPath: place, settings, files: item.files.map(moved) };
    case 'quiz':
    case 'bank':
      return {
        ...item,
        definitionPath: place,
        settings,
        questions: item.questions.map((q) => ({
          ...mapParts(q, { image: (image) => image && { ...image, file: moved(image.file) } }),
          files: q.files.map(moved),
        })),
      };
    default:
      return { ...item, definitionPath: place, settings };
  }
}
