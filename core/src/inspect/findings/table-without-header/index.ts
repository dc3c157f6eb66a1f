import { wholeOf } from '../../../markup/index.ts';
import { excerpt, spotAt, type FindingKind } from '../contract.ts';
import { foundIn } from '../page-parts.ts';

export const tableWithoutHeader: FindingKind = {
  id: 'table-without-header',
  label: 'Tables without header cells',
  weight: 'weakens',
  mends: ['head-table'],
  why: () => 'A screen reader reads a row of numbers without saying what they are.',
  *inPassage(passage) {
    for (const one of passage.reading.tables) {
      if (one.rows < 2 || one.headers > 0 || one.attrs['role'] === 'presentation') continue;
      yield foundIn(passage, one, `table of ${one.rows} rows: ${excerpt(one.text, 80)}`, {
        groupKey: 'first row',
        spot: spotAt(wholeOf(one), one),
        suggestions: [{ mend: 'head-table', params: {}, words: 'Make its first row the header' }],
      });
    }
  },
};
