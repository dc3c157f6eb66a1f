import { saidDates, tongueOf } from '../../said-dates.ts';
import { excerpt, lineOf, spotAt, type FindingKind } from '../contract.ts';

/** The kind by which the step Re-date knows its own. */
export const DATE_IN_WORDS = 'date-in-words';

export const dateInWords: FindingKind = {
  id: DATE_IN_WORDS,
  label: 'Dates written in texts',
  weight: 'weakens',
  step: 're-date',
  mends: ['new-date', 'replace'],
  why: () => 'A text that says “by Friday 18 September” says so next term too.',
  *inPassage({ item, part, file, source, reading }, { course }) {
    // Style sheets say no dates.
    if (item === null) return;
    const language = tongueOf(reading.lang === '' ? course.metadata.language : reading.lang);
    for (const { start, end, phrase, sentence, said } of saidDates(source, language, true)) {
      yield {
        groupKey: phrase,
        item,
        part,
        file,
        line: lineOf(source, start),
        evidence: excerpt(sentence, 240),
        spot: spotAt({ start, end }),
        suggestions:
          said === null ? [] : [{ mend: 'new-date', params: { language }, words: 'Write the day that it is then' }],
      };
    }
  },
};
