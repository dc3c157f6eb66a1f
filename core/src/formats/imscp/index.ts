import { child, escapeXml, xml } from '../../markup/index.ts';
import type { Course, Item, ItemOf } from '../../model/index.ts';
import { goesOnWhole, ofVersion, type Format, type PlannedEntry } from '../format.ts';
import { relativeAddress } from '../leads.ts';
import { renderItem } from '../render.ts';
import { writeBy, writtenBy } from '../table.ts';
import { MANIFEST, hasManifest, readManifest } from './manifest.ts';
import { IMSCP_PROFILE, PAGE_KINDS, type PageWriter } from './kinds.ts';
import { kindOf, readContentPackage } from './read.ts';
import { metadataElement } from '../lom/write.ts';
import { DECLARATION, courseLom, fileXml, outlineItems, resourceXml, type PlainResource } from './write.ts';

/** IMS Content Packaging 1.1.2 to 1.2 read, 1.2 written. */
export const contentPackage: Format = {
  id: 'imscp',
  label: (version) => `Content Packaging ${version}`,
  rank: 'plain',
  countsUnread: true,
  targets: [
    {
      id: 'cp',
      label: 'Content Packaging 1.2',
      version: '1.2',
      extension: 'zip',
      itemAddress: relativeAddress,
      passthrough: ofVersion('imscp', '1.2'),
      keepsPaths: hasManifest,
      profile: IMSCP_PROFILE,
    },
  ],
  async detect(pkg) {
    if (!hasManifest(pkg)) return null;
    const { root } = await readManifest(pkg);
    if (!child(root, 'resources') && !child(root, 'organizations')) return null;
    const { format, version } = kindOf(root);
    return format === 'imscp' ? version : null;
  },
  read: readContentPackage,
  async plan(course, target, source) {
    if (goesOnWhole(course, target)) {
      return [...source.entries.keys()].map((path) => ({ path, copy: path }));
    }
    return planPages(course);
  },
};

const NAMESPACE = 'http://www.imsglobal.org/xsd/imscp_v1p1';

/** Pages and files as they are, everything else as a page; what stands in no outline is carried beside it. */
function planPages(whole: Course): PlannedEntry[] {
  const course = writtenBy(whole, PAGE_KINDS);
  const content = course.files.filter((f) => f.role === 'content').map((f) => f.path);
  const writer = new ContentPackageWriter(course, content);
  for (const item of course.items) writeBy(PAGE_KINDS, item, writer);
  const { entries, resources, owned } = writer;
  const ids = new Set(course.items.map((i) => i.id));
  content
    .filter((path) => !owned.has(path))
    .forEach((path, i) => {
      let id = `file_${i + 1}`;
      while (ids.has(id)) id += '_';
      resources.push(
        resourceXml({ id, type: 'webcontent', href: path, files: [path], fileLom: course.settings?.fileLom }),
      );
    });
  return [
    { path: MANIFEST, text: manifest(course, ids, resources) },
    ...entries,
    ...content.map((path) => ({ path, copy: path })),
  ];
}

class ContentPackageWriter implements PageWriter {
  readonly entries: PlannedEntry[] = [];
  readonly resources: string[] = [];
  readonly owned = new Set<string>();
  private readonly taken: Set<string>;
  private readonly course: Course;

  constructor(course: Course, content: readonly string[]) {
    this.course = course;
    this.taken = new Set(content);
  }

  private resource(plain: PlainResource): string {
    return resourceXml({ ...plain, fileLom: this.course.settings?.fileLom });
  }

  page(item: ItemOf<'page'>): void {
    this.asItIs(item);
  }

  file(item: ItemOf<'file'>): void {
    this.asItIs(item);
  }

  private asItIs(item: ItemOf<'page' | 'file'>): void {
    const { id, file, settings } = item;
    this.owned.add(file);
    const files = [file, ...(settings.embeds ?? [])];
    this.resources.push(
      this.resource({ id, type: 'webcontent', href: file, files, metadata: metadataElement(settings) }),
    );
  }

  foreign({ id, type, files }: ItemOf<'foreign'>): void {
    files.forEach((f) => this.owned.add(f));
    const parts = files.map((f) => fileXml(f, this.course.settings?.fileLom));
    this.resources.push(xml('resource', { identifier: id, type }, ...parts));
  }

  link({ id, url }: ItemOf<'link'>): void {
    this.resources.push(xml('resource', { identifier: id, type: 'webcontent', href: url }));
  }

  render(item: Item): void {
    const path = freePath(renderedStem(item), this.taken);
    this.entries.push({ path, item: item.id, text: renderItem(this.course, item, path) });
    this.resources.push(
      this.resource({
        id: item.id,
        type: 'webcontent',
        href: path,
        files: [path],
        metadata: metadataElement(item.settings),
      }),
    );
  }
}

/** Where a page that is made of an item lies, before its extension. */
export function renderedStem({ kind, id }: Item): string {
  return `${kind}/${id.replace(/[^\p{L}\p{N}_-]/gu, '_').slice(0, 80)}`;
}

export function freePath(stem: string, taken: Set<string>, extension = '.html'): string {
  let path = stem + extension;
  for (let n = 2; taken.has(path); n++) path = `${stem}-${n}${extension}`;
  taken.add(path);
  return path;
}

function manifest(course: Course, written: ReadonlySet<string>, resources: readonly string[]): string {
  return (
    DECLARATION +
    xml(
      'manifest',
      { identifier: 'course', xmlns: NAMESPACE },
      xml('metadata', {}, xml('schema', {}, 'IMS Content'), xml('schemaversion', {}, '1.2'), courseLom(course)),
      xml(
        'organizations',
        { default: 'outline' },
        xml(
          'organization',
          { identifier: 'outline', structure: 'hierarchical' },
          xml('title', {}, escapeXml(course.title)),
          ...outlineItems(course, written),
        ),
      ),
      xml('resources', {}, ...resources),
    )
  );
}
