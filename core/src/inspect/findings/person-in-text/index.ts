import { lineOf, spotAt, type FindingKind } from '../contract.ts';
import { matchesOf } from '../../patterns.ts';

/** Kinds of findings about what tells of people. */
export const personInText: FindingKind = {
  id: 'person-in-text',
  label: 'People named in texts',
  weight: 'exposes',
  mends: ['replace'],
  why: () => 'A page is read by everyone who comes after, and goes wherever the course goes.',
  *inPassage(passage, { settings }) {
    const letters = passage.reading.references.filter((r) => /^mailto:/i.test(r.value));
    for (const { name, pattern } of settings.personal) {
      for (const match of matchesOf(pattern, passage.source)) {
        const { text, index } = match;
        // In a link that writes to somebody it is the link that has to go: an address without one leads nowhere.
        const letter = letters.find((r) => r.at.start <= index && index + text.length <= r.at.end);
        yield {
          groupKey: name,
          item: passage.item,
          part: passage.part,
          file: passage.file,
          line: lineOf(passage.source, index),
          evidence: `${name} ${text}`,
          spot: spotAt({ start: index, end: index + text.length }, letter?.element ?? null),
          suggestions: [
            { mend: 'replace', params: { text: `[${name} removed]` }, words: `Put “[${name} removed]” in its place` },
          ],
        };
      }
    }
  },
};
