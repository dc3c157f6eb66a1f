import { saysAgain, takenAs, textOf, type XmlElement } from '../../markup/index.ts';
import type { Declaration } from './declaration.ts';
import { attributeOf, id, kid, kids, qtiVocabulary } from './names.ts';
import type { Processing } from './processing.ts';

/** Written where a question's points are not known. */
const WHOLE = qtiVocabulary('outcomeDeclaration defaultValue value', 'identifier cardinality baseType');

/** What tells how much an item is worth. */
export interface Scored {
  root: XmlElement;
  declarations: ReadonlyMap<string, Declaration>;
  processing: Processing;
  /** It has one interaction only. */
  single: boolean;
}

/** What the question is worth: as the outcome declares it, or as the key gives it. */
export function pointsOf(item: Scored): number | null {
  const { root, declarations, processing } = item;
  const outcomes = kids(root, 'outcomeDeclaration');
  // Points begin at nothing in every question.
  for (const outcome of outcomes) saysAgain(kid(outcome, 'defaultValue'), '0', '0.0');
  const score = outcomes.find((o) => id(o) === 'SCORE');
  const most = outcomes.find((o) => id(o) === 'MAXSCORE');
  const declared = [
    score && attributeOf(score, 'normalMaximum'),
    most && textOf(kid(kid(most, 'defaultValue'), 'value')),
  ].map((v) => Number(v || Number.NaN));
  const [found] = declared.filter((n) => Number.isFinite(n));
  if (found !== undefined) return found;
  // Written where a question's points are not known: see `write.ts`.
  const whole = outcomes.find((o) => id(o) === 'WHOLE');
  takenAs(WHOLE, whole);
  if (whole) return null;
  if (processing.whole !== null) return processing.whole;
  const shares = [...declarations].flatMap(([name, declared]) => worth(name, declared, item) ?? []);
  return shares.length === 0 ? null : shares.reduce((sum, share) => sum + share, 0);
}

/** The most that one response gives; `undefined` where nothing is said of it. */
export function worth(
  name: string,
  { cardinality, mapping, areas, limits }: Declaration,
  { processing, single }: Scored,
): number | undefined {
  const { mapped, keyed, choices, strings, numbers } = processing;
  const values = [...mapping, ...areas].map((m) => m.value);
  const together = (scores: readonly number[]) =>
    cardinality === 'single' ? Math.max(...scores) : scores.reduce((sum, v) => sum + Math.max(0, v), 0);
  if (values.length > 0 && mapped.has(name)) return Math.min(limits.most ?? Number.POSITIVE_INFINITY, together(values));
  const key = keyed.get(name);
  if (key !== undefined) return key;
  const of = <T extends { score: number | undefined }>(tests: readonly T[]) => tests.flatMap((t) => t.score ?? []);
  const chosen = of(choices.filter((c) => c.variable === name));
  if (chosen.length > 0) return together(chosen);
  const alternatives = of([
    ...strings.filter((s) => s.variable === name),
    ...numbers.filter((n) => n.variable === name || (single && n.variable === '')),
  ]);
  return alternatives.length === 0 ? undefined : Math.max(...alternatives);
}
