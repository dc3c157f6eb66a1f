import type { Package } from '../../container/index.ts';
import { Parser } from 'htmlparser2';
import { decodeText, isExternal, readHtml } from '../../markup/index.ts';
import {
  Refusal,
  baseName,
  decodePercent,
  extensionOf,
  mediaTypeOf,
  remark,
  resolvePath,
  type CourseFile,
  type Item,
  type Note,
  type OutlineNode,
} from '../../model/index.ts';
import type { ReadResult } from '../format.ts';

const isPage = (path: string) => /^(html?|xhtml)$/.test(extensionOf(path));
/** Files by which pages look and move; they are there to be shown by something else. */
const SERVING = /^(css|js|mjs|json|map|woff2?|ttf|otf|eot|ico)$/;
const FIRST = /^(index|default|start|home)\.x?html?$/i;

export function hasPages(pkg: Package): boolean {
  return [...pkg.entries.keys()].some(isPage);
}

const OUTLINE_CLASS = 'course-outline';

/** The first page of a website that was written from a course: its outline stands in it. */
async function outlinedPage(pkg: Package): Promise<{ path: string; html: string } | null> {
  for (const path of ['index.html', 'contents.html']) {
    if (!pkg.entries.has(path)) continue;
    const html = decodeText(await pkg.bytes(path));
    if (html.includes(`class="${OUTLINE_CLASS}"`)) return { path, html };
  }
  return null;
}

/** Reads such a website: entries by the outline's own words, everything else as the folder has it. */
function readOutlined(pkg: Package, { path: first, html }: { path: string; html: string }): ReadResult {
  const items: Item[] = [];
  const outline: OutlineNode[] = [];
  const open: OutlineNode[] = [];
  const meta: Record<string, string[]> = {};
  let language: string | undefined;
  let title = '';
  let inTitle = false;
  let depth = 0;
  let href: string | null = null;
  const parser = new Parser({
    onopentag(name, attrs) {
      if (name === 'html') language = attrs['lang'];
      if (name === 'meta' && attrs['name']) (meta[attrs['name']] ??= []).push(attrs['content'] ?? '');
      if (name === 'title') inTitle = true;
      if (name === 'ol') depth++;
      if (name === 'li' && depth > 0) {
        const node: OutlineNode = { id: attrs['data-node'] ?? '', title: '', children: [] };
        if (attrs['data-item'] !== undefined) node.item = attrs['data-item'];
        (open.at(-1)?.children ?? outline).push(node);
        open.push(node);
      }
      if (name === 'a') href = attrs['href'] ?? '';
    },
    ontext(data) {
      if (inTitle) title += data;
      const node = open.at(-1);
      if (node && node.children.length === 0) node.title += data;
    },
    onclosetag(name) {
      if (name === 'title') inTitle = false;
      if (name === 'ol') depth--;
      if (name === 'li') open.pop();
      const node = open.at(-1);
      if (name !== 'a' || !node || href === null) return;
      const item = itemAt(pkg, node.item ?? href, node.title, href);
      if (item) items.push(item);
      href = null;
    },
  });
  parser.end(html);
  const [description] = meta['description'] ?? [];
  const [rights] = meta['dcterms.rights'] ?? [];
  const [catalogEntry] = meta['dcterms.identifier'] ?? [];
  return {
    course: {
      title,
      origin: { format: 'site', version: '1', untouched: true },
      metadata: {
        keywords: meta['keywords'] ?? [],
        ...(description === undefined ? {} : { description }),
        ...(rights === undefined ? {} : { rights }),
        ...(language === undefined ? {} : { language }),
        ...(catalogEntry === undefined ? {} : { catalogEntry }),
      },
      outline: outline.filter((n) => !n.id.startsWith('entry-')),
      items,
      files: filesOf(pkg).filter((f) => f.path !== first),
    },
    notes: [...pkg.notes],
  };
}

function itemAt(pkg: Package, id: string, title: string, href: string): Item | null {
  if (isExternal(href)) return { kind: 'link', id, title, definitionPath: null, settings: {}, url: href };
  const file = resolvePath('', decodePercent(href));
  if (file === null || !pkg.entries.has(file)) return null;
  return { kind: isPage(file) ? 'page' : 'file', id, title, definitionPath: file, settings: {}, file };
}

function filesOf(pkg: Package): CourseFile[] {
  return [...pkg.entries.values()].map((e) => ({
    path: e.path,
    size: e.size,
    mediaType: mediaTypeOf(e.path),
    role: 'content',
  }));
}

/** Reads a plain folder of pages and files: the outline is that of its folders, titles are those of its pages. */
export async function readFolder(pkg: Package): Promise<ReadResult> {
  const outlined = await outlinedPage(pkg);
  if (outlined) return readOutlined(pkg, outlined);
  const notes: Note[] = [
    ...pkg.notes,
    remark('no-manifest', 'The package has no manifest.', {}, 'Nothing; its outline was made from its folders.'),
  ];
  const items: Item[] = [];
  const root: OutlineNode = { id: '', title: '', children: [] };
  const folders = new Map<string, OutlineNode>([['', root]]);
  const folderAt = (path: string): OutlineNode => {
    const before = folders.get(path);
    if (before) return before;
    const cut = path.lastIndexOf('/', path.length - 2) + 1;
    const node: OutlineNode = { id: `folder:${path}`, title: path.slice(cut, -1), children: [] };
    folderAt(path.slice(0, cut)).children.push(node);
    folders.set(path, node);
    return node;
  };
  const referenced = new Set<string>();
  for (const path of [...pkg.entries.keys()].sort(asFolders)) {
    const page = isPage(path);
    if (!page && (SERVING.test(extensionOf(path)) || mediaTypeOf(path).startsWith('image/'))) continue;
    const title = (page ? await titleOf(pkg, path, notes) : '') || baseName(path).replace(/\.\w+$/, '');
    items.push({ kind: page ? 'page' : 'file', id: path, title, definitionPath: path, settings: {}, file: path });
    folderAt(path.slice(0, path.lastIndexOf('/') + 1)).children.push({
      id: `entry:${path}`,
      title,
      item: path,
      children: [],
    });
    referenced.add(path);
  }
  const first = items.find((i) => FIRST.test(i.id));
  return {
    course: {
      title: first?.title ?? 'Folder of pages',
      origin: { format: 'site', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: root.children,
      items,
      files: filesOf(pkg),
    },
    notes,
  };
}

/** Pages of a folder before the folders in it, the first page first, numbers by their value. */
function asFolders(a: string, b: string): number {
  const [x, y] = [a.split('/'), b.split('/')];
  for (let i = 0; i < Math.min(x.length, y.length); i++) {
    const [p = '', q = ''] = [x[i], y[i]];
    if (p === q) continue;
    const leaf = Number(i < x.length - 1) - Number(i < y.length - 1);
    if (leaf !== 0) return leaf;
    const first = Number(FIRST.test(q)) - Number(FIRST.test(p));
    return first !== 0 ? first : p.localeCompare(q, 'en', { numeric: true });
  }
  return x.length - y.length;
}

async function titleOf(pkg: Package, path: string, notes: Note[]): Promise<string> {
  try {
    return readHtml(decodeText(await pkg.bytes(path))).title;
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    notes.push({ ...error.problem, weight: 'warning' });
    return '';
  }
}
