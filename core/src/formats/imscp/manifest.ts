import { onceFor, type Package } from '../../container/index.ts';
import {
  Ledger,
  child,
  decodeText,
  elements,
  fold,
  parseXml,
  saysAgain,
  takenAs,
  textOf,
  vocabularyOf,
  type XmlElement,
} from '../../markup/index.ts';
import { IGNORED } from './ignored.ts';
import { beyond, lomOf, metadataOf, readLom, titleIn } from '../lom/read.ts';
import {
  Refusal,
  decodePercent,
  foldedPath,
  mediaTypeOf,
  problem,
  remark,
  resolvePath,
  warning,
  type Course,
  type CourseFile,
  type Lom,
  type Metadata,
  type Note,
  type OutlineNode,
  type Settings,
} from '../../model/index.ts';

export const MANIFEST = 'imsmanifest.xml';

/** Resource of the page that plays a whole course in one; its outline then stands in a second organization. */
export const PLAYER = 'treenail-player';

/** Script of the pages that hold an object of the other edition; what they hold is the second file of their resource. */
export const BRIDGE = 'treenail-bridge';

/** What the outline of one page is made of. */
const PLAYED = vocabularyOf(
  'organization title item sequencing controlMode',
  'identifier identifierref structure choice flow isvisible',
);

/** Whether the course is played by one page for all of it. */
export function isPlayedWhole(root: XmlElement): boolean {
  return elements(child(root, 'resources'), 'resource').some((r) => r.attrs['identifier'] === PLAYER);
}

export interface Manifest {
  text: string;
  root: XmlElement;
}

/**
 * The parsed manifest. Detecting, reading and planning all ask for it: it is parsed for the first of them.
 * @throws Refusal `no-manifest`, and those of `parseXml`
 */
export const readManifest = onceFor(parseManifest);

/** Whether a package has a manifest, so that its files are carried as they are, under the paths that they have. */
export const hasManifest = (pkg: Package): boolean => pkg.entries.has(MANIFEST);

async function parseManifest(pkg: Package): Promise<Manifest> {
  if (!pkg.entries.has(MANIFEST)) {
    throw new Refusal(problem('no-manifest', `The zip has no ${MANIFEST} at its top.`, { file: MANIFEST }));
  }
  const text = decodeText(await pkg.bytes(MANIFEST));
  return { text, root: parseXml(text, MANIFEST, pkg.limits.xmlDepth) };
}

/** A reference to a file, and the line of the manifest that it stands in. */
interface Named {
  href: string;
  line: number;
}

export interface Resource {
  id: string;
  type: string;
  element: XmlElement;
  /** Package paths of the files it names and that are there; the first is what it opens with. */
  files: string[];
  /** Query and fragment that it opens its first file with. */
  parameters: string;
  dependencies: string[];
  /** In small letters; '' outside SCORM. */
  scormType: string;
}

/**
 * The parts that all packages with an IMS manifest have in common (IMS Content Packaging 1.1.2 to 1.2): resources with
 * their bases and files, organizations and sub-manifests as one outline, metadata in either of LOM's two spellings.
 */
export class ManifestReader {
  readonly notes: Note[];
  readonly resources = new Map<string, Resource>();
  /** The first title that the outline gives a resource. */
  readonly titles = new Map<string, string>();
  /** Elements of the outline by the identifier of their node. */
  readonly itemElements = new Map<string, XmlElement>();
  /** What of the manifest, and of all files that are read because of it, was not taken. */
  readonly ledger = new Ledger(IGNORED);
  /** Paths as `foldedPath` has them; made when a name is first not found. */
  private byFolded: Map<string, string> | null = null;
  private readonly pkg: Package;
  private readonly root: XmlElement;
  private readonly lom: Lom;
  private readonly fileLom = new Map<string, Lom>();
  private readonly submanifests = new Map<string, XmlElement>();

  constructor(pkg: Package, root: XmlElement) {
    this.pkg = pkg;
    this.root = root;
    this.notes = [...pkg.notes];
    this.ledger.add(root, MANIFEST);
    // What it is was told by the types of its resources, or by its namespaces.
    for (const name of ['schema', 'schemaversion']) textOf(child(root, 'metadata', name));
    this.lom = readLom(lomOf(root));
    this.takeManifest(root, '');
  }

  private takeManifest(manifest: XmlElement, base: string): void {
    const own = join(base, manifest.attrs['base']);
    const resources = child(manifest, 'resources');
    for (const element of elements(resources, 'resource'))
      this.takeResource(element, join(own, resources?.attrs['base']));
    for (const inner of elements(manifest, 'manifest')) {
      this.submanifests.set(inner.attrs['identifier'] ?? '', inner);
      this.takeManifest(inner, own);
    }
  }

  private takeResource(element: XmlElement, base: string): void {
    const id = element.attrs['identifier'] ?? '';
    if (this.resources.has(id)) {
      this.notes.push(
        warning('resource-repeated', `The manifest has two resources ${id}.`, {
          file: MANIFEST,
          item: id,
          line: element.line,
        }),
      );
      return;
    }
    const folder = join(base, element.attrs['base']);
    const href = element.attrs['href'];
    const named: Named[] = [];
    if (href !== undefined && !isElsewhere(href)) named.push({ href, line: element.line });
    const dependencies: string[] = [];
    for (const part of element.children) {
      if (typeof part === 'string') continue;
      if (part.name === 'dependency') dependencies.push(part.attrs['identifierref'] ?? '');
      if (part.name === 'file' && part.children.length > 0) this.describeFile(part, folder);
      // What a resource opens with is as a rule named a second time, as the first of its files.
      if (part.name === 'file' && part.attrs['href'] !== named[0]?.href) {
        named.push({ href: part.attrs['href'] ?? '', line: part.line });
      }
    }
    this.resources.set(id, {
      id,
      type: element.attrs['type'] ?? '',
      element,
      files: this.filesNamed(dependencies.includes(BRIDGE) ? named.slice(1) : named, folder, id),
      parameters: href === undefined ? '' : (/[?#].*$/.exec(href)?.[0] ?? ''),
      dependencies,
      scormType: (element.attrs['scormtype'] ?? element.attrs['scormType'] ?? '').toLowerCase(),
    });
  }

  private describeFile(file: XmlElement, folder: string): void {
    const lom = readLom(lomOf(file));
    if (Object.keys(lom).length === 0) return;
    const path = this.find(folder, file.attrs['href'] ?? '');
    if (path !== null) this.fileLom.set(path, lom);
  }

  /** Package paths for the references of a resource. */
  private filesNamed(named: readonly Named[], folder: string, item: string): string[] {
    const files: string[] = [];
    const missing = new Set<string>();
    for (const { href, line } of named) {
      const there = this.find(folder, href);
      if (there !== null) files.push(there);
      else if (!missing.has(href)) {
        missing.add(href);
        this.notes.push(
          warning(
            'file-missing',
            `The manifest names ${folder}${href}, which is not in the package.`,
            { file: MANIFEST, item, line },
            'Look for the file at its source; everything else was read.',
          ),
        );
      }
    }
    return files.length < 2 ? files : [...new Set(files)];
  }

  /**
   * A package path for a reference, allowing for percent-encoding, for backslashes, and for names that differ in case or in
   * how their letters are composed.
   */
  find(folder: string, reference: string): string | null {
    for (const written of new Set([
      reference,
      decodePercent(reference),
      decodePercent(reference).replaceAll('\\', '/'),
    ])) {
      const there = this.spelled(folder, written);
      if (there !== null) return there;
    }
    return null;
  }

  private spelled(folder: string, reference: string): string | null {
    const path = resolvePath(folder, reference);
    if (path === null || this.pkg.entries.has(path)) return path;
    this.byFolded ??= new Map(Array.from(this.pkg.entries.keys(), (there) => [foldedPath(there), there]));
    const folded = this.byFolded.get(foldedPath(path));
    if (folded === undefined) return null;
    this.notes.push(remark('name-case', `${reference} is in the package as ${folded}.`, { file: folded }));
    return folded;
  }

  /** The organization that is the outline, and the others. */
  private organizations(): { first: XmlElement | undefined; others: XmlElement[]; line: number | undefined } {
    const organizations = child(this.root, 'organizations');
    const all = elements(organizations, 'organization');
    const first = all.find((o) => o.attrs['identifier'] === organizations?.attrs['default']) ?? all[0];
    const others = all.filter((o) => o !== first);
    const line = organizations?.line;
    if (!isPlayedWhole(this.root) || others.length !== 1) return { first, others, line };
    // What it shows first is only the page that plays the other.
    takenAs(PLAYED, first);
    return { first: others[0], others: [], line };
  }

  /** The element of the outline that is shown first. */
  get organization(): XmlElement | undefined {
    return this.organizations().first;
  }

  /** The default organization; where there are several, the others follow it as folders of their own. */
  outline(): OutlineNode[] {
    const { first, others, line } = this.organizations();
    if (others.length > 0) {
      this.notes.push(
        remark('several-outlines', `The package has ${others.length + 1} outlines.`, {
          file: MANIFEST,
          line,
        }),
      );
    }
    return [
      ...this.topOf(first),
      ...others.map((o, i): OutlineNode => ({
        id: o.attrs['identifier'] ?? `outline-${i + 2}`,
        title: fold(textOf(child(o, 'title'))) || `Outline ${i + 2}`,
        children: this.topOf(o),
      })),
    ];
  }

  private topOf(organization: XmlElement | undefined): OutlineNode[] {
    const tops = elements(organization, 'item');
    // The cartridge profile asks for one untitled root item; some exporters leave it out.
    const [only] = tops;
    const untitled =
      tops.length === 1 && only && textOf(child(only, 'title')).trim() === '' && !only.attrs['identifierref'];
    return this.nodes(untitled && only ? elements(only, 'item') : tops, []);
  }

  private nodes(list: readonly XmlElement[], through: readonly string[]): OutlineNode[] {
    return list.map((element) => {
      const ref = element.attrs['identifierref'] || undefined;
      const title = fold(textOf(child(element, 'title')));
      const id = element.attrs['identifier'] ?? '';
      this.itemElements.set(id, element);
      const children = this.nodes(elements(element, 'item'), through);
      const sub = ref === undefined ? undefined : this.submanifests.get(ref);
      if (sub && ref !== undefined) {
        if (through.includes(ref)) {
          this.notes.push(
            warning('manifest-circular', `The manifest ${ref} is part of itself.`, {
              file: MANIFEST,
              item: title || id,
              line: element.line,
            }),
          );
          return { id, title, children };
        }
        const inner = elements(child(sub, 'organizations', 'organization'), 'item');
        return { id, title, children: [...this.nodes(inner, [...through, ref]), ...children] };
      }
      if (ref !== undefined && !this.resources.has(ref)) {
        this.notes.push(
          warning('resource-missing', `“${title}” stands in the outline but has no resource.`, {
            file: MANIFEST,
            item: title || id,
            line: element.line,
          }),
        );
      }
      if (ref !== undefined && !this.titles.has(ref)) this.titles.set(ref, title);
      return { id, title, ...(ref === undefined ? {} : { item: ref }), children };
    });
  }

  title(): string {
    const title = elements(this.organizations().first).find((e) => e.name === 'title');
    const own = titleIn(this.lom);
    if (own === undefined) return fold(textOf(title));
    saysAgain(title, own);
    return own;
  }

  /** The language that the course is said to be in. */
  get language(): string | undefined {
    return this.lom.general?.language?.[0];
  }

  metadata(): Metadata {
    return metadataOf(this.lom);
  }

  /** What is said of the course beyond its metadata, and of its files; nothing where nothing is. */
  settings(): { settings?: Settings } {
    const settings: Settings = {
      ...beyond(this.lom, { roles: 'kept' }),
      ...(this.fileLom.size > 0 ? { fileLom: Object.fromEntries(this.fileLom) } : {}),
    };
    return Object.keys(settings).length > 0 ? { settings } : {};
  }

  /** @throws Refusal as `Package.bytes` and `parseXml` */
  async parse(path: string): Promise<XmlElement> {
    return this.ledger.parse(decodeText(await this.pkg.bytes(path)), path, this.pkg.limits.xmlDepth);
  }

  /** The course that was read, with what no reader took and no item has told. */
  withUnread(course: Course): Course {
    const unread = this.ledger.rest();
    return unread.length === 0 ? course : { ...course, settings: { ...course.settings, unread } };
  }

  files(definitions: ReadonlySet<string>): CourseFile[] {
    const files: CourseFile[] = [];
    for (const entry of this.pkg.entries.values()) {
      if (entry.path === MANIFEST) continue;
      files.push({
        path: entry.path,
        size: entry.size,
        mediaType: mediaTypeOf(entry.path),
        role: definitions.has(entry.path) ? 'definition' : 'content',
      });
    }
    return files;
  }
}

function join(folder: string, base: string | undefined): string {
  if (base === undefined || base === '') return folder;
  const path = resolvePath(folder, decodePercent(base));
  return path === null || path === '' ? '' : `${path}/`;
}

function isElsewhere(href: string): boolean {
  return /^[a-z][a-z0-9+.-]*:\/\//i.test(href);
}
