import type { Course, Item } from '../../model/index.ts';

/** A grade category whose weight is another once the course is. */
export interface Reweighed {
  item: string;
  title: string;
  was: number;
  will: number;
}

const isWeighed = (item: Item) =>
  item.kind === 'category' && item.settings.weight !== undefined && item.settings.bonus !== true;
const weightOf = (item: Item) => item.settings.weight ?? 0;

/** The new weights of the categories of a course, so that they come to a hundred; none where they do, or where none are weighed. */
export function reweighed({ items }: Pick<Course, 'items'>): Reweighed[] {
  const all = items.filter(isWeighed);
  const sum = all.reduce((total, item) => total + weightOf(item), 0);
  if (sum === 0 || Math.abs(sum - 100) < 0.005) return [];
  const exact = all.map((item) => (weightOf(item) / sum) * 100);
  // In tenths, the rest to those that lost the most by it: they come to a hundred, and to no hair more.
  const tenths = exact.map((one) => Math.floor(one * 10));
  const rest = 1000 - tenths.reduce((a, b) => a + b, 0);
  const byLoss = exact.map((one, i) => ({ i, lost: one * 10 - Math.floor(one * 10) })).sort((a, b) => b.lost - a.lost);
  for (const { i } of byLoss.slice(0, rest)) tenths[i] = (tenths[i] ?? 0) + 1;
  return all.flatMap((item, i) => {
    const will = (tenths[i] ?? 0) / 10;
    return will === weightOf(item) ? [] : [{ item: item.id, title: item.title, was: weightOf(item), will }];
  });
}
