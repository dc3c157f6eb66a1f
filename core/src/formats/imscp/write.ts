import { escapeXml, xml } from '../../markup/index.ts';
import { settingsByPlace, type Course, type Item, type OutlineNode, type Settings } from '../../model/index.ts';
import { encodePath } from '../references.ts';

export const DECLARATION = '<?xml version="1.0" encoding="UTF-8"?>\n';
export const LOM = 'http://ltsc.ieee.org/xsd/LOM';

/** Metadata as LOM (IEEE 1484.12.3); `prefix` with its colon, or empty. */
export function lom(course: Course, prefix: string, attributes: Record<string, string> = {}): string {
  const { metadata } = course;
  const el = (name: string, ...children: string[]) => xml(prefix + name, {}, ...children);
  const string = (text: string) =>
    xml(`${prefix}string`, metadata.language ? { language: metadata.language } : {}, escapeXml(text));
  const { catalogEntry, language, description, rights } = metadata;
  return xml(
    `${prefix}lom`,
    attributes,
    el(
      'general',
      catalogEntry === undefined ? '' : el('identifier', el('catalog', 'course'), el('entry', escapeXml(catalogEntry))),
      el('title', string(course.title)),
      language === undefined ? '' : el('language', escapeXml(language)),
      description === undefined ? '' : el('description', string(description)),
      ...metadata.keywords.map((k) => el('keyword', string(k))),
    ),
    rights === undefined
      ? ''
      : el('rights', el('copyrightAndOtherRestrictions', el('value', 'yes')), el('description', string(rights))),
  );
}

/** What LOM says of one item, where it says anything. */
export function itemLom({ settings: { description, keywords } }: Item): string {
  const string = (text: string) => xml('string', {}, escapeXml(text));
  const general = [
    typeof description === 'string' ? xml('description', {}, string(description)) : '',
    ...(Array.isArray(keywords) ? keywords.map((k) => xml('keyword', {}, string(k))) : []),
  ].join('');
  return general === '' ? '' : xml('metadata', {}, xml('lom', { xmlns: LOM }, xml('general', {}, general)));
}

export interface PlainResource {
  /** As `itemLom` gives it. */
  metadata?: string;
  id: string;
  type: string;
  href: string;
  files: readonly string[];
  dependencies?: readonly string[];
}

/** A resource and its files. */
export function resourceXml({ id, type, href, files, metadata = '', dependencies = [] }: PlainResource): string {
  return xml(
    'resource',
    { identifier: id, type, href: encodePath(href) },
    metadata,
    ...files.map((f) => xml('file', { href: encodePath(f) })),
    ...dependencies.map((d) => xml('dependency', { identifierref: d })),
  );
}

/**
 * The outline as items of an organization: what was not `written` leaves its place. Items that stand in no outline follow
 * it, since they would else be nowhere to be found.
 */
export function outlineItems(
  course: Course,
  written: ReadonlySet<string>,
  /** What a standard says of a place of the outline, and of the item in it, as elements after its title. */
  saidOf: (settings: Settings, item: Item | null) => string = () => '',
): string[] {
  const placed = new Set<string>();
  const items = new Map(course.items.map((i) => [i.id, i]));
  const set = settingsByPlace(course);
  const node = (n: OutlineNode): string => {
    const item = n.item !== undefined && written.has(n.item) ? n.item : undefined;
    if (n.item !== undefined) placed.add(n.item);
    if (n.item !== undefined && item === undefined && n.children.length === 0) return '';
    const shown = item === undefined ? null : (items.get(item) ?? null);
    const settings = set.get(n) ?? shown?.settings ?? {};
    const { hidden, parameters } = settings;
    return xml(
      'item',
      {
        identifier: n.id,
        identifierref: item,
        isvisible: hidden === true ? 'false' : undefined,
        parameters: typeof parameters === 'string' ? parameters : undefined,
      },
      xml('title', {}, escapeXml(n.title)),
      ...n.children.map(node),
      saidOf(settings, shown),
    );
  };
  const outline = course.outline.map(node);
  const loose = course.items
    .filter((i) => written.has(i.id) && i.kind !== 'foreign' && !placed.has(i.id))
    .map((i) => node({ id: `entry-${i.id}`, title: i.title, item: i.id, children: [] }));
  return [...outline, ...loose];
}
