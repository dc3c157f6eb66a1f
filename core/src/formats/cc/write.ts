import { escapeXml, xml } from '../../markup/index.ts';
import {
  bodyOf,
  mapTexts,
  type Course,
  type Item,
  type ItemOf,
  type OutlineNode,
  type Profile,
  type RichText,
} from '../../model/index.ts';
import type { PlannedEntry } from '../format.ts';
import { MANIFEST } from '../imscp/manifest.ts';
import { lomOfCourse, writeLom } from '../lom/write.ts';
import { asProfiled } from '../questions.ts';
import { encodePath, movedTexts } from '../references.ts';
import { writeBy, writtenBy } from '../table.ts';
import { DECLARATION } from './definitions.ts';
import { CC11_KINDS, CC12_KINDS, CC13_KINDS, CC13_PROFILE, THIN13_KINDS } from './kinds.ts';
import { resource, webResource } from './resource.ts';
import { VOCABULARIES, type CcVersion, type Vocabulary } from './versions.ts';

const KINDS = { '1.0': CC11_KINDS, '1.1': CC11_KINDS, '1.2': CC12_KINDS, '1.3': CC13_KINDS };

/** Writes a course from the model alone: for courses that were reshaped or come from another format. */
export function planFromModel(whole: Course, version: CcVersion, kinds = KINDS[version]): PlannedEntry[] {
  const course = withVariants(writtenBy(whole, kinds));
  const words = VOCABULARIES[version];
  const writer = new CartridgeWriter(course, words, CC13_PROFILE);
  const resources: string[] = [];
  const entries: PlannedEntry[] = [];
  const owned = new Set<string>();
  for (const item of course.items) {
    const written = writeBy(kinds, item, writer);
    if (!written) continue;
    resources.push(written.resource);
    if (written.entry) entries.push(written.entry);
    const body = bodyOf(item);
    if (body !== null) owned.add(body);
    if (item.kind === 'foreign') item.files.forEach((f) => owned.add(f));
  }
  const files = course.files.filter((f) => f.role === 'content');
  const ids = new Set(course.items.map((i) => i.id));
  files.forEach((file, index) => {
    entries.push({ path: file.path, copy: file.path });
    if (owned.has(file.path)) return;
    let id = `file_${index + 1}`;
    while (ids.has(id)) id += '_';
    const href = encodePath(file.path);
    resources.push(xml('resource', { identifier: id, type: 'webcontent', href }, xml('file', { href })));
  });
  return [{ path: MANIFEST, text: manifest(course, words, resources) }, ...entries];
}

/** Another version of an item can only be named where it is written too. */
function withVariants(course: Course): Course {
  const there = new Set(course.items.map((i) => i.id));
  const items = course.items.map((item): Item => {
    const { variants, ...settings } = item.settings;
    if (!variants || variants.every((id) => there.has(id))) return item;
    const left = variants.filter((id) => there.has(id));
    return { ...item, settings: left.length > 0 ? { ...settings, variants: left } : settings };
  });
  return { ...course, items };
}

/** Only what a thin cartridge holds: web links, external tools, and the folders they stand in. */
export function planThin(course: Course, version: CcVersion): PlannedEntry[] {
  return planFromModel({ ...course, files: [] }, version, THIN13_KINDS).map((entry) =>
    entry.path === MANIFEST && 'text' in entry
      ? { ...entry, text: entry.text.replace('<schema>IMS Common Cartridge<', '<schema>IMS Thin Common Cartridge<') }
      : entry,
  );
}

function manifest(course: Course, words: Vocabulary, resources: readonly string[]): string {
  const lom = lomOfCourse(course.title, course.metadata, course.settings ?? {});
  return (
    DECLARATION +
    xml(
      'manifest',
      {
        identifier: 'course',
        xmlns: words.manifest,
        'xmlns:lomimscc': words.lomManifest,
        'xmlns:lom': words.lomResource,
      },
      xml(
        'metadata',
        {},
        xml('schema', {}, 'IMS Common Cartridge'),
        xml('schemaversion', {}, words.schemaVersion),
        writeLom(lom, 'lomimscc:'),
      ),
      xml(
        'organizations',
        {},
        xml(
          'organization',
          { identifier: 'outline', structure: 'rooted-hierarchy' },
          xml('item', { identifier: 'outline_root' }, ...course.outline.map(outlineItem)),
        ),
      ),
      xml('resources', {}, ...resources),
    )
  );
}

function outlineItem(node: OutlineNode): string {
  return xml(
    'item',
    { identifier: node.id, identifierref: node.item },
    xml('title', {}, escapeXml(node.title)),
    ...node.children.map(outlineItem),
  );
}

/** What a cartridge holds of an item: its resource in the manifest, and what was newly written for it. */
export interface Written {
  resource: string;
  entry?: PlannedEntry;
}

/** What definitions name in their texts is named from where they lie, behind this token of the cartridge. */
export const FILE_BASE = '$IMS-CC-FILEBASE$';

/** The ways in which a cartridge holds an item; `kinds.ts` says which of them each kind takes. */
export class CartridgeWriter {
  private readonly taken: Set<string>;
  private readonly course: Course;
  readonly words: Vocabulary;
  private readonly profile: Profile;

  constructor(course: Course, words: Vocabulary, profile: Profile) {
    this.course = course;
    this.words = words;
    this.profile = profile;
    this.taken = new Set(course.files.filter((f) => f.role === 'content').map((f) => f.path));
  }

  /** The file itself. */
  asItIs(item: ItemOf<'page' | 'file'>): Written {
    return { resource: webResource(item, item.file) };
  }

  /** What another program reads, with its files. */
  foreign(item: ItemOf<'foreign'>): Written {
    return { resource: resource(item, item.type, item.files) };
  }

  /** A definition of its own, of that type of resource. */
  define<T extends Item>(item: T, type: string, make: (item: T, words: Vocabulary, path: string) => string): Written {
    const path = freePath(item, 'xml', this.taken);
    const text = make(this.movedTo(item, path), this.words, path);
    return { resource: resource(item, type, [path]), entry: { path, item: item.id, text } };
  }

  /** A page that is made of it. */
  page<T extends Item>(item: T, make: (course: Course, item: T, path: string) => string): Written {
    const path = freePath(item, 'html', this.taken);
    const entry = { path, item: item.id, text: make(this.course, item, path) };
    return { resource: webResource(item, path), entry };
  }

  /** An item as it reads where it is written, which is another place than it comes from. */
  private movedTo<T extends Item>(item: T, path: string): T {
    if (item.definitionPath === path || item.kind === 'tool') return item;
    const rewrite = movedTexts(this.course, item, FILE_BASE)(path);
    const moved = (_part: string, text: RichText) =>
      text.format === 'html' ? { ...text, text: rewrite(text.text) } : text;
    // First what a question becomes, since that may show more than it did.
    const held =
      'questions' in item
        ? { ...item, questions: item.questions.flatMap((q) => asProfiled(q, this.profile) ?? []) }
        : item;
    return mapTexts<T>(held, moved);
  }
}

/** The item's own place if nothing else stands there, else one made of its kind and identifier. */
function freePath(item: Item, extension: string, taken: Set<string>): string {
  const safe = item.id.replace(/[^\p{L}\p{N}_-]/gu, '_').slice(0, 80) || 'item';
  let path = item.definitionPath?.endsWith(`.${extension}`) ? item.definitionPath : `${item.kind}/${safe}.${extension}`;
  for (let n = 2; taken.has(path); n++) path = `${item.kind}/${safe}-${n}.${extension}`;
  taken.add(path);
  return path;
}
