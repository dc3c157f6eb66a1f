import { encodePath } from '../../formats/references.ts';
import type { Finding } from '../../inspect/index.ts';
import { escapeXml, readPage } from '../../markup/index.ts';
import { isOneFile, isLedTo, itemAddress, itemOfAddress, relativePath } from '../../model/index.ts';
import type { MendKind, Workbench } from './contract.ts';

/** Mends of what stands in texts. All of them splice the source, so that what they do not touch stays as it was written. */

const NO_SPOT = 'it is not in a text';

function opened(finding: Finding, work: Workbench): { source: string; open: string } | null {
  const source = work.source(finding);
  const { spot } = finding;
  return source === null || !spot?.open ? null : { source, open: source.slice(spot.open.start, spot.open.end) };
}

/** Where a reference leads after `to`: a file's path as seen from the text, an address as it is. */
function address(to: string, finding: Finding, work: Workbench): string | null {
  if (to.startsWith('file:')) return encodePath(relativePath(finding.file ?? '', to.slice(5)));
  if (!to.startsWith('item:')) return to;
  const item = work.items.get(to.slice(5));
  if (item && isOneFile(item)) return encodePath(relativePath(finding.file ?? '', item.file));
  if (item?.kind === 'link') return item.url;
  return item && isLedTo(item) ? itemAddress(item.id) : null;
}

export const retarget: MendKind = {
  id: 'retarget',
  label: 'Lead it elsewhere',
  params: [{ name: 'to', label: 'Where it is to lead', kind: 'target' }],
  particular: true,
  apply(finding, params, work) {
    const { spot } = finding;
    if (!spot) return NO_SPOT;
    const to = params['to'] ?? '';
    if (to === '') return 'it is not said where it is to lead';
    const value = address(to, finding, work);
    if (value === null) return 'packages have no address for what it is to lead to';
    if (/^\s*(javascript|vbscript|data):/i.test(value)) return 'such an address would run in the reader’s browser';
    const source = work.source(finding);
    const fragment =
      source === null || to.startsWith('http') || itemOfAddress(value) !== null
        ? ''
        : (/#.*$/.exec(source.slice(spot.at.start, spot.at.end))?.[0] ?? '');
    const kept = finding.kind === 'link-lost-place' ? '' : fragment;
    const written = spot.inStyle ? value.replace(/["')\\]/g, (c) => `\\${c}`) : escapeXml(value);
    work.cut(finding, spot.at.start, spot.at.end, written + kept);
    return null;
  },
};

export const copyIn: MendKind = {
  id: 'copy-in',
  label: 'Copy the file in',
  params: [],
  fetches: true,
  apply(finding, _params, work) {
    const { spot } = finding;
    if (!spot) return NO_SPOT;
    const path = work.supplied(finding.groupKey);
    if (path === null) return 'the file was not fetched from the repository';
    work.cut(finding, spot.at.start, spot.at.end, escapeXml(encodePath(relativePath(finding.file ?? '', path))));
    return null;
  },
};

export const giveFile: MendKind = {
  id: 'give-file',
  label: 'Put a file of yours in its place',
  params: [{ name: 'given', label: 'The file', kind: 'file' }],
  apply(finding, params, work) {
    const { spot } = finding;
    if (!spot && finding.file === null) return 'it is about no file';
    const path = work.supplied(params['given'] ?? '');
    if (path === null) return 'the file was not uploaded';
    if (!spot) {
      if (finding.file !== null) work.merge(finding.file, path);
      return null;
    }
    const value = encodePath(relativePath(finding.file ?? '', path));
    work.cut(finding, spot.at.start, spot.at.end, spot.inStyle ? value : escapeXml(value));
    return null;
  },
};

/** The address under which a person's own file is supplied. */
export function givenAddress(name: string): string {
  return `given:${name}`;
}

/** Where a person's own file is put; the name is made such that every platform bears it. */
export function givenPath(address: string): string {
  const name = address.slice('given:'.length).replace(/[/\\:*?"<>|\p{Cc}\p{Cf}]/gu, '-');
  return `given/${/^\.*$/.test(name) ? 'file' : name}`;
}

export const unlink: MendKind = {
  id: 'unlink',
  label: 'Take the link off, keep its words',
  params: [],
  apply(finding, _params, work) {
    const { spot } = finding;
    if (!spot?.open) return NO_SPOT;
    if (!spot.close) return remove.apply(finding, {}, work);
    work.cut(finding, spot.open.start, spot.open.end, '');
    work.cut(finding, spot.close.start, spot.close.end, '');
    return null;
  },
};

export const remove: MendKind = {
  id: 'remove',
  label: 'Take it out',
  params: [],
  apply(finding, _params, work) {
    const { spot } = finding;
    if (!spot) return NO_SPOT;
    const tag = opened(finding, work);
    // Of an element with handlers only the handlers go.
    if (finding.kind === 'script' && tag && spot.open && !/^<script\b/i.test(tag.open)) {
      for (const match of tag.open.matchAll(/\s+on[a-z]+\s*=\s*("[^"]*"|'[^']*'|[^\s>]+)/gi)) {
        const start = spot.open.start + match.index;
        work.cut(finding, start, start + match[0].length, '');
      }
      return null;
    }
    const whole = spot.open ? { start: spot.open.start, end: (spot.close ?? spot.open).end } : spot.at;
    work.cut(finding, whole.start, whole.end, '');
    return null;
  },
};

export const replace: MendKind = {
  id: 'replace',
  label: 'Put something in its place',
  params: [{ name: 'text', label: 'What is to stand there', kind: 'text' }],
  particular: true,
  apply(finding, params, work) {
    const { spot } = finding;
    if (!spot) return NO_SPOT;
    // An address in a link that writes to it: the link goes, and its words stay for their own finding.
    if (finding.kind === 'person-in-text' && spot.open) return unlink.apply(finding, {}, work);
    work.cut(finding, spot.at.start, spot.at.end, escapeXml(params['text'] ?? ''));
    return null;
  },
};

/** A date that stands in words, said as it is once the course is re-dated. */
export const newDate: MendKind = {
  id: 'new-date',
  label: 'Write the new date in its place',
  params: [{ name: 'text', label: 'The date as it is to stand there', kind: 'text' }],
  particular: true,
  onlySuggested: true,
  apply(finding, params, work) {
    const { spot } = finding;
    if (!spot) return NO_SPOT;
    const text = params['text'] ?? '';
    if (text === '') return 'the step Re-date has not said what date it is then';
    if (work.source(finding)?.slice(spot.at.start, spot.at.end) !== finding.groupKey)
      return 'the text is no longer what it was';
    work.cut(finding, spot.at.start, spot.at.end, escapeXml(text));
    return null;
  },
};

export const toLink: MendKind = {
  id: 'to-link',
  label: 'Put a link in its place',
  params: [],
  apply(finding, _params, work) {
    const { spot } = finding;
    const tag = opened(finding, work);
    if (!spot?.open || !tag) return NO_SPOT;
    const [frame] = readPage(tag.open).references;
    if (!frame) return 'it names no address';
    const title = /\btitle\s*=\s*(["'])(.*?)\1/i.exec(tag.open)?.[2];
    const words = title === undefined || title === '' ? escapeXml(frame.value) : title;
    const text = `<a href="${escapeXml(frame.value)}" target="_blank" rel="noopener">${words}</a>`;
    work.cut(finding, spot.open.start, (spot.close ?? spot.open).end, text);
    return null;
  },
};

export const setAlt: MendKind = {
  id: 'set-alt',
  label: 'Say what the picture shows',
  params: [{ name: 'text', label: 'What it shows; nothing where it is only ornament', kind: 'text', optional: true }],
  particular: true,
  apply(finding, params, work) {
    const tag = opened(finding, work);
    const open = finding.spot?.open;
    if (!open || !tag) return NO_SPOT;
    const at = open.end - (/\/?>$/.exec(tag.open)?.[0].length ?? 0);
    work.cut(finding, at, at, ` alt="${escapeXml(params['text'] ?? '')}"`);
    return null;
  },
};

export const levelHeading: MendKind = {
  id: 'level-heading',
  label: 'Give it the level that follows',
  params: [{ name: 'level', label: 'Level', kind: 'number' }],
  particular: true,
  apply(finding, params, work) {
    const { spot } = finding;
    const level = Number(params['level']);
    if (!spot?.open) return NO_SPOT;
    if (!(level >= 1 && level <= 6)) return 'headings have levels from 1 to 6';
    work.cut(finding, spot.open.start, spot.open.start + 3, `<h${level}`);
    if (spot.close) work.cut(finding, spot.close.start, spot.close.end, `</h${level}>`);
    return null;
  },
};

export const headTable: MendKind = {
  id: 'head-table',
  label: 'Make its first row the header',
  params: [],
  apply(finding, _params, work) {
    const source = work.source(finding);
    const { spot } = finding;
    if (!spot || source === null) return NO_SPOT;
    const table = source.slice(spot.at.start, spot.at.end);
    const row = /<tr\b[^>]*>([\s\S]*?)(?=<\/tr\b|<tr\b|<\/table\b)/i.exec(table);
    if (!row) return 'it has no row';
    const start = spot.at.start + row.index;
    const headed = row[0].replace(/<td\b/gi, '<th scope="col"').replace(/<\/td\b/gi, '</th');
    work.cut(finding, start, start + row[0].length, headed);
    return null;
  },
};

export const removeClass: MendKind = {
  id: 'remove-class',
  label: 'Take the class off',
  params: [{ name: 'name', label: 'Class', kind: 'text' }],
  particular: true,
  onlySuggested: true,
  apply(finding, params, work) {
    const tag = opened(finding, work);
    const open = finding.spot?.open;
    if (!open || !tag) return NO_SPOT;
    const match = /\s+class\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s>]+))/i.exec(tag.open);
    if (!match) return 'it bears no class';
    const names = (match[1] ?? match[2] ?? match[3] ?? '').split(/\s+/);
    const left = names.filter((n) => n !== '' && n !== params['name']);
    const start = open.start + match.index;
    work.cut(finding, start, start + match[0].length, left.length === 0 ? '' : ` class="${left.join(' ')}"`);
    return null;
  },
};

export const TEXT_MENDS: readonly MendKind[] = [
  retarget,
  copyIn,
  giveFile,
  unlink,
  replace,
  remove,
  newDate,
  toLink,
  setAlt,
  levelHeading,
  headTable,
  removeClass,
];
