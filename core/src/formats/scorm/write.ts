import type { Package } from '../../container/index.ts';
import { decodeText, escapeXml, isRelative, readPage, xml } from '../../markup/index.ts';
import {
  folderOf,
  resolvePath,
  type Course,
  type Item,
  type ItemOf,
  type SettingValue,
  type Settings,
} from '../../model/index.ts';
import type { PlannedEntry } from '../format.ts';
import { freePath, renderedStem } from '../imscp/index.ts';
import type { PageWriter } from '../imscp/kinds.ts';
import { BRIDGE, MANIFEST, PLAYER } from '../imscp/manifest.ts';
import { asTimespan } from '../imscp/read.ts';
import { DECLARATION, courseLom, fileXml, outlineItems } from '../imscp/write.ts';
import { asUtf8 } from '../leads.ts';
import { metadataElement } from '../lom/write.ts';
import { bridgePage, bridgeScript } from '../play/bridge.ts';
import { playScript } from '../play/runtime.ts';
import { wholePage, wholeScript } from '../play/whole.ts';
import { encodePath } from '../references.ts';
import { renderItem, runtimeTag } from '../render.ts';
import { writeBy, writtenBy } from '../table.ts';
import { SCORM_KINDS } from './kinds.ts';

type Edition = '1.2' | '2004';

interface Dialect {
  namespaces: Record<string, string>;
  schemaVersion: string;
  scormType: string;
}

/** What each edition says of an item: SCORM 1.2 CAM 2.3.3; SCORM 2004 4th Edition CAM 3.4.1.9, 5.1. */
const SAID: Record<Edition, (settings: Settings, item: Item | null) => string> = {
  '1.2': (settings) =>
    [
      said('adlcp:prerequisites', settings.prerequisites, { type: 'aicc_script' }),
      said(
        'adlcp:maxtimeallowed',
        typeof settings.timeAllowed === 'string' ? asTimespan(settings.timeAllowed) : undefined,
      ),
      said('adlcp:timelimitaction', settings.timeLimitAction),
      said('adlcp:datafromlms', settings.launchData),
      said('adlcp:masteryscore', settings.masteryScore),
    ].join(''),
  '2004': (settings, item) => {
    const { timeAllowed, masteryScore, completionThreshold } = settings;
    const limits = {
      // A quiz that became a page counts its attempts by nothing that it had: its profile says so.
      attemptLimit: item?.kind !== 'quiz' && typeof settings.attempts === 'number' ? settings.attempts : undefined,
      attemptAbsoluteDurationLimit: typeof timeAllowed === 'string' ? timeAllowed : undefined,
    };
    const sequencing = [
      Object.values(limits).some((limit) => limit !== undefined) ? xml('imsss:limitConditions', limits) : '',
      typeof masteryScore === 'number'
        ? xml(
            'imsss:objectives',
            {},
            xml(
              'imsss:primaryObjective',
              { satisfiedByMeasure: 'true' },
              xml('imsss:minNormalizedMeasure', {}, String(masteryScore / 100)),
            ),
          )
        : '',
    ].join('');
    return [
      said('adlcp:timeLimitAction', settings.timeLimitAction),
      said('adlcp:dataFromLMS', settings.launchData),
      typeof completionThreshold === 'string'
        ? xml('adlcp:completionThreshold', { minProgressMeasure: completionThreshold, completedByMeasure: 'true' })
        : '',
      sequencing === '' ? '' : xml('imsss:sequencing', {}, sequencing),
    ].join('');
  },
};

function said(name: string, value: SettingValue | undefined, attributes: Record<string, string> = {}): string {
  return typeof value === 'string' || typeof value === 'number' ? xml(name, attributes, escapeXml(String(value))) : '';
}

/** Namespaces and spellings: SCORM 1.2 CAM 2.3.2; SCORM 2004 4th Edition CAM 3.4. */
const DIALECTS: Record<Edition, Dialect> = {
  '1.2': {
    namespaces: {
      xmlns: 'http://www.imsproject.org/xsd/imscp_rootv1p1p2',
      'xmlns:adlcp': 'http://www.adlnet.org/xsd/adlcp_rootv1p2',
    },
    schemaVersion: '1.2',
    scormType: 'adlcp:scormtype',
  },
  '2004': {
    namespaces: {
      xmlns: 'http://www.imsglobal.org/xsd/imscp_v1p1',
      'xmlns:adlcp': 'http://www.adlnet.org/xsd/adlcp_v1p3',
      'xmlns:imsss': 'http://www.imsglobal.org/xsd/imsss',
    },
    schemaVersion: '2004 4th Edition',
    scormType: 'adlcp:scormType',
  },
};

/**
 * A package that plays: every page and quiz reports for itself (one SCO each), or, as a `whole`, one page with its own
 * navigation reports for all of them. Files are assets. Pages get one script at their end and are else as they were; all
 * other files pass through as compressed bytes.
 */
export function planScorm(all: Course, edition: Edition, whole: boolean, source: Package): PlannedEntry[] {
  const course = writtenBy(all, SCORM_KINDS);
  const dialect = DIALECTS[edition];
  const content = course.files.filter((f) => f.role === 'content').map((f) => f.path);
  const given: ReadonlySet<string> = new Set(content);
  const writer = new ScormWriter(course, dialect, whole ? 'asset' : 'sco', source, content, isOfOther(course, edition));
  for (const item of course.items) writeBy(SCORM_KINDS, item, writer);
  const { resources, owned, made, address, taken, runtime } = writer;
  const resource = writer.resource.bind(writer);
  const ids = new Set(course.items.map((i) => i.id));
  content
    .filter((path) => !owned.has(path))
    .forEach((path, i) => {
      let id = `file_${i + 1}`;
      while (ids.has(id)) id += '_';
      resources.push(resource(id, 'asset', path, [path], false));
    });
  resources.push(resource(RUNTIME, 'asset', undefined, [runtime], false));
  const bridges = writer.bridges();
  if (bridges.length > 0) resources.push(resource(BRIDGE, 'asset', undefined, [writer.bridge], false));
  const player = whole ? planPlayer(course, address, taken) : [];
  const [first] = player;
  if (first) resources.push(resource(PLAYER, 'sco', first.path, [...player.map((e) => e.path), ...content], true));
  return [
    { path: MANIFEST, text: manifest(course, dialect, edition, ids, resources, whole) },
    ...player,
    ...[...made.values()].filter((e) => !given.has(e.path)),
    ...content.map((path): PlannedEntry => made.get(path) ?? { path, copy: path }),
    { path: runtime, text: playScript() },
    ...bridges,
  ];
}

/** Whether what reports in it does so by the runtime interface of the other edition. */
function isOfOther({ origin }: Course, edition: Edition): boolean {
  return origin.format === 'scorm' && (origin.version === '1.2') !== (edition === '1.2');
}

class ScormWriter implements PageWriter {
  readonly resources: string[] = [];
  readonly owned = new Set<string>();
  /** What is written anew, by its path. */
  readonly made = new Map<string, PlannedEntry>();
  /** Where each item is found, by its identifier. */
  readonly address = new Map<string, string>();
  readonly taken: Set<string>;
  /** Path of the script by which pages report. */
  readonly runtime: string;
  private readonly course: Course;
  private readonly dialect: Dialect;
  private readonly reporting: 'sco' | 'asset';
  private readonly source: Package;
  /** Path of the script of pages that hold what reports by the other edition's interface. */
  readonly bridge: string;
  private readonly isOfOther: boolean;
  private readonly bridged: PlannedEntry[] = [];

  constructor(
    course: Course,
    dialect: Dialect,
    reporting: 'sco' | 'asset',
    source: Package,
    content: readonly string[],
    isOfOther: boolean,
  ) {
    this.course = course;
    this.dialect = dialect;
    this.reporting = reporting;
    this.source = source;
    this.taken = new Set(content);
    this.runtime = freePath('play/runtime', this.taken, '.js');
    this.bridge = freePath('play/bridge', this.taken, '.js');
    this.isOfOther = isOfOther;
  }

  page(item: ItemOf<'page'>): void {
    const { source, runtime } = this;
    this.owned.add(item.file);
    // A page that reports already speaks for itself; a second voice would end its session.
    if (item.settings.tracked !== true) {
      this.made.set(item.file, { path: item.file, make: () => withRuntime(source, item.file, runtime) });
    }
    this.address.set(item.id, item.file);
    const files = [item.file, ...(item.settings.embeds ?? [])];
    if (this.holds(item)) return this.hold(item, files);
    this.resources.push(this.resource(item.id, this.reporting, item.file, files, true, metadataElement(item.settings)));
  }

  file(item: ItemOf<'file'>): void {
    this.owned.add(item.file);
    this.address.set(item.id, item.file);
    if (this.holds(item)) return this.hold(item, [item.file]);
    const type = item.settings.tracked === true ? this.reporting : 'asset';
    this.resources.push(this.resource(item.id, type, item.file, [item.file], false, metadataElement(item.settings)));
  }

  /** The pages that hold objects of the other edition, and their script. */
  bridges(): PlannedEntry[] {
    return this.bridged.length === 0 ? [] : [...this.bridged, { path: this.bridge, text: bridgeScript() }];
  }

  private holds({ settings }: Item): boolean {
    return this.isOfOther && this.reporting === 'sco' && settings.tracked === true;
  }

  private hold(item: ItemOf<'page'> | ItemOf<'file'>, files: readonly string[]): void {
    const path = freePath(`play/object/${item.id.replace(/[^\w.-]+/g, '_').slice(0, 60)}`, this.taken);
    const { language = 'en' } = this.course.metadata;
    this.bridged.push({ path, item: item.id, text: bridgePage(item.title, path, item.file, this.bridge, language) });
    const metadata = metadataElement(item.settings);
    this.resources.push(this.resource(item.id, 'sco', path, [path, ...files], BRIDGE, metadata));
  }

  foreign({ id, type, files }: ItemOf<'foreign'>): void {
    files.forEach((f) => this.owned.add(f));
    const parts = files.map((f) => fileXml(f, this.course.settings?.fileLom));
    this.resources.push(xml('resource', { identifier: id, type }, ...parts));
  }

  link(item: ItemOf<'link'>): void {
    this.render(item);
  }

  render(item: Item): void {
    const { course, runtime } = this;
    const path = freePath(renderedStem(item), this.taken);
    this.made.set(path, { path, item: item.id, make: async () => renderItem(course, item, path, runtime) });
    this.address.set(item.id, path);
    const files = [path, ...(item.settings.embeds ?? [])];
    this.resources.push(this.resource(item.id, this.reporting, path, files, true, metadataElement(item.settings)));
  }

  /** A resource; a `shared` one is played by the script that all of them have in common. */
  resource(
    id: string,
    type: 'sco' | 'asset',
    href: string | undefined,
    files: readonly string[],
    shared: boolean | typeof BRIDGE,
    metadata = '',
  ): string {
    return xml(
      'resource',
      {
        identifier: id,
        type: 'webcontent',
        [this.dialect.scormType]: type,
        href: href === undefined ? undefined : encodePath(href),
      },
      metadata,
      ...files.map((f) => fileXml(f, this.course.settings?.fileLom)),
      shared === false ? '' : xml('dependency', { identifierref: shared === true ? RUNTIME : shared }),
    );
  }
}

function planPlayer(course: Course, address: ReadonlyMap<string, string>, taken: Set<string>): PlannedEntry[] {
  const page = freePath('play/course', taken);
  const script = freePath('play/course', taken, '.js');
  return [
    { path: page, text: wholePage(course, page, script, address) },
    { path: script, text: wholeScript() },
  ];
}

const RUNTIME = 'treenail-runtime';

/** From where a page names things: its own place, unless it says that it does so from another. */
function placeOfNames(path: string, html: string): string {
  const base = /<base\b/i.test(html) ? readPage(html).base : null;
  if (base === null || !isRelative(base)) return path;
  return resolvePath(folderOf(path), `${base.slice(0, base.lastIndexOf('/') + 1)}page.html`) ?? path;
}

/** The page with the script before its body ends. */
async function withRuntime(source: Package, path: string, runtime: string): Promise<string> {
  const html = decodeText(await source.bytes(path));
  const tag = runtimeTag(placeOfNames(path, html), runtime);
  const end = html.search(/<\/body\s*>(?![\s\S]*<\/body\s*>)/i);
  return asUtf8(end < 0 ? html + tag : html.slice(0, end) + tag + html.slice(end));
}

function manifest(
  course: Course,
  dialect: Dialect,
  edition: Edition,
  written: ReadonlySet<string>,
  resources: readonly string[],
  whole: boolean,
): string {
  const title = xml('title', {}, escapeXml(course.title));
  const organization = (id: string, ...items: string[]) =>
    xml(
      'organization',
      { identifier: id, structure: 'hierarchical' },
      title,
      ...items,
      edition === '2004' ? xml('imsss:sequencing', {}, xml('imsss:controlMode', { choice: 'true', flow: 'true' })) : '',
    );
  return (
    DECLARATION +
    xml(
      'manifest',
      { identifier: 'course', version: '1.0', ...dialect.namespaces },
      xml(
        'metadata',
        {},
        xml('schema', {}, 'ADL SCORM'),
        xml('schemaversion', {}, dialect.schemaVersion),
        courseLom(course),
      ),
      xml(
        'organizations',
        { default: whole ? 'whole' : 'outline' },
        whole ? organization('whole', xml('item', { identifier: 'whole-course', identifierref: PLAYER }, title)) : '',
        organization('outline', ...outlineItems(course, written, whole ? undefined : SAID[edition])),
      ),
      xml('resources', {}, ...resources),
    )
  );
}
