import { xml, escapeXml } from '../../markup/index.ts';
import {
  contentOf,
  filesOf,
  folderOf,
  mapQuestionTexts,
  relativePath,
  type Content,
  type Course,
  type Item,
  type ItemOf,
  type OutlineNode,
  type RichText,
  type SettingValue,
} from '../../model/index.ts';
import type { PlannedEntry } from '../format.ts';
import { writeQti } from '../qti12/write.ts';
import { MANIFEST } from '../imscp/manifest.ts';
import { asProfiled } from '../questions.ts';
import { encodePath, movedTexts } from '../references.ts';
import { CC13_PROFILE } from './profile.ts';
import { ASSIGNMENT_NAMESPACE, ASSIGNMENT_TYPE, VOCABULARIES, type CcVersion, type Vocabulary } from './versions.ts';

const DECLARATION = '<?xml version="1.0" encoding="UTF-8"?>\n';

/** Writes a course from the model alone: for courses that were reshaped or come from another format. */
export function planFromModel(whole: Course, version: CcVersion): PlannedEntry[] {
  const course = contentOf(whole);
  const words = VOCABULARIES[version];
  const taken = new Set(course.files.filter((f) => f.role === 'content').map((f) => f.path));
  const resources: string[] = [];
  const entries: PlannedEntry[] = [];
  const owned = new Set<string>();
  for (const item of course.items) {
    const written = writeItem(course, item, words, version, taken);
    resources.push(written.resource);
    if (written.entry) entries.push(written.entry);
    if (item.kind === 'page' || item.kind === 'file') owned.add(item.file);
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

/** Only what a thin cartridge holds: web links, external tools, and the folders they stand in. */
export function planThin(course: Course, version: CcVersion): PlannedEntry[] {
  const items = course.items.filter((item) => item.kind === 'link' || item.kind === 'tool');
  const kept = new Set(items.map((i) => i.id));
  const prune = (nodes: readonly OutlineNode[]): OutlineNode[] =>
    nodes
      .filter((n) => n.item === undefined || kept.has(n.item) || n.children.length > 0)
      .map(({ item, ...n }) => ({
        ...n,
        ...(item !== undefined && kept.has(item) ? { item } : {}),
        children: prune(n.children),
      }));
  const thin = { ...course, items, files: [], outline: prune(course.outline) };
  return planFromModel(thin, version).map((entry) =>
    entry.path === MANIFEST && 'text' in entry
      ? { ...entry, text: entry.text.replace('<schema>IMS Common Cartridge<', '<schema>IMS Thin Common Cartridge<') }
      : entry,
  );
}

function manifest(course: Course, words: Vocabulary, resources: readonly string[]): string {
  const { metadata } = course;
  const string = (text: string) =>
    xml('lomimscc:string', metadata.language ? { language: metadata.language } : {}, escapeXml(text));
  const general = xml(
    'lomimscc:general',
    {},
    metadata.catalogEntry === undefined
      ? ''
      : xml(
          'lomimscc:identifier',
          {},
          xml('lomimscc:catalog', {}, 'course'),
          xml('lomimscc:entry', {}, escapeXml(metadata.catalogEntry)),
        ),
    xml('lomimscc:title', {}, string(course.title)),
    metadata.language === undefined ? '' : xml('lomimscc:language', {}, escapeXml(metadata.language)),
    metadata.description === undefined ? '' : xml('lomimscc:description', {}, string(metadata.description)),
    ...metadata.keywords.map((k) => xml('lomimscc:keyword', {}, string(k))),
  );
  const rights =
    metadata.rights === undefined
      ? ''
      : xml(
          'lomimscc:rights',
          {},
          xml('lomimscc:copyrightAndOtherRestrictions', {}, xml('lomimscc:value', {}, 'yes')),
          xml('lomimscc:description', {}, string(metadata.rights)),
        );
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
        xml('lomimscc:lom', {}, general, rights),
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

interface WrittenItem {
  resource: string;
  entry?: PlannedEntry;
}

/** What definitions name in their texts is named from where they lie, behind this token of the cartridge. */
export const FILE_BASE = '$IMS-CC-FILEBASE$';

/** An item as it reads where it is written, which is another place than it comes from. */
function movedTo(course: Course, item: Content, path: string): Content {
  if (item.place === path) return item;
  const rewrite = movedTexts(course, item, FILE_BASE)(path);
  const moved = (text: RichText) => (text.format === 'html' ? { ...text, text: rewrite(text.text) } : text);
  switch (item.kind) {
    case 'discussion':
    case 'assignment':
      return { ...item, text: moved(item.text) };
    case 'quiz':
    case 'bank': {
      const { instructions } = item.settings;
      const settings =
        typeof instructions === 'string' ? { ...item.settings, instructions: rewrite(instructions) } : item.settings;
      // First what a question becomes, since that may show more than it did.
      const questions = item.questions.flatMap((q) => asProfiled(q, CC13_PROFILE) ?? []);
      return { ...item, settings, questions: questions.map((q) => mapQuestionTexts(q, (_part, text) => moved(text))) };
    }
    default:
      return item;
  }
}

function writeItem(
  course: Course,
  item: Content,
  words: Vocabulary,
  version: CcVersion,
  taken: Set<string>,
): WrittenItem {
  if (item.kind === 'page' || item.kind === 'file') return { resource: webResource(item, item.file) };
  if (item.kind === 'foreign') {
    return { resource: resource(item, item.type, item.files) };
  }
  if (item.kind === 'assignment' && version !== '1.3') {
    const path = freePath(item, 'html', taken);
    return {
      resource: webResource(item, path),
      entry: { path, item: item.id, text: assignmentPage(course, item, path) },
    };
  }
  const path = freePath(item, 'xml', taken);
  const text = DECLARATION_KINDS[item.kind](movedTo(course, item, path) as never, words, path);
  return { resource: resource(item, typeOf(item, words), [path]), entry: { path, item: item.id, text } };
}

/** The item's own place if nothing else stands there, else one made of its kind and identifier. */
function freePath(item: Item, extension: string, taken: Set<string>): string {
  const safe = item.id.replace(/[^\p{L}\p{N}_-]/gu, '_').slice(0, 80) || 'item';
  let path = item.place?.endsWith(`.${extension}`) ? item.place : `${item.kind}/${safe}.${extension}`;
  for (let n = 2; taken.has(path); n++) path = `${item.kind}/${safe}-${n}.${extension}`;
  taken.add(path);
  return path;
}

const STANDARDS_NAMESPACE = 'http://www.imsglobal.org/xsd/imscsmd_v1p0';
const VARIANT_NAMESPACE = 'http://www.imsglobal.org/xsd/imscp_extensionv1p2';

/** Curriculum standards (IMS CSM 1.0) and variants (IMS CP extension 1.2) in namespaces of their own. */
function standardsOf({ settings: { standards } }: Item): string {
  if (typeof standards !== 'object' || Array.isArray(standards)) return '';
  const guids = Object.entries(standards).map(([guid, label]) =>
    xml('csm:labelledGUID', {}, xml('csm:label', {}, escapeXml(label)), xml('csm:GUID', {}, escapeXml(guid))),
  );
  return xml(
    'csm:curriculumStandardsMetadataSet',
    { 'xmlns:csm': STANDARDS_NAMESPACE },
    xml('csm:curriculumStandardsMetadata', {}, xml('csm:setOfGUIDs', {}, ...guids)),
  );
}

function variantsOf(item: Item): string {
  const { variants } = item.settings;
  if (!Array.isArray(variants)) return '';
  return variants
    .map((to, i) =>
      xml('cpx:variant', {
        'xmlns:cpx': VARIANT_NAMESPACE,
        identifier: `${item.id}_variant_${i + 1}`,
        identifierref: to,
      }),
    )
    .join('');
}

function metadataOf(item: Item): string {
  const parts = rolesOf(item) + standardsOf(item);
  return parts === '' ? '' : xml('metadata', {}, parts);
}

function rolesOf(item: Item): string {
  const { audience } = item.settings;
  if (typeof audience !== 'string') return '';
  const roles = audience
    .split(', ')
    .map((role) =>
      xml(
        'lom:intendedEndUserRole',
        {},
        xml('lom:source', {}, 'IMSGLC_CC_Rolesv1p1'),
        xml('lom:value', {}, escapeXml(role)),
      ),
    );
  return xml('lom:lom', {}, xml('lom:educational', {}, ...roles));
}

function resource(item: Item, type: string, paths: readonly string[], href?: string): string {
  const use = item.settings.intendedUse;
  return xml(
    'resource',
    { identifier: item.id, type, href, intendeduse: typeof use === 'string' ? use : undefined },
    metadataOf(item),
    ...paths.map((path) => xml('file', { href: encodePath(path) })),
    variantsOf(item),
  );
}

function webResource(item: Item, path: string): string {
  return resource(item, 'webcontent', [path], encodePath(path));
}

type DefinedKind = 'link' | 'tool' | 'assignment' | 'discussion' | 'quiz' | 'bank';

function typeOf(item: ItemOf<DefinedKind>, words: Vocabulary): string {
  switch (item.kind) {
    case 'link':
      return words.webLinkType;
    case 'discussion':
      return words.topicType;
    case 'tool':
      return words.toolType;
    case 'quiz':
      return words.quizType;
    case 'bank':
      return words.bankType;
    case 'assignment':
      return ASSIGNMENT_TYPE;
  }
}

const DECLARATION_KINDS: { [K in DefinedKind]: (item: ItemOf<K>, words: Vocabulary, path: string) => string } = {
  link: (item, words) =>
    DECLARATION +
    xml(
      'webLink',
      { xmlns: words.webLink },
      xml('title', {}, escapeXml(item.title)),
      xml('url', { href: item.url, target: asText(item.settings.linkTarget) }),
    ),
  discussion: (item, words, path) =>
    DECLARATION +
    xml(
      'topic',
      { xmlns: words.topic },
      xml('title', {}, escapeXml(item.title)),
      textElement(item.text),
      attachments(item, path),
    ),
  assignment: (item, _words, path) => DECLARATION + assignment(item, path),
  tool: (item, words) => DECLARATION + tool(item, words),
  quiz: (item) => writeQti(item),
  bank: (item) => writeQti(item),
};

function asText(value: SettingValue | undefined): string | undefined {
  return typeof value === 'string' ? value : undefined;
}

function textElement(text: RichText): string {
  return xml('text', { texttype: text.format === 'html' ? 'text/html' : 'text/plain' }, escapeXml(text.text));
}

function attachments(item: Item, path: string): string {
  const list = item.settings.attachments;
  if (!Array.isArray(list) || list.length === 0) return '';
  return xml('attachments', {}, ...list.map((file) => xml('attachment', { href: relativePath(path, file) })));
}

export function assignment(item: ItemOf<'assignment'>, path: string): string {
  const { points, submissionFormats, instructorNotes } = item.settings;
  return xml(
    'assignment',
    { xmlns: ASSIGNMENT_NAMESPACE, identifier: `${item.id}_assignment` },
    xml('title', {}, escapeXml(item.title)),
    textElement(item.text),
    typeof instructorNotes === 'string'
      ? xml('instructor_text', { texttype: 'text/plain' }, escapeXml(instructorNotes))
      : '',
    attachments(item, path),
    typeof points === 'number' ? xml('gradable', { points_possible: points }, 'true') : '',
    Array.isArray(submissionFormats)
      ? xml('submission_formats', {}, ...submissionFormats.map((type) => xml('format', { type })))
      : '',
  );
}

/** An assignment where the format has none: a page that says what to do and lists what was attached. */
export function assignmentPage(course: Course, item: ItemOf<'assignment'>, path: string): string {
  const body = item.text.format === 'html' ? item.text.text : `<p>${escapeXml(item.text.text)}</p>`;
  const text = movedTexts(course, item)(path)(body);
  const list = filesOf(item).map(
    (file) =>
      `<li><a href="${escapeXml(encodePath(relativePath(path, file)))}">${escapeXml(file.slice(folderOf(file).length))}</a></li>`,
  );
  const attached = list.length > 0 ? `\n<ul>\n${list.join('\n')}\n</ul>` : '';
  const title = escapeXml(item.title);
  return `<!DOCTYPE html>\n<html>\n<head><meta charset="utf-8"><title>${title}</title></head>\n<body>\n<h1>${title}</h1>\n${text}${attached}\n</body>\n</html>\n`;
}

/** IMS Basic LTI link in a cartridge: IMS LTI 1.0 cartridge binding. */
function tool(item: ItemOf<'tool'>, words: Vocabulary): string {
  const { customParameters, vendor, icon } = item.settings;
  const custom =
    typeof customParameters === 'object' && !Array.isArray(customParameters)
      ? xml(
          'blti:custom',
          {},
          ...Object.entries(customParameters).map(([name, value]) => xml('lticm:property', { name }, escapeXml(value))),
        )
      : '';
  const secure = item.url.startsWith('https:');
  return xml(
    'cartridge_basiclti_link',
    {
      xmlns: words.toolNamespace,
      'xmlns:blti': 'http://www.imsglobal.org/xsd/imsbasiclti_v1p0',
      'xmlns:lticm': 'http://www.imsglobal.org/xsd/imslticm_v1p0',
      'xmlns:lticp': 'http://www.imsglobal.org/xsd/imslticp_v1p0',
    },
    xml('blti:title', {}, escapeXml(item.title)),
    xml('blti:description', {}, escapeXml(item.description)),
    custom,
    xml(secure ? 'blti:secure_launch_url' : 'blti:launch_url', {}, escapeXml(item.url)),
    typeof icon === 'string' ? xml('blti:icon', {}, escapeXml(icon)) : '',
    typeof vendor === 'string'
      ? xml('blti:vendor', {}, xml('lticp:code', {}, 'vendor'), xml('lticp:name', {}, escapeXml(vendor)))
      : '',
  );
}
