import { escapeXml } from '../../markup/index.ts';
import type { Course, Item, ItemOf, OutlineNode } from '../../model/index.ts';
import type { PlannedEntry } from '../format.ts';
import { playScript } from '../play/runtime.ts';
import { encodePath } from '../references.ts';
import { freePath, renderedStem } from '../imscp/index.ts';
import type { PageWriter } from '../imscp/kinds.ts';
import { renderItem } from '../render.ts';
import { writeBy, writtenBy } from '../table.ts';
import { SITE_KINDS } from './kinds.ts';

/** The class by which the outline is found again in the first page. */
export const OUTLINE_CLASS = 'course-outline';

const STYLE = `body{font:17px/1.6 system-ui,sans-serif;max-width:46em;margin:0 auto;padding:20px;color:#1c2a2e;background:#f3f5f4}
h1{font-size:26px}ol{list-style:none;padding-left:1.2em}li{margin:4px 0}a{color:#1f5d4c}a:focus-visible{outline:2px solid #1f5d4c}
.${OUTLINE_CLASS}>li>b{display:block;margin-top:14px}`;

/** A first page with the outline, every page and file as it is, and a page for everything that is none. */
export function planSite(whole: Course): PlannedEntry[] {
  const course = writtenBy(whole, SITE_KINDS);
  const content = course.files.filter((f) => f.role === 'content').map((f) => f.path);
  const taken = new Set(content);
  const entries: PlannedEntry[] = [];
  const address = new Map<string, string>();
  const runtime = freePath('play/runtime', taken, '.js');
  const asItIs = (item: ItemOf<'page' | 'file'>) => void address.set(item.id, encodePath(item.file));
  const writer: PageWriter = {
    page: asItIs,
    file: asItIs,
    foreign: () => undefined,
    link: (item) => void address.set(item.id, item.url),
    render: (item) => {
      const path = freePath(renderedStem(item), taken);
      entries.push({ path, item: item.id, text: renderItem(course, item, path, runtime) });
      address.set(item.id, encodePath(path));
    },
  };
  for (const item of course.items) writeBy(SITE_KINDS, item, writer);
  const first = taken.has('index.html') ? freePath('contents', taken) : 'index.html';
  return [
    { path: first, text: firstPage(course, address) },
    ...entries,
    ...content.map((path) => ({ path, copy: path })),
    { path: runtime, text: playScript() },
  ];
}

function firstPage(course: Course, address: ReadonlyMap<string, string>): string {
  const { metadata } = course;
  const meta = (name: string, content: string | undefined) =>
    content === undefined ? '' : `<meta name="${name}" content="${escapeXml(content)}">`;
  const placed = new Set<string>();
  const node = (n: OutlineNode): string => {
    const to = n.item === undefined ? undefined : address.get(n.item);
    if (n.item !== undefined) placed.add(n.item);
    if (n.item !== undefined && to === undefined && n.children.length === 0) return '';
    const title = escapeXml(n.title);
    const ids = `data-node="${escapeXml(n.id)}"${n.item !== undefined && to !== undefined ? ` data-item="${escapeXml(n.item)}"` : ''}`;
    const inside = n.children.length === 0 ? '' : `<ol>${n.children.map(node).join('')}</ol>`;
    return `<li ${ids}>${to === undefined ? `<b>${title}</b>` : `<a href="${escapeXml(to)}">${title}</a>`}${inside}</li>`;
  };
  const outline = course.outline.map(node).join('');
  const loose = course.items
    .filter((i: Item) => !placed.has(i.id) && address.has(i.id))
    .map((i) => node({ id: `entry-${i.id}`, title: i.title, item: i.id, children: [] }));
  return `<!DOCTYPE html>
<html${metadata.language === undefined ? '' : ` lang="${escapeXml(metadata.language)}"`}><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escapeXml(course.title)}</title>
${meta('description', metadata.description)}${metadata.keywords.map((k) => meta('keywords', k)).join('')}${meta('dcterms.rights', metadata.rights)}${meta('dcterms.identifier', metadata.catalogEntry)}
<style>${STYLE}</style></head><body><h1>${escapeXml(course.title)}</h1><nav aria-label="Contents"><ol class="${OUTLINE_CLASS}">${outline}${loose.join('')}</ol></nav></body></html>
`;
}
