import { RE2JS } from 're2js';
import { FINDING_SETTINGS } from './findings/contract.ts';

/** One place that a pattern fits. */
export interface Fit {
  text: string;
  index: number;
}

/** A pattern of the house, made once. Letters count alike whether small or capital. */
interface Pattern {
  in(text: string): Iterable<Fit>;
  fits(text: string): boolean;
}

const MADE = new Map<string, Pattern>();

/** Patterns that ship are known to end on any text; they are left to the engine that is built in, which is faster. */
const SHIPPED = new Set([
  ...FINDING_SETTINGS.placeholders,
  ...FINDING_SETTINGS.personal.map((p) => p.pattern),
  FINDING_SETTINGS.peopleFiles,
]);

/**
 * Patterns are an institution's own, and texts are anybody's: a pattern that a person entered is tried by an engine whose
 * time grows with the text alone, whatever the pattern.
 * @throws Error where it is none, or uses what such an engine can't do: references back, and looking around
 */
export function patternOf(source: string): Pattern {
  let pattern = MADE.get(source);
  if (!pattern) MADE.set(source, (pattern = SHIPPED.has(source) ? builtIn(source) : linear(source)));
  return pattern;
}

function builtIn(source: string): Pattern {
  const pattern = new RegExp(source, 'gi');
  return {
    *in(text) {
      for (const match of text.matchAll(pattern)) yield { text: match[0], index: match.index };
    },
    fits: (text) => new RegExp(source, 'i').test(text),
  };
}

function linear(source: string): Pattern {
  const pattern = RE2JS.compile(source, RE2JS.CASE_INSENSITIVE);
  return {
    *in(text) {
      const matcher = pattern.matcher(text);
      while (matcher.find()) yield { text: text.slice(matcher.start(), matcher.end()), index: matcher.start() };
    },
    fits: (text) => pattern.matcher(text).find(),
  };
}

/** Everything that a pattern fits. Letters that it can't do without are looked for first: that costs next to nothing. */
export function* matchesOf(source: string, text: string): Generator<Fit> {
  // An address may be one of several things that a pattern of the house fits.
  if (SHIPPED.has(source) && source.includes('@') && !text.includes('@')) return;
  yield* patternOf(source).in(text);
}

/** What a pattern is tried on when it is entered: a page as there are many, and what is hard on pattern engines. */
const SAMPLE = `${'<p>Bring the tool book, and write to tutor@marrowick.example before 16 October 2026.</p>\n'.repeat(200)}${'7'.repeat(20_000)}${' a'.repeat(10_000)}`;

/** The longest that a pattern may take on the sample, in ms: what is slow may have been so for others' sake, and is tried again. */
const SLOW_MS = 1500;
const TRIES = 3;

/**
 * Why a pattern can't be used, in words that go on after its name; `null` where it can.
 * @param now the time in ms
 */
export function whyUnfit(source: string, now: () => number = () => performance.now()): string | null {
  try {
    const pattern = patternOf(source);
    if (pattern.fits('')) return 'fits what is empty';
    for (let tries = 1; ; tries++) {
      const fits = fitsWithin(pattern, SLOW_MS, now);
      if (fits === 'empty') return 'fits what is empty';
      if (fits !== 'slow') return fits > SAMPLE.length / 4 ? 'fits nearly every letter' : null;
      if (tries === TRIES) return 'takes too long on an ordinary page';
    }
  } catch {
    return 'can not be read; references back (\\1) and looking around ((?=, (?<!) are not known';
  }
}

/** How often a pattern fits the sample, unless it takes longer than so many ms. */
function fitsWithin(pattern: Pattern, most: number, now: () => number): number | 'slow' | 'empty' {
  const began = now();
  let fits = 0;
  for (const { text } of pattern.in(SAMPLE)) {
    if (text === '') return 'empty';
    fits++;
    if (now() - began > most) return 'slow';
  }
  return now() - began > most ? 'slow' : fits;
}
