import type { Package } from '../../container/index.ts';
import {
  child,
  descendants,
  elements,
  fold,
  is,
  named,
  peekAt,
  saysAgain,
  textOf,
  type XmlElement,
  escapeXml,
} from '../../markup/index.ts';
import {
  outlineOf,
  Refusal,
  baseName,
  extensionOf,
  folderOf,
  problem,
  remark,
  warning,
  type Course,
  type Item,
  type ItemKind,
  type Note,
  type OutlineNode,
  type RichText,
  type Settings,
} from '../../model/index.ts';
import { withMaterial } from '../qti12/material-refs.ts';
import { BASE_TOKEN } from '../references.ts';
import { readQuestions, readAssessment, renameDraws } from '../qti12/read.ts';
import type { Outlined, ReadResult } from '../format.ts';
import { MANIFEST, ManifestReader, readManifest, type Manifest, type Resource } from '../imscp/manifest.ts';
import { settingsOfLom } from '../lom/read.ts';
import { asVersion, roleOfType, type CcRole, type CcVersion } from './versions.ts';

/** The cartridge version, by the manifest's schema version and, failing that, its namespace. */
export function versionOf(root: XmlElement): CcVersion | null {
  const metadata = child(root, 'metadata');
  const schema = textOf(child(metadata, 'schema')).trim();
  if (/^IMS (Thin )?Common Cartridge$/i.test(schema)) return asVersion(textOf(child(metadata, 'schemaversion')));
  const named = /imsccv(\d)p(\d)\//.exec(root.ns);
  return named ? asVersion(`${named[1]}.${named[2]}`) : null;
}

/**
 * Reads a Common Cartridge into the course model. Only the manifest and the definitions it names are read; pages and
 * files stay where they are.
 */
export async function readCartridge(pkg: Package): Promise<ReadResult> {
  return (await readerOf(pkg)).read();
}

/** Tells what the manifest alone says of a cartridge: no definition is read. */
export async function outlineCartridge(pkg: Package): Promise<Outlined> {
  return (await readerOf(pkg)).outlined();
}

async function readerOf(pkg: Package): Promise<CartridgeReader> {
  const manifest = await readManifest(pkg);
  const { root } = manifest;
  const version = versionOf(root);
  if (version === null) {
    throw new Refusal(
      problem('not-a-cartridge', 'The manifest does not say that this is a Common Cartridge.', {
        file: MANIFEST,
        line: root.line,
      }),
    );
  }
  return new CartridgeReader(pkg, manifest, version);
}

/** What is defined by a file of its own, by the role of its resource. */
const DEFINED = {
  link: 'link',
  topic: 'discussion',
  tool: 'tool',
  quiz: 'quiz',
  bank: 'bank',
  assignment: 'assignment',
} as const satisfies Record<Exclude<CcRole, 'web' | 'associated'>, ItemKind>;

class CartridgeReader {
  private readonly notes: Note[];
  private readonly definitions = new Set<string>();
  /** Resources of banks by the identifier that quizzes draw from. */
  private readonly bankOf = new Map<string, string>();
  /** Banks bear no title in a cartridge, unless the outline gives one. */
  private banks = 0;
  /** Banks inside quizzes that draw from them. */
  private readonly drawn: Item[] = [];
  private readonly pkg: Package;
  private readonly manifest: ManifestReader;
  private readonly root: XmlElement;
  private readonly text: string;
  private readonly version: CcVersion;

  constructor(pkg: Package, { root, text }: Manifest, version: CcVersion) {
    this.pkg = pkg;
    this.root = root;
    this.text = text;
    this.manifest = new ManifestReader(pkg, root);
    this.notes = this.manifest.notes;
    this.version = version;
  }

  async read(): Promise<ReadResult> {
    const outline = this.manifest.outline();
    this.noteProtection();
    const items: Item[] = [];
    for (const resource of this.manifest.resources.values()) {
      const role = roleOfType(resource.type);
      // Most of a course is web content, of which nothing has to be read and so nothing waited for.
      const item = role === 'web' ? this.webContent(resource) : await this.item(resource, role);
      if (item) items.push(this.withUnread(item));
    }
    items.push(...this.drawn);
    for (const item of items) renameDraws(item, this.bankOf);
    const course: Course = { ...this.around(outline, items), ...this.manifest.settings(), items };
    return { course: this.manifest.withUnread(course), notes: this.notes };
  }

  outlined(): Outlined {
    const outline = this.manifest.outline();
    this.noteProtection();
    const items = [...this.manifest.resources.values()].flatMap((resource) => this.titled(resource) ?? []);
    return { ...this.around(outline, items), items, notes: this.notes };
  }

  /** What stands around the items of a course. */
  private around(outline: readonly OutlineNode[], items: readonly { id: string }[]): Omit<Outlined, 'items' | 'notes'> {
    return {
      title: this.manifest.title() || 'Course without a title',
      origin: { format: 'cc', version: this.version, untouched: true },
      metadata: this.manifest.metadata(),
      outline: outlineOf(outline, new Set(items.map((item) => item.id))),
      files: this.manifest.files(this.definitions),
    };
  }

  /** An item as its resource and the outline name it. */
  private titled(resource: Resource): Outlined['items'][number] | null {
    const role = roleOfType(resource.type);
    if (role === 'web' || role === 'associated') return this.webContent(resource);
    const place = placeOf(resource);
    if (role === null || (place === null && !inlineIn(resource.element))) return this.foreign(resource);
    if (place !== null) this.definitions.add(place);
    return { kind: DEFINED[role], id: resource.id, title: this.manifest.titles.get(resource.id) ?? resource.id };
  }

  /** An item with what was not read of its definition. */
  private withUnread(item: Item): Item {
    if (item.definitionPath === null || !this.definitions.has(item.definitionPath)) return item;
    const unread = this.manifest.ledger.takeOf(item.definitionPath);
    return unread.length === 0 ? item : { ...item, settings: { ...item.settings, unread } };
  }

  /** What is meant to be unlocked by a key is said to be so, and never got around. */
  private noteProtection(): void {
    if (!this.text.includes('authorizations')) return;
    const found = named(this.root, 'authorizations');
    for (const element of found) {
      const whole = element.attrs['access'] === 'cartridge';
      this.notes.push(
        warning(
          'protected',
          whole ? 'The whole cartridge asks for an authorization.' : 'Parts of the cartridge ask for an authorization.',
          { file: MANIFEST, line: element.line },
        ),
      );
    }
  }

  private async item(resource: Resource, role: Exclude<CcRole, 'web'> | null): Promise<Item | null> {
    // It belongs to another resource; but what an author put into the outline is there to be opened.
    if (role === 'associated') return this.webContent(resource);
    if (role === null) return this.foreign(resource);
    const place = placeOf(resource);
    const definition = place === null ? inlineIn(resource.element) : await this.definition(place, resource.id);
    if (!definition) return this.foreign(resource);
    if (place !== null) this.definitions.add(place);
    const common = (own: string, settings: Settings) => ({
      id: resource.id,
      title:
        this.manifest.titles.get(resource.id) && role === 'bank'
          ? (this.manifest.titles.get(resource.id) ?? own)
          : own || this.manifest.titles.get(resource.id) || resource.id,
      definitionPath: place,
      settings: { ...this.said(resource), ...settings },
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
        return {
          kind: DEFINED[role],
          ...common(own, this.attachments(definition, place ?? '')),
          text: richText(definition),
        };
      case 'assignment': {
        const attached = this.attachments(definition, place ?? '');
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
          url: launchAddress(definition),
          description: textOf(child(definition, 'description')),
        };
      case 'quiz':
      case 'bank': {
        const shown = withMaterial(definition);
        const assessment = descendants(shown).find((e) => is(e, 'assessment') || is(e, 'objectbank'));
        const title = assessment?.attrs['title'] ?? '';
        const from = place ?? '';
        const resolve = (reference: string) => this.resolveToken(from, reference);
        if (role === 'bank') {
          this.bankOf.set(assessment?.attrs['ident'] ?? '', resource.id);
          const questions = readQuestions(shown, from, resolve);
          return { kind: role, ...common(title || `Question bank ${++this.banks}`, {}), questions };
        }
        const { questions, settings, banks } = readAssessment(
          assessment ?? definition,
          from,
          title || resource.id,
          resolve,
          (section) => this.freeId(`${resource.id}-${section}`),
        );
        this.drawn.push(...banks);
        return { kind: role, ...common(title, settings), questions };
      }
    }
  }

  /** `null` where it can't be read: one unreadable item must not cost the rest of the course. */
  private async definition(place: string, id: string): Promise<XmlElement | null> {
    try {
      return await this.manifest.parse(place);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      this.notes.push({ ...error.problem, item: this.manifest.titles.get(id) ?? id, weight: 'warning' });
      return null;
    }
  }

  /** Whether a resource is an item of its own: web content is only where the outline shows it. */
  private isItem(id: string): boolean {
    const resource = this.manifest.resources.get(id);
    const role = resource && roleOfType(resource.type);
    return resource !== undefined && ((role !== 'web' && role !== 'associated') || this.manifest.titles.has(id));
  }

  private freeId(wanted: string): string {
    let id = wanted;
    while (this.manifest.resources.has(id) || this.drawn.some((b) => b.id === id)) id += '_';
    return id;
  }

  private webContent(resource: Resource): Item | null {
    const title = this.manifest.titles.get(resource.id);
    const file = resource.files[0];
    // Web content that stands nowhere in the outline is there to be shown by something else: a file, not an item.
    if (title === undefined || file === undefined) return null;
    const kind = /^(html?|xhtml)$/.test(extensionOf(file)) ? 'page' : 'file';
    return {
      kind,
      id: resource.id,
      title: title || baseName(file),
      definitionPath: file,
      settings: this.said(resource),
      file,
    };
  }

  private foreign(resource: Resource): Item {
    const title = this.manifest.titles.get(resource.id) || resource.id;
    if (roleOfType(resource.type) === null) {
      this.notes.push(
        remark('foreign-part', `“${title}” is of a kind that is not read (${resource.type}).`, {
          file: MANIFEST,
          item: title,
          line: resource.element.line,
        }),
      );
    }
    return {
      kind: 'foreign',
      id: resource.id,
      title,
      definitionPath: resource.files[0] ?? null,
      settings: this.said(resource),
      type: resource.type,
      files: resource.files,
    };
  }

  /** What the manifest says of a resource: its LOM, what it is meant for, curriculum standards, variants. */
  private said(resource: Resource): Settings {
    const metadata = child(resource.element, 'metadata');
    const settings = metadata
      ? saidByMetadata(metadata, {
          title: this.manifest.titles.get(resource.id) ?? '',
          language: this.manifest.language,
        })
      : {};
    const use = resource.element.attrs['intendeduse'];
    if (use !== undefined && use !== 'unspecified') settings.intendedUse = use;
    // A variant that is no item is nothing that could be named; it is told as what was not read.
    const variants = elements(resource.element)
      .filter((e) => e.name === 'variant' && this.isItem(peekAt(e, 'identifierref') ?? ''))
      .map((v) => v.attrs['identifierref'] ?? '');
    if (variants.length > 0) settings.variants = variants;
    return settings;
  }

  private attachments(definition: XmlElement, place: string): Settings {
    const found: Record<'attachments' | 'instructorAttachments', string[]> = {
      attachments: [],
      instructorAttachments: [],
    };
    for (const attachment of elements(child(definition, 'attachments'), 'attachment')) {
      const href = attachment.attrs['href'] ?? '';
      const path = this.manifest.find(folderOf(place), href) ?? this.manifest.find('', href);
      const isForInstructors = attachment.attrs['role']?.toLowerCase() === 'instructor';
      if (path !== null) found[isForInstructors ? 'instructorAttachments' : 'attachments'].push(path);
      else {
        this.notes.push(
          warning('attachment-missing', `${place} attaches ${href}, which is not in the package.`, {
            file: place,
            line: attachment.line,
          }),
        );
      }
    }
    return Object.fromEntries(Object.entries(found).filter(([, paths]) => paths.length > 0));
  }

  private resolveToken(place: string, reference: string): string | null {
    const bare = reference.replace(BASE_TOKEN, '');
    if (/^[a-z][a-z0-9+.-]*:/i.test(bare)) return null;
    return this.manifest.find(folderOf(place), bare) ?? this.manifest.find('', bare);
  }
}

/** The file that a resource is defined in. */
function placeOf({ files }: Resource): string | null {
  return files.find((f) => extensionOf(f) === 'xml') ?? files[0] ?? null;
}

/** Web links and tools may be defined in the manifest itself (Thin Common Cartridge 1.2, 1.3). */
function inlineIn(resource: XmlElement): XmlElement | null {
  return elements(resource).find((e) => is(e, 'webLink', 'cartridge_basiclti_link')) ?? null;
}

function saidByMetadata(metadata: XmlElement, of: Parameters<typeof settingsOfLom>[1]): Settings {
  const settings = settingsOfLom(child(metadata, 'lom'), of);
  named(metadata, 'curriculumStandardsMetadataSet', 'curriculumStandardsMetadata', 'setOfGUIDs');
  const standards = named(metadata, 'labelledGUID');
  if (standards.length > 0) {
    settings.standards = Object.fromEntries(
      standards.map((s) => [fold(textOf(child(s, 'GUID'))), fold(textOf(child(s, 'label')))]),
    );
  }
  return settings;
}

function richText(definition: XmlElement): RichText {
  const text = child(definition, 'text');
  return { format: text?.attrs['texttype'] === 'text/plain' ? 'plain' : 'html', text: textOf(text) };
}

function assignmentSettings(definition: XmlElement): Settings {
  const settings: Settings = {};
  const gradable = child(definition, 'gradable');
  const points = Number(gradable?.attrs['points_possible'] ?? Number.NaN);
  // One that is not graded may say what it was worth (1.3 Assignment Extension).
  if (Number.isFinite(points) && !/^(false|0)$/.test(textOf(gradable).trim())) settings.points = points;
  const formats = elements(child(definition, 'submission_formats'), 'format').map((f) => f.attrs['type'] ?? '');
  if (formats.length > 0) settings.submissionFormats = formats;
  const notes = child(definition, 'instructor_text');
  const isPlain = notes?.attrs['texttype'] === 'text/plain';
  const text = textOf(notes);
  if (text.trim() !== '') settings.instructorNotes = isPlain && /[<&]/.test(text) ? escapeXml(text) : text;
  return settings;
}

/** Where a tool is reached: in safety, where it says so. */
function launchAddress(definition: XmlElement): string {
  const secure = fold(textOf(child(definition, 'secure_launch_url')));
  const plain = elements(definition).find((e) => e.name === 'launch_url');
  if (secure === '') return fold(textOf(plain));
  // The address without a lock is the same one.
  saysAgain(plain, secure, secure.replace(/^https:/, 'http:'));
  return secure;
}

function toolSettings(definition: XmlElement): Settings {
  const settings: Settings = {};
  const custom = elements(child(definition, 'custom'), 'property');
  if (custom.length > 0) {
    settings.customParameters = Object.fromEntries(custom.map((p) => [p.attrs['name'] ?? '', textOf(p)]));
  }
  const vendor = fold(textOf(child(definition, 'vendor', 'name')));
  if (vendor) settings.vendor = vendor;
  const code = elements(child(definition, 'vendor')).find((e) => e.name === 'code');
  // It is asked for, and says nothing where it is made up.
  saysAgain(code, 'vendor', vendor);
  const icon = fold(textOf(child(definition, 'icon')));
  if (icon) settings.icon = icon;
  return settings;
}
