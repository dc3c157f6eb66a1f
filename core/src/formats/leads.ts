import type { Package } from '../container/index.ts';
import { decodeText, rewriteReferences } from '../markup/index.ts';
import {
  Refusal,
  count,
  problem,
  isLedTo,
  itemAddress,
  itemOfAddress,
  itemsById,
  mapTexts,
  relativePath,
  replaceItemAddresses,
  type Course,
  type Item,
} from '../model/index.ts';
import type { Format, PlannedEntry, Target } from './format.ts';
import { encodePath, resolveReference } from './references.ts';
import { refuseUnsound } from './sound.ts';

/** Links to items that have no page or file of their own, in the address that a format has for them. */

/**
 * Entries of a course in a format, with every link to an item leading there. Where the format has no address for it the link
 * is taken off and its words stay, which its profile declares as a loss of `leads`.
 * @throws Refusal `entry-damaged` where a file of the course was found damaged, `output-unsound` where what would be
 * written is against its standard
 */
export async function planPackage(
  format: Format,
  course: Course,
  target: Target,
  source: Package,
): Promise<PlannedEntry[]> {
  refuseDamage(course);
  const { passthrough } = target;
  const kept = course.origin.untouched ? (passthrough?.(course.origin) ?? null) : null;
  // What goes on as it came is what it was.
  if (kept === 'everything' || kept === 'exchanged') return format.plan(course, target, source);
  const plan = await planFollowed(format, course, target, source);
  if (kept === null) refuseUnsound(plan);
  return plan;
}

async function planFollowed(format: Format, course: Course, target: Target, source: Package): Promise<PlannedEntry[]> {
  if (!course.items.some((i) => i.settings.leads !== undefined)) return format.plan(course, target, source);
  const leading = new Leading(course, target);
  return leading.follow(await format.plan(leading.course(), target, source), source);
}

/** A package with a damaged file in it would be damaged too. */
function refuseDamage({ files }: Course): void {
  const [first, ...more] = files.filter((f) => f.damage !== undefined);
  if (!first) return;
  const others = more.length === 0 ? '' : ` So are ${count(more.length, 'other file')}.`;
  throw new Refusal(
    problem(
      'entry-damaged',
      `${first.damage ?? first.path}${others}`,
      { file: first.path },
      'Fetch or export the course again, or leave out what is damaged.',
    ),
  );
}

/** Where items that are no pages are pages or definitions in files of their own: the way from one to the other. */
export function relativeAddress(from: string, to: string): string {
  return encodePath(relativePath(from, to));
}

class Leading {
  private readonly whole: Course;
  private readonly target: Target;
  private readonly items: ReadonlyMap<string, Item>;
  /** Identifiers of items by the path of their definition. */
  private readonly defined = new Map<string, string>();
  /** Pages that lead to items, by their path, and other such items by their identifier. */
  private readonly pages = new Map<string, Item>();
  private readonly leading = new Map<string, Item>();

  constructor(course: Course, target: Target) {
    this.whole = course;
    this.target = target;
    this.items = itemsById(course);
    for (const item of course.items) {
      if (isLedTo(item) && item.definitionPath !== null) this.defined.set(item.definitionPath, item.id);
      if (item.settings.leads === undefined) continue;
      if (item.kind === 'page') this.pages.set(item.file, item);
      else this.leading.set(item.id, item);
    }
  }

  /** The course with one address for all such links in its items' texts, or none where the format has none. */
  course(): Course {
    const items = this.whole.items.map((item) =>
      item.settings.leads === undefined || item.kind === 'page'
        ? item
        : mapTexts(item, (_part, text) =>
            text.format === 'html' ? { ...text, text: this.named(text.text, item.definitionPath ?? '') } : text,
          ),
    );
    return { ...this.whole, items };
  }

  private named(html: string, place: string): string {
    const named = rewriteReferences(html, (reference) => {
      const id = this.idOf(reference, place);
      return id === null ? null : itemAddress(id);
    });
    return withoutLinks(named, (id) => !this.target.itemAddress || !this.items.has(id));
  }

  private idOf(reference: string, place: string): string | null {
    const id = itemOfAddress(reference);
    if (id !== null) return this.items.has(id) ? id : null;
    const path = resolveReference((p) => this.defined.has(p), place, reference);
    return path === null ? null : (this.defined.get(path) ?? null);
  }

  /** The plan once it is known where every item is defined. */
  follow(plan: readonly PlannedEntry[], source: Package): PlannedEntry[] {
    const at = new Map(plan.flatMap((entry) => (entry.item === undefined ? [] : [[entry.item, entry.path] as const])));
    return plan.map((entry): PlannedEntry => {
      const { path } = entry;
      const about = entry.item === undefined ? {} : { item: entry.item };
      const write = (text: string) => this.written(text, entry, at);
      if ('make' in entry) return { path, ...about, make: async () => write(await entry.make()) };
      if ('text' in entry) return { path, ...about, text: write(entry.text) };
      if (!this.mustBeWritten(entry, at)) return entry;
      const utf8 = this.pages.has(path) ? asUtf8 : (text: string) => text;
      return { path, ...about, make: async () => utf8(write(decodeText(await source.bytes(entry.copy)))) };
    });
  }

  /** A text that is carried as it is holds, unless something that it leads to stands elsewhere now, or has no path. */
  private mustBeWritten(entry: PlannedEntry & { copy: string }, at: ReadonlyMap<string, string>): boolean {
    const item = this.pages.get(entry.copy) ?? this.leading.get(entry.item ?? '');
    return (
      item !== undefined &&
      Object.keys(leadsOf(item)).some((id) => !this.items.has(id) || this.items.get(id)?.definitionPath !== at.get(id))
    );
  }

  private written(text: string, { path, item }: PlannedEntry, at: ReadonlyMap<string, string>): string {
    const { itemAddress: addressOf } = this.target;
    const address = (id: string) => addressOf?.(path, at.get(id) ?? '') ?? '';
    if (this.pages.has(path)) {
      const named = withoutLinks(this.named(text, path), (id) => !at.has(id));
      return replaceItemAddresses(named, address);
    }
    const of = item === undefined ? undefined : this.leading.get(item);
    const within = of ? withinDefinition(text, (reference) => this.movedTo(reference, of, at)) : text;
    return replaceItemAddresses(
      withoutLinks(within, (id) => !at.has(id)),
      address,
    );
  }

  /** A reference of a definition that was carried as it is, to what stands elsewhere now. */
  private movedTo(reference: string, { definitionPath: place }: Item, at: ReadonlyMap<string, string>): string | null {
    const id = itemOfAddress(reference) === null ? this.idOf(reference, place ?? '') : null;
    return id === null || at.get(id) === this.items.get(id)?.definitionPath ? null : itemAddress(id);
  }
}

function leadsOf({ settings: { leads } }: Item): Record<string, string> {
  return typeof leads === 'object' && !Array.isArray(leads) ? leads : {};
}

/** Rewrites references in texts that are escaped within an XML definition. */
function withinDefinition(text: string, put: (reference: string) => string | null): string {
  return text.replace(
    /(\b(?:src|href)\s*=\s*)(&quot;|&apos;|&#34;|&#39;|["'])(.*?)\2/gi,
    (whole, before: string, quote: string, reference: string) => {
      const instead = put(reference.replaceAll('&amp;', '&'));
      return instead === null ? whole : before + quote + instead + quote;
    },
  );
}

/** Takes links to items off and leaves their words, in HTML and in HTML within JSON. */
function withoutLinks(html: string, isGone: (id: string) => boolean): string {
  return html.replace(/<a\b([^>]*)>([\s\S]*?)<\/a\s*>/gi, (whole, attributes: string, words: string) => {
    const href = /\bhref\s*=\s*\\?(["'])([^"'\\]*)\\?\1/i.exec(attributes)?.[2] ?? '';
    const id = itemOfAddress(href);
    return id !== null && isGone(id) ? words : whole;
  });
}

/** What is written is UTF-8, whatever it was; a declaration that says otherwise would make it wrong. */
export function asUtf8(html: string): string {
  return html.replace(/(<meta[^>]*charset\s*=\s*["']?)[\w-]+/i, '$1utf-8');
}
