import { child, escapeXml, xml } from '../../markup/index.ts';
import { contentOf, type Course } from '../../model/index.ts';
import { goesOnWhole, ofVersion, type Format, type PlannedEntry } from '../format.ts';
import { relativeAddress } from '../leads.ts';
import { encodePath } from '../references.ts';
import { isRendered, renderItem } from '../render.ts';
import { MANIFEST, hasManifest, readManifest } from './manifest.ts';
import { IMSCP_PROFILE } from './profile.ts';
import { kindOf, readContentPackage } from './read.ts';
import { DECLARATION, LOM, itemLom, lom, outlineItems, resourceXml } from './write.ts';

/** IMS Content Packaging 1.1.2 to 1.2 read, 1.2 written. */
export const contentPackage: Format = {
  id: 'imscp',
  targets: [
    {
      id: 'cp',
      label: 'Content Packaging 1.2',
      version: '1.2',
      extension: 'zip',
      itemAddress: relativeAddress,
      stays: ofVersion('imscp', '1.2'),
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
  const course = contentOf(whole);
  const content = course.files.filter((f) => f.role === 'content').map((f) => f.path);
  const taken = new Set(content);
  const entries: PlannedEntry[] = [];
  const resources: string[] = [];
  const owned = new Set<string>();
  const written = new Set<string>();
  for (const item of course.items) {
    if (item.kind === 'bank') continue;
    written.add(item.id);
    if (item.kind === 'page' || item.kind === 'file') {
      owned.add(item.file);
      const used = [item.settings.embeds].flatMap((e) => (Array.isArray(e) ? e : []));
      resources.push(
        resourceXml({
          id: item.id,
          type: 'webcontent',
          href: item.file,
          files: [item.file, ...used],
          metadata: itemLom(item),
        }),
      );
    } else if (item.kind === 'foreign') {
      item.files.forEach((f) => owned.add(f));
      const files = item.files.map((f) => xml('file', { href: encodePath(f) }));
      resources.push(xml('resource', { identifier: item.id, type: item.type }, ...files));
    } else if (item.kind === 'link') {
      resources.push(xml('resource', { identifier: item.id, type: 'webcontent', href: item.url }));
    } else if (isRendered(item)) {
      const path = freePath(`${item.kind}/${item.id.replace(/[^\p{L}\p{N}_-]/gu, '_').slice(0, 80)}`, taken);
      entries.push({ path, item: item.id, text: renderItem(course, item, path) });
      resources.push(
        resourceXml({ id: item.id, type: 'webcontent', href: path, files: [path], metadata: itemLom(item) }),
      );
    }
  }
  const ids = new Set(course.items.map((i) => i.id));
  content
    .filter((path) => !owned.has(path))
    .forEach((path, i) => {
      let id = `file_${i + 1}`;
      while (ids.has(id)) id += '_';
      resources.push(resourceXml({ id, type: 'webcontent', href: path, files: [path] }));
    });
  return [
    { path: MANIFEST, text: manifest(course, written, resources) },
    ...entries,
    ...content.map((path) => ({ path, copy: path })),
  ];
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
      xml(
        'metadata',
        {},
        xml('schema', {}, 'IMS Content'),
        xml('schemaversion', {}, '1.2'),
        lom(course, '', { xmlns: LOM }),
      ),
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
