import { Parser } from 'htmlparser2';
import { splice, type Splice } from '../markup/index.ts';
import type { Course, ItemKind } from '../model/index.ts';

/** An item that holds what was searched for. */
export interface Hit {
  item: string;
  /** How often the first of the words stands in it. */
  times: number;
  inTitle: boolean;
  /** Where the first of the words stands in the item's text; -1 where it is only in the title. */
  at: number;
}

const LETTERS: Record<string, string> = { ł: 'l', ø: 'o', đ: 'd', ħ: 'h', ı: 'i', ŧ: 't' };

/**
 * A text as it is compared: without capitals and accents, and with every letter in the place that it had, so that what is
 * found can be shown as it was written.
 */
export function folded(text: string): string {
  let lower = text.toLowerCase();
  if (lower.length !== text.length) {
    lower = [...text].map((c) => (c.toLowerCase().length === c.length ? c.toLowerCase() : c)).join('');
  }
  return lower.replace(/[\u00c0-\u024f\u1e00-\u1eff]/g, plainLetter);
}

function plainLetter(letter: string): string {
  // What bears an accent may still be a letter of its own: ǿ is an ø.
  const bare = letter.normalize('NFD').charAt(0).toLowerCase();
  return LETTERS[letter] ?? LETTERS[bare] ?? bare;
}

/** The words of a question: each by itself, those between quotation marks as they stand. */
export function wordsAsked(question: string): string[] {
  const words = [...question.matchAll(/["“”]([^"“”]+)["“”]|(\S+)/g)].map((m) => folded((m[1] ?? m[2] ?? '').trim()));
  return [...new Set(words.filter((w) => w !== '' && !/^["“”]+$/.test(w)))];
}

/**
 * The titles and texts of one course, searched from end to end: any part of a word in any script is found, and ten
 * thousand items are gone through faster than a person sees.
 */
export class TextIndex {
  private readonly titles: string[] = [];
  private readonly texts: string[] = [];
  private readonly ids: string[] = [];
  private readonly places = new Map<string, number>();

  /** Adds to what is known of an item; its texts stand one after another. */
  add(item: string, title: string, text: string): void {
    const at = this.places.get(item);
    if (at === undefined) {
      this.places.set(item, this.ids.length);
      this.ids.push(item);
      this.titles.push(folded(title));
      this.texts.push(folded(text));
    } else if (text !== '') this.texts[at] = `${this.texts[at] ?? ''}\n${folded(text)}`;
  }

  get size(): number {
    return this.ids.length;
  }

  /** Items that hold every word, those that have them in their titles first. */
  search(question: string, limit = 500): { total: number; hits: Hit[] } {
    const words = wordsAsked(question);
    const [first] = words;
    if (first === undefined) return { total: 0, hits: [] };
    const hits: Hit[] = [];
    for (let i = 0; i < this.ids.length; i++) {
      const title = this.titles[i] ?? '';
      const text = this.texts[i] ?? '';
      if (!words.every((w) => title.includes(w) || text.includes(w))) continue;
      const at = text.indexOf(first);
      hits.push({
        item: this.ids[i] ?? '',
        inTitle: words.every((w) => title.includes(w)),
        times: times(text, first, at),
        at,
      });
    }
    hits.sort((a, b) => Number(b.inTitle) - Number(a.inTitle) || b.times - a.times);
    return { total: hits.length, hits: hits.slice(0, limit) };
  }
}

const MANY = 99;
function times(text: string, word: string, first: number): number {
  let found = 0;
  for (let at = first; at !== -1 && found < MANY; at = text.indexOf(word, at + word.length)) found++;
  return found;
}

/** What stands around a place of a text, with where the words are in it. */
export function excerptAround(
  text: string,
  at: number,
  words: readonly string[],
): { text: string; marks: [number, number][] } {
  const from = Math.max(0, at - 60);
  const start = from === 0 ? 0 : text.indexOf(' ', from) + 1 || from;
  const cut = text.slice(start, start + 200);
  const plain = folded(cut);
  const marks: [number, number][] = [];
  for (const word of words) {
    for (let i = plain.indexOf(word); i !== -1; i = plain.indexOf(word, i + word.length))
      marks.push([i, i + word.length]);
  }
  return { text: cut, marks: marks.sort((a, b) => a[0] - b[0]) };
}

/** A page with the words marked wherever a reader sees them. */
export function markWords(html: string, words: readonly string[]): string {
  if (words.length === 0) return html;
  const splices: Splice[] = [];
  let unseen = 0;
  const parser = new Parser({
    onopentag: (name) => void (UNMARKED.has(name) && unseen++),
    onclosetag: (name) => void (UNMARKED.has(name) && unseen--),
    ontext() {
      if (unseen > 0) return;
      const { startIndex: start, endIndex } = parser;
      const plain = folded(html.slice(start, endIndex + 1));
      for (const word of words) {
        for (let i = plain.indexOf(word); i !== -1; i = plain.indexOf(word, i + word.length)) {
          const at = { start: start + i, end: start + i + word.length };
          if (splices.some((s) => s.start < at.end && at.start < s.end)) continue;
          splices.push({ ...at, text: `<mark>${html.slice(at.start, at.end)}</mark>` });
        }
      }
    },
  });
  parser.end(html);
  return splice(html, splices);
}

const UNMARKED: ReadonlySet<string> = new Set(['script', 'style', 'title', 'textarea', 'option']);

/** Hits as they are shown: of the first some, what stands around the words. */
export interface TextAnswer {
  total: number;
  hits: {
    item: string;
    title: string;
    kind: ItemKind;
    times: number;
    inTitle: boolean;
    excerpt: { text: string; marks: [number, number][] } | null;
  }[];
}

/** How many hits are shown with what stands around them. */
const SHOWN = 60;

/** Searches a course; `wordsAt` gives the text of an item as it was put into the index. */
export async function searchCourse(
  course: Course,
  index: TextIndex,
  question: string,
  wordsAt: (item: Course['items'][number]) => Promise<string>,
): Promise<TextAnswer> {
  const { total, hits } = index.search(question);
  const items = new Map(course.items.map((i) => [i.id, i]));
  const words = wordsAsked(question);
  const shown: TextAnswer['hits'] = [];
  for (const [n, { item: id, times, inTitle, at }] of hits.entries()) {
    const item = items.get(id);
    if (!item) continue;
    const excerpt = n < SHOWN && at >= 0 ? excerptAround(await wordsAt(item), at, words) : null;
    shown.push({ item: id, title: item.title, kind: item.kind, times, inTitle, excerpt });
  }
  return { total, hits: shown };
}
