import { escapeXml, xml } from '../../markup/index.ts';
import { settingsByPlace, type Course, type Item, type OutlineNode, type Settings } from '../../model/index.ts';
import { LOM, lomOfCourse, metadataElement, writeLom } from '../lom/write.ts';
import { encodePath } from '../references.ts';

export const DECLARATION = '<?xml version="1.0" encoding="UTF-8"?>\n';

export interface PlainResource {
  /** As `metadataElement` gives it. */
  metadata?: string;
  /** What is said of files, by their paths. */
  fileLom?: Settings['fileLom'];
  id: string;
  type: string;
  href: string;
  files: readonly string[];
  dependencies?: readonly string[];
}

/** A file of a resource, with what is said of it. */
export function fileXml(path: string, fileLom: Settings['fileLom']): string {
  const lom = fileLom?.[path];
  const metadata = lom ? xml('metadata', {}, writeLom(lom, '', { xmlns: LOM })) : '';
  return xml('file', { href: encodePath(path) }, metadata);
}

/** What is said of a course as the metadata of its manifest. */
export function courseLom({ title, metadata, settings = {} }: Course): string {
  return writeLom(lomOfCourse(title, metadata, settings), '', { xmlns: LOM });
}

/** A resource and its files. */
export function resourceXml({
  id,
  type,
  href,
  files,
  metadata = '',
  fileLom,
  dependencies = [],
}: PlainResource): string {
  return xml(
    'resource',
    { identifier: id, type, href: encodePath(href) },
    metadata,
    ...files.map((f) => fileXml(f, fileLom)),
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
      // What is said of an item stands with its resource.
      shown && settings === shown.settings ? '' : metadataElement(settings),
      saidOf(settings, shown),
    );
  };
  const outline = course.outline.map(node);
  const loose = course.items
    .filter((i) => written.has(i.id) && i.kind !== 'foreign' && !placed.has(i.id))
    .map((i) => node({ id: `entry-${i.id}`, title: i.title, item: i.id, children: [] }));
  return [...outline, ...loose];
}
