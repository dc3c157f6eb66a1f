import type { Package } from '../../container/index.ts';
import { child, descendants, elements, fold, textOf, type XmlElement } from '../../markup/index.ts';
import {
  outlineOf,
  baseName,
  extensionOf,
  Refusal,
  remark,
  type Item,
  type Note,
  type OutlineNode,
  type Settings,
} from '../../model/index.ts';
import type { ReadResult } from '../format.ts';
import { readQuestionsIn, type Questions } from '../qti/read.ts';
import { isQti, leading } from '../qti/resources.ts';
import { neededShare, partOf, sequencingCollection, sequencingOf, wayThrough } from './sequencing.ts';
import { lomOf, settingsOfLom } from '../lom/read.ts';
import { MANIFEST, ManifestReader, readManifest, type Resource } from './manifest.ts';

/** What a package with an IMS manifest is beyond Content Packaging, by its metadata, namespaces and resources. */
export interface PackageKind {
  format: 'imscp' | 'scorm';
  version: string;
}

export function kindOf(root: XmlElement): PackageKind {
  const metadata = child(root, 'metadata');
  const schema = fold(textOf(child(metadata, 'schema')));
  const version = fold(textOf(child(metadata, 'schemaversion')));
  const namespaces = new Set([root, ...descendants(root)].map((e) => e.ns));
  if (/scorm/i.test(schema) || [...namespaces].some((ns) => /adlcp|adlseq|adlnav/.test(ns))) {
    if (/2004|CAM 1\.3/i.test(version) || [...namespaces].some((ns) => /adlcp_v1p3|adlseq_v1p3|imsss/.test(ns))) {
      return { format: 'scorm', version: version === 'CAM 1.3' ? '2004 2nd Edition' : version || '2004' };
    }
    return { format: 'scorm', version: '1.2' };
  }
  if (/imsproject\.org|imscp_rootv1p1p2/.test(root.ns)) return { format: 'imscp', version: '1.1.2' };
  return { format: 'imscp', version: /^\d+(\.\d+)*$/.test(version) ? version : '1.1.4' };
}

/**
 * Reads IMS Content Packaging and SCORM 1.2 and 2004: the outline, its pages and files, and what SCORM says of each
 * (ADL SCORM 1.2 CAM 2.3; SCORM 2004 4th Edition CAM 3.4, SN). Pages and files stay where they are.
 */
export async function readContentPackage(pkg: Package): Promise<ReadResult> {
  const { root } = await readManifest(pkg);
  return new ContentReader(pkg, root).read();
}

const NO_QUESTIONS: Questions = { items: [], itemOf: new Map(), definitions: new Set() };

class ContentReader {
  private readonly manifest: ManifestReader;
  private readonly notes: Note[];
  private readonly kind: PackageKind;
  private readonly root: XmlElement;
  private readonly pkg: Package;
  /** The outline's element that first shows a resource: SCORM says there how it is used. */
  private readonly shownBy = new Map<string, XmlElement>();
  private readonly shared: ReadonlyMap<string, XmlElement>;

  constructor(pkg: Package, root: XmlElement) {
    this.pkg = pkg;
    this.manifest = new ManifestReader(pkg, root);
    this.notes = this.manifest.notes;
    this.kind = kindOf(root);
    this.root = root;
    this.shared = sequencingCollection(root);
  }

  async read(): Promise<ReadResult> {
    const outline = this.manifest.outline();
    this.findElements(outline);
    const items: Item[] = [];
    const resources = [...this.manifest.resources.values()];
    for (const resource of resources) {
      const item = isQti(resource.type) ? null : await this.item(resource);
      if (item) items.push(item);
    }
    const asked = resources.some((r) => isQti(r.type))
      ? await readQuestionsIn(this.pkg, this.root, this.manifest)
      : NO_QUESTIONS;
    items.push(...asked.items.map((item) => this.shown(item, asked.itemOf)));
    const known = new Set(items.map((i) => i.id));
    return {
      course: this.manifest.withUnread({
        title: this.manifest.title() || 'Package without a title',
        origin: { format: this.kind.format, version: this.kind.version, untouched: true },
        metadata: this.manifest.metadata(),
        ...this.ofCourse(),
        outline: this.withSettings(outlineOf(leading(outline, asked.itemOf), known), new Set()),
        items,
        files: this.manifest.files(asked.definitions),
      }),
      notes: this.notes,
    };
  }

  /** What is said of the course: by its metadata, and of the way through it. */
  private ofCourse(): { settings?: Settings } {
    const { settings } = this.manifest.settings();
    const { organization } = this.manifest;
    const words = organization ? wayThrough(sequencingOf(organization, this.shared)) : [];
    return words.length > 0 ? { settings: { ...settings, sequencing: words } } : settings ? { settings } : {};
  }

  /** A quiz with what is set of it where it first stands. */
  private shown(item: Item, itemOf: Questions['itemOf']): Item {
    const [resource] = [...itemOf].find(([, id]) => id === item.id) ?? [];
    const element = resource === undefined ? undefined : this.shownBy.get(resource);
    return element ? { ...item, settings: { ...item.settings, ...this.settingsOfPlace(element) } } : item;
  }

  private findElements(nodes: readonly OutlineNode[]): void {
    for (const node of nodes) {
      const element = this.manifest.itemElements.get(node.id);
      if (node.item !== undefined && element && !this.shownBy.has(node.item)) this.shownBy.set(node.item, element);
      this.findElements(node.children);
    }
  }

  /** What is set of folders, and of items where they stand once more. */
  private withSettings(nodes: readonly OutlineNode[], seen: Set<string>): OutlineNode[] {
    return nodes.map((node) => {
      const isFirst = node.item !== undefined && !seen.has(node.item);
      if (node.item !== undefined) seen.add(node.item);
      const element = isFirst ? undefined : this.manifest.itemElements.get(node.id);
      const settings = element ? this.settingsOfPlace(element) : {};
      const resource = node.item === undefined ? undefined : this.manifest.resources.get(node.item);
      const parameters = isFirst ? '' : withParameters(resource?.parameters ?? '', settings.parameters ?? '');
      if (parameters) settings.parameters = parameters;
      const children = this.withSettings(node.children, seen);
      const isSet = Object.keys(settings).length > 0;
      if (!isSet && children.length === 0) return node;
      return isSet ? { ...node, settings, children } : { ...node, children };
    });
  }

  private async item(resource: Resource): Promise<Item | null> {
    const shown = this.shownBy.get(resource.id);
    const [file] = resource.files;
    const title = this.manifest.titles.get(resource.id) ?? '';
    const href = resource.element.attrs['href'] ?? '';
    if (/^https?:\/\//i.test(href)) {
      const settings = shown ? this.settingsOfPlace(shown) : {};
      return { kind: 'link', id: resource.id, title: title || href, definitionPath: null, settings, url: href };
    }
    // A medium is content, as is what every package has; Content Packaging leaves the names of types to whoever makes one.
    if (!/^(|webcontent|imslo.*|(text|image|audio|video|application)\/.+)$/i.test(resource.type)) {
      return this.foreign(resource, title);
    }
    // Content that stands nowhere in the outline is there to be shown by something else: a file, not an item.
    if (!shown || file === undefined) return null;
    const kind = /^(html?|xhtml)$/.test(extensionOf(file)) ? 'page' : 'file';
    const settings = { ...this.settings(resource, shown), ...(await this.described(resource, title)) };
    return { kind, id: resource.id, title: title || baseName(file), definitionPath: file, settings, file };
  }

  private foreign(resource: Resource, title: string): Item {
    this.notes.push(
      remark('foreign-part', `“${title || resource.id}” is of a kind that is not read (${resource.type}).`, {
        file: MANIFEST,
        item: title || resource.id,
        line: resource.element.line,
      }),
    );
    return {
      kind: 'foreign',
      id: resource.id,
      title: title || resource.id,
      definitionPath: resource.files[0] ?? null,
      settings: {},
      type: resource.type,
      files: resource.files,
    };
  }

  private settings(resource: Resource, shown: XmlElement): Settings {
    const settings = this.settingsOfPlace(shown);
    if (resource.scormType === 'sco') settings.tracked = true;
    const parameters = withParameters(resource.parameters, settings.parameters ?? '');
    if (parameters) settings.parameters = parameters;
    return settings;
  }

  /** What an element of the outline says of the place that it is. */
  private settingsOfPlace(shown: XmlElement): Settings {
    const settings: Settings = {};
    const text = (name: string) => fold(textOf(elements(shown, name)[0]));
    const prerequisites = text('prerequisites');
    if (prerequisites) settings.prerequisites = prerequisites;
    const mastery = text('masteryscore');
    if (mastery) settings.masteryScore = Number(mastery);
    const launch = textOf(elements(shown, 'datafromlms')[0] ?? elements(shown, 'dataFromLMS')[0]).trim();
    if (launch) settings.launchData = launch;
    const sequencing = sequencingOf(shown, this.shared);
    const limits = partOf(sequencing, 'limitConditions')?.attrs ?? {};
    const limit = text('maxtimeallowed') || (limits['attemptAbsoluteDurationLimit'] ?? '');
    if (limit) settings.timeAllowed = asDuration(limit);
    const atEnd = text('timelimitaction') || text('timeLimitAction');
    if (atEnd) settings.timeLimitAction = atEnd;
    const attempts = Number(limits['attemptLimit'] ?? 0);
    if (attempts > 0) settings.attempts = attempts;
    const threshold =
      text('completionThreshold') || elements(shown, 'completionThreshold')[0]?.attrs['minProgressMeasure'];
    if (threshold) settings.completionThreshold = threshold;
    const share = neededShare(sequencing);
    if (share) settings.masteryScore = Math.round(Number(share) * 1e6) / 1e4;
    const words = wayThrough(sequencing);
    if (words.length > 0) settings.sequencing = words;
    if (shown.attrs['isvisible'] === 'false') settings.hidden = true;
    const { parameters } = shown.attrs;
    if (parameters) settings.parameters = parameters;
    return {
      ...settings,
      ...settingsOfLom(lomOf(shown), {
        title: fold(textOf(child(shown, 'title'))),
        language: this.manifest.language,
      }),
    };
  }

  /** What LOM says of a resource, in the manifest or in a file that it names (`adlcp:location`). */
  private async described(resource: Resource, title: string): Promise<Settings> {
    const metadata = child(resource.element, 'metadata');
    const inline = child(metadata, 'lom');
    const location = fold(textOf(child(metadata, 'location')));
    const lom = inline ?? (location ? await this.lomFile(location) : undefined);
    return settingsOfLom(lom, { title, language: this.manifest.language });
  }

  private async lomFile(location: string): Promise<XmlElement | undefined> {
    const path = this.manifest.find('', location);
    if (path === null) return undefined;
    try {
      return await this.manifest.parse(path);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      this.notes.push({ ...error.problem, weight: 'warning' });
      return undefined;
    }
  }
}

/**
 * Query and fragment of a resource, with the parameters of a place added as SCORM says it (2004 4th Edition CAM 3.4.1.4): a
 * second question mark would belong to a value.
 */
export function withParameters(own: string, added: string): string {
  const bare = added.replace(/^[?&]+/, '');
  if (bare === '') return own;
  if (bare.startsWith('#')) return own.includes('#') ? own : own + bare;
  const [query = '', ...fragment] = own.split('#');
  const anchor = fragment.length > 0 ? `#${fragment.join('#')}` : '';
  return `${query}${query.includes('?') ? '&' : '?'}${bare}${anchor}`;
}

/** SCORM 1.2 writes `HHHH:MM:SS.ss` (CMITimespan), 2004 a duration of ISO 8601; the model has the latter. */
export function asDuration(text: string): string {
  const match = /^(\d{2,4}):(\d\d):(\d\d(?:\.\d+)?)$/.exec(text);
  if (!match) return text;
  const [hours, minutes, seconds] = match.slice(1).map(Number);
  const part = (n: number | undefined, unit: string) => (n ? `${n}${unit}` : '');
  return `PT${part(hours, 'H')}${part(minutes, 'M')}${part(seconds, 'S')}`.replace(/^PT$/, 'PT0S');
}

/** The other way round, as far as a duration has no parts longer than a day. */
export function asTimespan(duration: string): string {
  const match = /^P(?:(\d+)D)?T?(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?$/.exec(duration);
  if (!match) return duration;
  const [days = 0, hours = 0, minutes = 0, seconds = 0] = match.slice(1).map((n) => Number(n ?? 0));
  const two = (n: number) => String(n).padStart(2, '0');
  const all = Math.floor(minutes + seconds / 60);
  const rest = Math.round((seconds % 60) * 100) / 100;
  return `${String(days * 24 + hours + Math.floor(all / 60)).padStart(4, '0')}:${two(all % 60)}:${two(rest)}`;
}
