import { escapeXml, xml } from '../../markup/index.ts';
import {
  filesOf,
  folderOf,
  relativePath,
  type Course,
  type Item,
  type ItemOf,
  type RichText,
} from '../../model/index.ts';
import { writeQti } from '../qti12/write.ts';
import { encodePath, movedTexts } from '../references.ts';
import { renderItem } from '../render.ts';
import { ASSIGNMENT_NAMESPACE, type Vocabulary } from './versions.ts';

/** What lies in a cartridge for an item that is no file: its definition, or the page that it becomes. */

export const DECLARATION = '<?xml version="1.0" encoding="UTF-8"?>\n';

export function link(item: ItemOf<'link'>, words: Vocabulary): string {
  return (
    DECLARATION +
    xml(
      'webLink',
      { xmlns: words.webLink },
      xml('title', {}, escapeXml(item.title)),
      xml('url', { href: item.url, target: item.settings.linkTarget }),
    )
  );
}

export function topic(item: ItemOf<'discussion'>, words: Vocabulary, path: string): string {
  return (
    DECLARATION +
    xml(
      'topic',
      { xmlns: words.topic },
      xml('title', {}, escapeXml(item.title)),
      textElement(item.text),
      attachments(item, path),
    )
  );
}

export function questions(item: ItemOf<'quiz' | 'bank'>): string {
  return writeQti(item);
}

function textElement(text: RichText): string {
  return xml('text', { texttype: text.format === 'html' ? 'text/html' : 'text/plain' }, escapeXml(text.text));
}

function attachments(item: Item, path: string): string {
  const { attachments: forAll = [], instructorAttachments: forSome = [] } = item.settings;
  if (forAll.length + forSome.length === 0) return '';
  const attached = (file: string, role?: string) => xml('attachment', { href: relativePath(path, file), role });
  return xml('attachments', {}, ...forAll.map((f) => attached(f)), ...forSome.map((f) => attached(f, 'Instructor')));
}

export function assignment(item: ItemOf<'assignment'>, _words: Vocabulary, path: string): string {
  const { points, submissionFormats, instructorNotes } = item.settings;
  return (
    DECLARATION +
    xml(
      'assignment',
      { xmlns: ASSIGNMENT_NAMESPACE, identifier: `${item.id}_assignment` },
      xml('title', {}, escapeXml(item.title)),
      textElement(item.text),
      instructorNotes !== undefined
        ? xml('instructor_text', { texttype: typeOfNotes(instructorNotes) }, escapeXml(instructorNotes))
        : '',
      attachments(item, path),
      typeof points === 'number' ? xml('gradable', { points_possible: points }, 'true') : '',
      Array.isArray(submissionFormats)
        ? xml('submission_formats', {}, ...submissionFormats.map((type) => xml('format', { type })))
        : '',
    )
  );
}

/** Notes are text or mark-up, as they were written. */
const typeOfNotes = (notes: string) => (/<[a-z!/]|&(?:\w+|#\w+);/i.test(notes) ? 'text/html' : 'text/plain');

/** An assignment where the format has none: a page that says what to do and lists what was attached. */
export function textPage(course: Course, item: ItemOf<'assignment'>, path: string): string {
  const body = item.text.format === 'html' ? item.text.text : `<p>${escapeXml(item.text.text)}</p>`;
  const text = movedTexts(course, item)(path)(body);
  const { attachments = [], instructorAttachments = [], embeds = [] } = item.settings;
  const isFor = (file: string) => !instructorAttachments.includes(file) || [...attachments, ...embeds].includes(file);
  const shown = filesOf(item).filter(isFor);
  const list = shown.map(
    (file) =>
      `<li><a href="${escapeXml(encodePath(relativePath(path, file)))}">${escapeXml(file.slice(folderOf(file).length))}</a></li>`,
  );
  const attached = list.length > 0 ? `\n<ul>\n${list.join('\n')}\n</ul>` : '';
  const title = escapeXml(item.title);
  return `<!DOCTYPE html>\n<html>\n<head><meta charset="utf-8"><title>${title}</title></head>\n<body>\n<h1>${title}</h1>\n${text}${attached}\n</body>\n</html>\n`;
}

/** An item as a page to read. */
export function renderedPage(course: Course, item: Item, path: string): string {
  return renderItem(course, item, path);
}

/** IMS Basic LTI link in a cartridge: IMS LTI 1.0 cartridge binding. */
export function tool(item: ItemOf<'tool'>, words: Vocabulary): string {
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
  return (
    DECLARATION +
    xml(
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
      // One has to be named; where nobody is, an empty name says so.
      xml(
        'blti:vendor',
        {},
        xml('lticp:code', {}, 'vendor'),
        xml('lticp:name', {}, escapeXml(typeof vendor === 'string' ? vendor : '')),
      ),
    )
  );
}
