import { Parser } from 'htmlparser2';
import { bytesSource, openPackage, type Engine, type Package } from '../container/index.ts';
import { renderQuiz } from '../formats/play/quiz.ts';
import { resolveReference } from '../formats/references.ts';
import {
  asHtml,
  htmlOf,
  decodeText,
  descendants,
  escapeXml,
  parseXml,
  splice,
  textOf,
  type Splice,
} from '../markup/index.ts';
import {
  isOneFile,
  kindOf,
  Refusal,
  problem,
  extensionOf,
  mediaTypeOf,
  withGaps,
  type Answer,
  type Choice,
  type Course,
  type Item,
  count,
  askedWords,
  partsOf,
  type NumberKey,
  type Question,
} from '../model/index.ts';
import { markWords } from './search.ts';

/** What can be shown of a file. `html` is a whole document, safe only in a sandboxed frame. */
export type Preview =
  | { form: 'page'; html: string }
  | { form: 'text'; text: string }
  | { form: 'image' | 'audio' | 'video' | 'pdf'; dataUrl: string }
  /** Too long to be written into the answer: whoever shows it reads the file part by part. */
  | { form: 'long'; as: 'image' | 'audio' | 'video'; path: string }
  | { form: 'none'; why: string };

/** What may be given out of a package as it is: nothing that could bear a script. */
export function isStreamable(media: string): boolean {
  return /^(audio|video)\/|^image\/(avif|bmp|gif|jpeg|png|webp)$/.test(media);
}

const INLINE_BYTES = 4 * 2 ** 20;
/** The longest page that is shown: more of one nobody reads, and whoever shows it is held up. */
const PAGE_BYTES = 4 * 2 ** 20;
const TOO_LONG = 'too long to show here; download the package to read it';
const PAGE_TOTAL = 16 * 2 ** 20;
const TEXT_BYTES = 2 * 2 ** 20;

/** How an item is to be shown. */
export interface PreviewView {
  /** As a learner meets it: questions without their keys, to be answered. */
  learner?: boolean;
  /** Words to be marked: see `wordsAsked`. */
  words?: readonly string[];
  /** The course around it, for what can only be shown in whole: the gradebook. */
  course?: Course;
}

/** A readable preview of one file of a package. Nothing in it loads anything: pictures are written in as data. */
export async function previewFile(
  pkg: Package,
  path: string,
  engine: Engine,
  { words = [] }: PreviewView = {},
): Promise<Preview> {
  const entry = pkg.entry(path);
  const media = mediaTypeOf(path);
  const extension = extensionOf(path);
  if (media === 'text/html' || media === 'application/xhtml+xml') {
    if (entry.size > PAGE_BYTES) return { form: 'none', why: TOO_LONG };
    const html = markWords(decodeText(await pkg.bytes(path)), words);
    return { form: 'page', html: await inlinePage(pkg, html, path) };
  }
  if (/^(image|audio|video)\//.test(media)) {
    const form = media.split('/', 1)[0] as 'image' | 'audio' | 'video';
    if (entry.size > INLINE_BYTES) {
      return isStreamable(media) ? { form: 'long', as: form, path } : { form: 'none', why: 'too long to show here' };
    }
    return { form, dataUrl: dataUrl(media, await pkg.bytes(path)) };
  }
  if (media === 'application/pdf') {
    if (entry.size > 4 * INLINE_BYTES) return { form: 'none', why: 'too long to show here' };
    return { form: 'pdf', dataUrl: dataUrl(media, await pkg.bytes(path)) };
  }
  if (/^text\/|json$|xml$/.test(media)) {
    if (entry.size > TEXT_BYTES) return { form: 'none', why: 'too long to show here' };
    return { form: 'text', text: decodeText(await pkg.bytes(path)) };
  }
  if (['docx', 'xlsx', 'pptx'].includes(extension) && entry.size <= 4 * INLINE_BYTES) {
    return { form: 'text', text: await officeText(await pkg.bytes(path), extension, engine) };
  }
  return { form: 'none', why: 'its kind can not be shown here' };
}

const POLICY =
  '<meta http-equiv="Content-Security-Policy" content="default-src \'none\'; img-src data:; media-src data:; style-src \'unsafe-inline\'; font-src data:">';
const STYLE =
  '<style>h1{font-size:21px}h2{font-size:16px;margin:14px 0 4px}small{color:#566468}body{font:15px/1.5 "Source Sans 3",system-ui,sans-serif;margin:16px;color:#1c2a2e;background:#fff}mark{background:#f4e2bd;color:inherit}fieldset{border:1px solid #d5dbd8;margin:0 0 14px}.choices,.pairs{list-style:none;padding:0}img{max-width:100%;height:auto}table{border-collapse:collapse}td,th{border:1px solid #d5dbd8;padding:4px 8px}</style>';

/** What of a package a page is shown with. */
type Files = Pick<Package, 'entries' | 'entry' | 'bytes'>;

/** Writes pictures and style sheets into the page, and takes out what runs. */
async function inlinePage(pkg: Files, html: string, place: string): Promise<string> {
  const found: { start: number; end: number; name: string; attrs: Record<string, string> }[] = [];
  const removed: Splice[] = [];
  let scriptFrom = -1;
  const parser = new Parser({
    onopentag(name, attrs) {
      if (name === 'script') scriptFrom = parser.startIndex;
      else if (name === 'img' || name === 'source' || name === 'audio' || name === 'video' || name === 'link') {
        found.push({ start: parser.startIndex, end: parser.endIndex + 1, name, attrs });
      }
    },
    onclosetag(name) {
      if (name === 'script' && scriptFrom >= 0) {
        removed.push({ start: scriptFrom, end: parser.endIndex + 1, text: '' });
        scriptFrom = -1;
      }
    },
  });
  parser.end(html);
  let budget = PAGE_TOTAL;
  const splices: Splice[] = [...removed];
  for (const tag of found) {
    const reference = tag.attrs['src'] ?? tag.attrs['href'];
    const path = reference === undefined ? null : resolveReference((p) => pkg.entries.has(p), place, reference);
    if (path === null) {
      // What is not in the package is not asked for: the frame would refuse it, and say so to nobody who reads.
      if (reference !== undefined && tag.name === 'link') {
        splices.push({ start: tag.start, end: tag.end, text: '' });
      } else if (reference !== undefined && !reference.startsWith('data:')) {
        const kept = Object.entries(tag.attrs).filter(([name]) => !/^(src|srcset|on.*)$/.test(name));
        const text = kept.map(([name, value]) => ` ${name}="${escapeXml(value)}"`).join('');
        splices.push({ start: tag.start, end: tag.end, text: `<${tag.name}${text}>` });
      }
      continue;
    }
    const { size } = pkg.entry(path);
    if (size > INLINE_BYTES || size > budget) continue;
    budget -= size;
    const bytes = await pkg.bytes(path);
    const text =
      tag.name === 'link'
        ? `<style>${decodeText(bytes).replaceAll('</', '<\\/')}</style>`
        : `<${tag.name} ${Object.entries({ ...tag.attrs, src: dataUrl(mediaTypeOf(path), bytes) })
            .filter(([name]) => !name.startsWith('on') && name !== 'srcset')
            .map(([name, value]) => `${name}="${escapeXml(value)}"`)
            .join(' ')}>`;
    splices.push({ start: tag.start, end: tag.end, text });
  }
  return `<!DOCTYPE html>${POLICY}${STYLE}${splice(html, splices)}`;
}

function dataUrl(media: string, bytes: Uint8Array): string {
  let binary = '';
  for (let i = 0; i < bytes.length; i += 0x8000) binary += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return `data:${media};base64,${btoa(binary)}`;
}

/** The words of an Office Open XML document (ECMA-376), a line a paragraph, row or slide. */
async function officeText(bytes: Uint8Array, extension: string, engine: Engine): Promise<string> {
  try {
    const inner = await openPackage(bytesSource(bytes), { engine });
    const parts = [...inner.entries.keys()].filter((p) => OFFICE_PARTS[extension]?.test(p)).sort(byNumber);
    const shared = extension === 'xlsx' ? await sharedStrings(inner) : [];
    const texts: string[] = [];
    for (const part of parts) {
      const root = parseXml(decodeText(await inner.bytes(part)), part);
      const lines: string[] = [];
      for (const element of descendants(root)) {
        if (element.name === 'row')
          lines.push(
            descendants(element)
              .filter((c) => c.name === 'c')
              .map((c) => cellText(c, shared))
              .join('\t'),
          );
        else if (element.name === 'p' && extension !== 'xlsx') {
          lines.push(
            descendants(element)
              .filter((t) => t.name === 't')
              .map(textOf)
              .join(''),
          );
        }
      }
      texts.push(lines.filter((l) => l !== '').join('\n'));
    }
    return texts.join('\n\n');
  } catch (error) {
    if (error instanceof Refusal) return `The document can not be read: ${error.problem.message}`;
    throw error;
  }
}

const OFFICE_PARTS: Record<string, RegExp> = {
  docx: /^word\/document\.xml$/,
  xlsx: /^xl\/worksheets\/sheet\d+\.xml$/,
  pptx: /^ppt\/slides\/slide\d+\.xml$/,
};

function byNumber(a: string, b: string): number {
  return a.localeCompare(b, 'en', { numeric: true });
}

async function sharedStrings(inner: Package): Promise<string[]> {
  const path = 'xl/sharedStrings.xml';
  if (!inner.entries.has(path)) return [];
  const root = parseXml(decodeText(await inner.bytes(path)), path);
  return descendants(root)
    .filter((e) => e.name === 'si')
    .map(textOf);
}

function cellText(cell: Parameters<typeof textOf>[0], shared: readonly string[]): string {
  if (!cell) return '';
  const value = descendants(cell).find((e) => e.name === 'v' || e.name === 't');
  return cell.attrs['t'] === 's' ? (shared[Number(textOf(value))] ?? '') : textOf(value);
}

/** A readable preview of any item: its page, its file, its text, its questions with their keys. */
export async function previewItem(pkg: Package, item: Item, engine: Engine, view: PreviewView = {}): Promise<Preview> {
  if (isOneFile(item)) return previewFile(pkg, item.file, engine, view);
  if (item.kind === 'link') return { form: 'text', text: item.url };
  if (item.kind === 'foreign') {
    return item.files[0] === undefined
      ? { form: 'none', why: 'it has no files' }
      : previewFile(pkg, item.files[0], engine, view);
  }
  const html = markWords(itemPage(item, view), view.words ?? []);
  return { form: 'page', html: await inlinePage(pkg, html, item.definitionPath ?? '') };
}

/** Where what is shown uses files, and there are none at hand. */
const NO_FILES: Files = {
  entries: new Map(),
  entry: (path) => {
    throw new Refusal(problem('file-missing', `${path} is not at hand.`, { file: path }));
  },
  bytes: async (path) => {
    throw new Refusal(problem('file-missing', `${path} is not at hand.`, { file: path }));
  },
};

/** The same of an item that is known without its package: `page` is its text, where it is a page. Pictures are left out. */
export async function previewApart(item: Item, page: string | null, view: PreviewView = {}): Promise<Preview> {
  if (item.kind === 'link') return { form: 'text', text: item.url };
  if (isOneFile(item) || item.kind === 'foreign') {
    return page === null
      ? { form: 'none', why: 'its bytes stay at the platform; they are told apart by name, size and SHA-256' }
      : { form: 'page', html: await inlinePage(NO_FILES, page, isOneFile(item) ? item.file : '') };
  }
  return { form: 'page', html: await inlinePage(NO_FILES, itemPage(item, view), '') };
}

function itemPage(item: Item, { learner, course }: PreviewView): string {
  const head = `<h1>${escapeXml(item.title)}</h1>`;
  if (learner === true && item.kind === 'quiz') return head + renderQuiz(item).html;
  return head + htmlOf(kindOf(item).preview(item, course ?? { items: [item] }), questionsPage);
}

const FEEDBACK_WORDS: Record<string, string> = {
  general: 'shown to everyone',
  correct: 'shown when right',
  incorrect: 'shown when wrong',
  hint: 'hint',
  solution: 'model answer',
};

function choiceLine(c: Choice): string {
  const gives = c.score === undefined ? '' : ` <em>${c.score} ${c.score === 1 ? 'point' : 'points'}</em>`;
  const reply = c.feedback ? `<div><small>shown when chosen</small> ${asHtml(c.feedback)}</div>` : '';
  return `<li>${asHtml(c.text)}${c.correct ? ' <strong>right</strong>' : ''}${gives}${reply}</li>`;
}

function answerLine(a: Answer): string {
  const how = `${a.match === 'equal' ? 'exactly' : 'anywhere in the answer'}${a.caseSensitive ? ', case counts' : ''}`;
  const reply = a.feedback ? `<div><small>shown when given</small> ${asHtml(a.feedback)}</div>` : '';
  return `<li>${escapeXml(a.text)} <em>${how}</em>${reply}</li>`;
}

function rangeWords({ low, high, open }: NumberKey): string {
  const [from, to] = [open === 'low' || open === 'both' ? 'above' : 'from', open === 'high' || open === 'both'];
  return `${from} ${low} ${to ? 'and below' : 'to'} ${high}`;
}

/** What is asked and what is right, type by type. */
function keyLines(q: Question): string {
  const parts = partsOf(q);
  const textOf = (id: string) => {
    const found = [...parts.choices, ...parts.targets].find((x) => x.id === id);
    const blank = parts.blanks.findIndex((b) => b.id === id);
    return found ? asHtml(found.text) : blank >= 0 ? `gap ${blank + 1}` : escapeXml(id);
  };
  const list = (tag: 'ul' | 'ol', lines: readonly string[]) =>
    lines.length === 0 ? '' : `<${tag}>${lines.join('')}</${tag}>`;
  const blanks = parts.blanks.map(
    (b, i) => `<li>gap ${i + 1}${list('ul', [...b.answers.map(answerLine), ...b.choices.map(choiceLine)])}</li>`,
  );
  const numbers = parts.numbers.map((n) =>
    n.low === n.high ? `<li>${n.value} exactly</li>` : `<li>${n.value} <em>${rangeWords(n)}</em></li>`,
  );
  const pairs = parts.pairs.map((p) => `<li>${textOf(p.choice)} <strong>with</strong> ${textOf(p.target)}</li>`);
  const areas = parts.areas.map(
    (a) => `<li>${a.shape} at ${a.coords.join(', ')}${a.correct ? ' <strong>right</strong>' : ''}</li>`,
  );
  return [
    list('ul', parts.choices.map(choiceLine)),
    list('ul', parts.answers.map(answerLine)),
    list('ul', blanks),
    list('ul', numbers),
    list('ul', pairs),
    list('ul', areas),
    parts.order.length > 0
      ? `<p><small>in this order</small></p>${list(
          'ol',
          parts.order.map((id) => `<li>${textOf(id)}</li>`),
        )}`
      : '',
  ].join('');
}

const askedOtherwise = ({ asked }: Question) => (asked ? `; in the source ${escapeXml(askedWords(asked))}` : '');

function questionsPage(questions: readonly Question[]): string {
  const parts = questions.map((q, i) => {
    const points = q.points === null ? '' : `, ${q.points} ${q.points === 1 ? 'point' : 'points'}`;
    const feedback = Object.entries(q.feedback).map(
      ([kind, text]) => `<div><small>${FEEDBACK_WORDS[kind] ?? kind}</small> ${asHtml(text)}</div>`,
    );
    const prompt = asHtml({ ...q.prompt, text: withGaps(q.prompt.text) });
    const inside = partsOf(q).subquestions.map((part, n) => {
      const worth = part.points === null ? '' : `, ${count(part.points, 'point')}`;
      return `<section><h3>${i + 1}.${n + 1}</h3><p><small>${escapeXml(part.type)}${worth}${askedOtherwise(part)}</small></p>${asHtml({ ...part.prompt, text: withGaps(part.prompt.text) })}${keyLines(part)}</section>`;
    });
    return `<section><h2>${i + 1}. ${escapeXml(q.title || q.id)}</h2><p><small>${escapeXml(q.type)}${points}${askedOtherwise(q)}</small></p>${prompt}${keyLines(q)}${inside.join('')}${feedback.join('')}</section>`;
  });
  return parts.join('<hr>');
}
