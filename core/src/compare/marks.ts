import { diffArrays } from 'diff';
import { Parser } from 'htmlparser2';
import { splice, type Splice } from '../markup/index.ts';

/** Two pages with what differs in their words marked. */
export interface Marked {
  left: string;
  right: string;
  /** Stretches of words that one has and the other has not; `null` where the pages are too long to be told apart. */
  changes: number | null;
}

/** More words than anybody reads side by side; finding what differs takes the longer the more does. */
const MOST_WORDS = 40_000;
const MOST_EDITS = 6_000;

/** A word as a reader sees it, and where it stands in the source. */
interface Word {
  text: string;
  start: number;
  end: number;
  /** Number of the stretch of text between two tags. */
  run: number;
}

const UNSEEN: ReadonlySet<string> = new Set(['script', 'style', 'title', 'textarea', 'option', 'select']);

/**
 * Marks the words of two pages that differ, each in its own page. Mark-up is left as it is and is not compared: how a page
 * is dressed is no content.
 */
export function markDifferences(left: string, right: string): Marked {
  const [before, after] = [wordsIn(left), wordsIn(right)];
  if (before.length > MOST_WORDS || after.length > MOST_WORDS) return { left, right, changes: null };
  const found = diffArrays(
    before.map((w) => w.text),
    after.map((w) => w.text),
    { maxEditLength: MOST_EDITS },
  );
  if (!found) return { left, right, changes: null };
  const [gone, come]: [Splice[], Splice[]] = [[], []];
  let [atLeft, atRight, changes, told] = [0, 0, 0, false];
  for (const { count, added, removed } of found) {
    if (!added && !removed) {
      [atLeft, atRight, told] = [atLeft + count, atRight + count, false];
      continue;
    }
    // What was put in another's place is one change.
    if (!told) changes++;
    told = true;
    if (removed) {
      gone.push(...marksOf(left, before.slice(atLeft, atLeft + count), 'gone'));
      atLeft += count;
    } else {
      come.push(...marksOf(right, after.slice(atRight, atRight + count), 'come'));
      atRight += count;
    }
  }
  return { left: splice(left, gone), right: splice(right, come), changes };
}

function wordsIn(html: string): Word[] {
  const words: Word[] = [];
  let unseen = 0;
  let run = 0;
  const parser = new Parser(
    {
      onopentag(name) {
        run++;
        if (UNSEEN.has(name)) unseen++;
      },
      onclosetag(name) {
        run++;
        if (UNSEEN.has(name)) unseen--;
      },
      ontext() {
        if (unseen > 0) return;
        const { startIndex, endIndex } = parser;
        for (const match of html.slice(startIndex, endIndex + 1).matchAll(/\S+/g)) {
          const start = startIndex + match.index;
          words.push({ text: match[0], start, end: start + match[0].length, run });
        }
      },
    },
    // As they are written: a word keeps its place then.
    { decodeEntities: false },
  );
  parser.end(html);
  return words;
}

const STYLES = {
  gone: 'background:#f7e0da;color:inherit;text-decoration:line-through',
  come: 'background:#d3ebe0;color:inherit',
};

/** One mark for all words that stand one after another within one stretch of text. */
function marksOf(html: string, words: readonly Word[], as: keyof typeof STYLES): Splice[] {
  const marks: { start: number; end: number; run: number }[] = [];
  for (const { start, end, run } of words) {
    const last = marks.at(-1);
    if (last?.run === run) last.end = end;
    else marks.push({ start, end, run });
  }
  return marks.map(({ start, end }) => ({
    start,
    end,
    text: `<mark style="${STYLES[as]}">${html.slice(start, end)}</mark>`,
  }));
}
