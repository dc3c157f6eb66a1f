/** Patterns are an institution's own; each is made once. */
const MADE = new Map<string, RegExp>();

export function patternOf(source: string): RegExp {
  let pattern = MADE.get(source);
  if (!pattern) MADE.set(source, (pattern = new RegExp(source, 'gi')));
  return pattern;
}

/** Everything that a pattern fits. Letters that it can't do without are looked for first: that costs next to nothing. */
export function* matchesOf(source: string, text: string): Generator<RegExpExecArray> {
  if (source.includes('@') && !text.includes('@')) return;
  yield* text.matchAll(patternOf(source));
}
