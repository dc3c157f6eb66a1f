import type { Package } from '../../container/index.ts';
import {
  child,
  decodeText,
  descendants,
  elements,
  fold,
  parseXml,
  textOf,
  type XmlElement,
} from '../../markup/index.ts';
import {
  Refusal,
  baseName,
  decodePercent,
  extensionOf,
  folderOf,
  mediaTypeOf,
  problem,
  remark,
  resolvePath,
  warning,
  type Course,
  type CourseFile,
  type Item,
  type Metadata,
  type Note,
  type OutlineNode,
  type RichText,
  type Settings,
} from '../../model/index.ts';
import { readQuestions, readQuizSettings } from '../qti12/read.ts';
import type { ReadResult } from '../format.ts';
import { asVersion, roleOfType, type CcVersion } from './versions.ts';

export const MANIFEST = 'imsmanifest.xml';

export interface Manifest {
  text: string;
  root: XmlElement;
}

/** Detecting, reading and planning all ask for the manifest of one package: it is parsed for the first of them. */
const manifests = new WeakMap<Package, Promise<Manifest>>();

/** The parsed manifest. @throws Refusal `no-manifest`, and those of `parseXml` */
export function readManifest(pkg: Package): Promise<Manifest> {
  const before = manifests.get(pkg);
  if (before) return before;
  const parsed = parseManifest(pkg);
  manifests.set(pkg, parsed);
  return parsed;
}

async function parseManifest(pkg: Package): Promise<Manifest> {
  if (!pkg.entries.has(MANIFEST)) {
    throw new Refusal(
      problem(
        'no-manifest',
        `The zip has no ${MANIFEST} at its top.`,
        'Choose the package as the platform exported it, not a folder zipped by hand.',
        { file: MANIFEST },
      ),
    );
  }
  const text = decodeText(await pkg.bytes(MANIFEST));
  return { text, root: parseXml(text, MANIFEST) };
}

/** The cartridge version, by the manifest's schema version and, failing that, its namespace. */
export function versionOf(root: XmlElement): CcVersion | null {
  const metadata = child(root, 'metadata');
  const schema = textOf(child(metadata, 'schema')).trim();
  if (/^IMS Common Cartridge$/i.test(schema)) return asVersion(textOf(child(metadata, 'schemaversion')));
  const named = /imsccv(\d)p(\d)\//.exec(root.ns);
  return named ? asVersion(`${named[1]}.${named[2]}`) : null;
}

/**
 * Reads a Common Cartridge into the course model. Only the manifest and the definitions it names are read; pages and
 * files stay where they are.
 */
export async function readCartridge(pkg: Package): Promise<ReadResult> {
  const { root } = await readManifest(pkg);
  const version = versionOf(root);
  if (version === null) {
    throw new Refusal(
      problem(
        'not-a-cartridge',
        'The manifest does not say that this is a Common Cartridge.',
        'Export the course as a Common Cartridge.',
        { file: MANIFEST, line: root.line },
      ),
    );
  }
  return new CartridgeReader(pkg, root, version).read();
}

interface Resource {
  id: string;
  type: string;
  element: XmlElement;
  /** Package paths of the files it names and that are there; the first is what it opens with. */
  files: string[];
}

class CartridgeReader {
  private readonly notes: Note[];
  private readonly definitions = new Set<string>();
  private readonly outlineTitles = new Map<string, string>();
  private readonly byFolded = new Map<string, string>();

  /** Banks bear no title in a cartridge, unless the outline gives one. */
  private banks = 0;
  private readonly pkg: Package;
  private readonly root: XmlElement;
  private readonly version: CcVersion;

  constructor(pkg: Package, root: XmlElement, version: CcVersion) {
    this.pkg = pkg;
    this.root = root;
    this.version = version;
    this.notes = [...pkg.notes];
    for (const path of pkg.entries.keys()) this.byFolded.set(path.toLowerCase(), path);
  }

  async read(): Promise<ReadResult> {
    const resources = this.resources();
    const outline = this.outline(resources);
    const items: Item[] = [];
    for (const resource of resources.values()) {
      const item = await this.item(resource);
      if (item) items.push(item);
    }
    const known = new Set(items.map((item) => item.id));
    const course: Course = {
      title: this.title(),
      origin: { format: 'cc', version: this.version, untouched: true },
      metadata: this.metadata(),
      outline: dropDangling(outline, known),
      items,
      files: this.files(),
    };
    return { course, notes: this.notes };
  }

  private title(): string {
    const general = child(this.root, 'metadata', 'lom', 'general');
    const organization = child(this.root, 'organizations', 'organization');
    return (
      fold(textOf(child(general, 'title'))) || fold(textOf(child(organization, 'title'))) || 'Course without a title'
    );
  }

  private metadata(): Metadata {
    const lom = child(this.root, 'metadata', 'lom');
    const general = child(lom, 'general');
    const description = fold(textOf(child(general, 'description')));
    const rights = fold(textOf(child(lom, 'rights', 'description')));
    const language = fold(textOf(child(general, 'language')));
    const entry = fold(textOf(child(general, 'identifier', 'entry')));
    return {
      keywords: elements(general, 'keyword').map((k) => fold(textOf(k))),
      ...(description ? { description } : {}),
      ...(rights ? { rights } : {}),
      ...(language ? { language } : {}),
      ...(entry ? { catalogEntry: entry } : {}),
    };
  }

  private resources(): Map<string, Resource> {
    const found = new Map<string, Resource>();
    for (const element of elements(child(this.root, 'resources'), 'resource')) {
      const id = element.attrs['identifier'] ?? '';
      if (found.has(id)) {
        this.notes.push(
          warning('resource-repeated', `The manifest has two resources ${id}.`, 'The first one was read.', {
            file: MANIFEST,
            item: id,
            line: element.line,
          }),
        );
        continue;
      }
      const named = elements(element, 'file').map((f) => ({ href: f.attrs['href'] ?? '', line: f.line }));
      const href = element.attrs['href'];
      if (href !== undefined) named.unshift({ href, line: element.line });
      const files = new Set<string>();
      const missing = new Set<string>();
      for (const { href: path, line } of named) {
        const there = this.find('', path);
        if (there !== null) files.add(there);
        else if (!missing.has(path)) {
          missing.add(path);
          this.notes.push(
            warning(
              'file-missing',
              `The manifest names ${path}, which is not in the package.`,
              'Look for the file at its source; everything else was read.',
              { file: MANIFEST, item: id, line },
            ),
          );
        }
      }
      found.set(id, { id, type: element.attrs['type'] ?? '', element, files: [...files] });
    }
    return found;
  }

  /** A package path for a reference, allowing for percent-encoding and for names that differ in case. */
  private find(folder: string, reference: string): string | null {
    for (const candidate of [reference, decodePercent(reference)]) {
      const path = resolvePath(folder, candidate);
      if (path === null) continue;
      if (this.pkg.entries.has(path)) return path;
      const folded = this.byFolded.get(path.toLowerCase());
      if (folded !== undefined) {
        this.notes.push(
          remark('name-case', `${reference} is in the package as ${folded}.`, 'Nothing; it was read.', {
            file: folded,
          }),
        );
        return folded;
      }
    }
    return null;
  }

  private outline(resources: ReadonlyMap<string, Resource>): OutlineNode[] {
    const organization = child(this.root, 'organizations', 'organization');
    const tops = elements(organization, 'item');
    // The cartridge profile asks for one untitled root item; some exporters leave it out.
    const [only] = tops;
    const untitled =
      tops.length === 1 && only && textOf(child(only, 'title')).trim() === '' && !only.attrs['identifierref'];
    return this.nodes(untitled && only ? elements(only, 'item') : tops, resources);
  }

  private nodes(list: readonly XmlElement[], resources: ReadonlyMap<string, Resource>): OutlineNode[] {
    return list.map((element) => {
      const ref = element.attrs['identifierref'];
      const title = fold(textOf(child(element, 'title')));
      const id = element.attrs['identifier'] ?? '';
      if (ref !== undefined && !resources.has(ref)) {
        this.notes.push(
          warning(
            'resource-missing',
            `“${title}” stands in the outline but has no resource.`,
            'Look for it at its source.',
            {
              file: MANIFEST,
              item: title || id,
              line: element.line,
            },
          ),
        );
      }
      if (ref !== undefined && !this.outlineTitles.has(ref)) this.outlineTitles.set(ref, title);
      return {
        id,
        title,
        ...(ref === undefined ? {} : { item: ref }),
        children: this.nodes(elements(element, 'item'), resources),
      };
    });
  }

  private async item(resource: Resource): Promise<Item | null> {
    const [first] = resource.files;
    const role = roleOfType(resource.type);
    if (role === 'associated') return null;
    if (role === 'web') return this.webContent(resource);
    if (role === null || first === undefined) return this.foreign(resource);
    const place = resource.files.find((f) => extensionOf(f) === 'xml') ?? first;
    let definition: XmlElement;
    try {
      definition = parseXml(decodeText(await this.pkg.bytes(place)), place);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      // One unreadable item must not cost the rest of the course.
      this.notes.push({
        ...error.problem,
        item: this.outlineTitles.get(resource.id) ?? resource.id,
        weight: 'warning',
      });
      return this.foreign(resource);
    }
    this.definitions.add(place);
    const common = (own: string, settings: Settings) => ({
      id: resource.id,
      title:
        this.outlineTitles.get(resource.id) && role === 'bank'
          ? (this.outlineTitles.get(resource.id) ?? own)
          : own || this.outlineTitles.get(resource.id) || resource.id,
      place,
      settings: { ...this.roles(resource), ...settings },
    });
    const own = fold(textOf(child(definition, 'title')));
    switch (role) {
      case 'link': {
        const url = child(definition, 'url');
        const target = url?.attrs['target'];
        return {
          kind: 'link',
          ...common(own, target === undefined ? {} : { linkTarget: target }),
          url: url?.attrs['href'] ?? '',
        };
      }
      case 'topic':
        return { kind: 'discussion', ...common(own, this.attachments(definition, place)), text: richText(definition) };
      case 'assignment': {
        const attached = this.attachments(definition, place);
        return {
          kind: 'assignment',
          ...common(own, { ...attached, ...assignmentSettings(definition) }),
          text: richText(definition),
        };
      }
      case 'tool':
        return {
          kind: 'tool',
          ...common(own, toolSettings(definition)),
          url: fold(textOf(child(definition, 'secure_launch_url'))) || fold(textOf(child(definition, 'launch_url'))),
          description: textOf(child(definition, 'description')),
        };
      case 'quiz':
      case 'bank': {
        const assessment = [...descendants(definition)].find((e) => e.name === 'assessment' || e.name === 'objectbank');
        const title = assessment?.attrs['title'] ?? '';
        return {
          kind: role,
          ...common(
            title || (role === 'bank' ? `Question bank ${++this.banks}` : ''),
            role === 'quiz' ? readQuizSettings(assessment) : {},
          ),
          questions: readQuestions(definition, (reference) => this.resolveToken(place, reference)),
        };
      }
    }
  }

  private webContent(resource: Resource): Item | null {
    const title = this.outlineTitles.get(resource.id);
    const [file] = resource.files;
    // Web content that stands nowhere in the outline is there to be shown by something else: a file, not an item.
    if (title === undefined || file === undefined) return null;
    const kind = /^(html?|xhtml)$/.test(extensionOf(file)) ? 'page' : 'file';
    return { kind, id: resource.id, title: title || baseName(file), place: file, settings: this.roles(resource), file };
  }

  private foreign(resource: Resource): Item {
    const title = this.outlineTitles.get(resource.id) || resource.id;
    if (roleOfType(resource.type) === null) {
      this.notes.push(
        remark(
          'foreign-part',
          `“${title}” is of a kind that is not read (${resource.type}).`,
          'It is carried as it is.',
          {
            file: MANIFEST,
            item: title,
            line: resource.element.line,
          },
        ),
      );
    }
    return {
      kind: 'foreign',
      id: resource.id,
      title,
      place: resource.files[0] ?? null,
      settings: this.roles(resource),
      type: resource.type,
      files: resource.files,
    };
  }

  /** Who may see a resource (LOM educational/intendedEndUserRole) and what it is meant for. */
  private roles(resource: Resource): Settings {
    const settings: Settings = {};
    const role = elements(child(resource.element, 'metadata', 'lom', 'educational'), 'intendedEndUserRole')
      .map((r) => fold(textOf(child(r, 'value'))))
      .filter((r) => r !== '');
    if (role.length > 0) settings.audience = role.join(', ');
    const use = resource.element.attrs['intendeduse'];
    if (use !== undefined && use !== 'unspecified') settings.intendedUse = use;
    return settings;
  }

  private attachments(definition: XmlElement, place: string): Settings {
    const paths: string[] = [];
    for (const attachment of elements(child(definition, 'attachments'), 'attachment')) {
      const href = attachment.attrs['href'] ?? '';
      const path = this.find(folderOf(place), href) ?? this.find('', href);
      if (path !== null) paths.push(path);
      else {
        this.notes.push(
          warning(
            'attachment-missing',
            `${place} attaches ${href}, which is not in the package.`,
            'Look for the file at its source.',
            {
              file: place,
              line: attachment.line,
            },
          ),
        );
      }
    }
    return paths.length > 0 ? { attachments: paths } : {};
  }

  private resolveToken(place: string, reference: string): string | null {
    const bare = reference.replace(/^\$IMS-CC-FILEBASE\$\/?/, '');
    if (/^[a-z][a-z0-9+.-]*:/i.test(bare)) return null;
    return this.find(folderOf(place), bare) ?? this.find('', bare);
  }

  private files(): CourseFile[] {
    const files: CourseFile[] = [];
    for (const entry of this.pkg.entries.values()) {
      if (entry.path === MANIFEST) continue;
      files.push({
        path: entry.path,
        size: entry.size,
        mediaType: mediaTypeOf(entry.path),
        role: this.definitions.has(entry.path) ? 'definition' : 'content',
      });
    }
    return files;
  }
}

function dropDangling(nodes: readonly OutlineNode[], known: ReadonlySet<string>): OutlineNode[] {
  return nodes
    .filter((n) => n.item === undefined || known.has(n.item) || n.children.length > 0)
    .map((n) => {
      const { item, ...rest } = n;
      const children = dropDangling(n.children, known);
      return item !== undefined && known.has(item) ? { ...rest, item, children } : { ...rest, children };
    });
}

function richText(definition: XmlElement): RichText {
  const text = child(definition, 'text');
  return { format: text?.attrs['texttype'] === 'text/plain' ? 'plain' : 'html', text: textOf(text) };
}

function assignmentSettings(definition: XmlElement): Settings {
  const settings: Settings = {};
  const gradable = child(definition, 'gradable');
  const points = Number(gradable?.attrs['points_possible'] ?? Number.NaN);
  if (Number.isFinite(points)) settings.points = points;
  const formats = elements(child(definition, 'submission_formats'), 'format').map((f) => f.attrs['type'] ?? '');
  if (formats.length > 0) settings.submissionFormats = formats;
  const notes = textOf(child(definition, 'instructor_text'));
  if (notes.trim() !== '') settings.instructorNotes = notes;
  return settings;
}

function toolSettings(definition: XmlElement): Settings {
  const settings: Settings = {};
  const custom = elements(child(definition, 'custom'), 'property');
  if (custom.length > 0) {
    settings.customParameters = Object.fromEntries(custom.map((p) => [p.attrs['name'] ?? '', textOf(p)]));
  }
  const vendor = fold(textOf(child(definition, 'vendor', 'name')));
  if (vendor) settings.vendor = vendor;
  const icon = fold(textOf(child(definition, 'icon')));
  if (icon) settings.icon = icon;
  return settings;
}
