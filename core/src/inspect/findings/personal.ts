import { baseName, count } from '../../model/index.ts';
import { lineOf, spotAt, type FindingKind } from './contract.ts';
import { canStrip } from '../file-marks.ts';
import { matchesOf, patternOf } from '../patterns.ts';

/** Kinds of findings about what tells of people. */

const inTexts: FindingKind = {
  id: 'person-in-text',
  label: 'People named in texts',
  weight: 'exposes',
  mends: ['replace'],
  why: () => 'A page is read by everyone who comes after, and goes wherever the course goes.',
  *inPassage(passage, { house }) {
    const letters = passage.reading.references.filter((r) => /^mailto:/i.test(r.value));
    for (const { name, pattern } of house.personal) {
      for (const match of matchesOf(pattern, passage.source)) {
        const { text, index } = match;
        // In a link that writes to somebody it is the link that has to go: an address without one leads nowhere.
        const letter = letters.find((r) => r.at.start <= index && index + text.length <= r.at.end);
        yield {
          like: name,
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

const lists: FindingKind = {
  id: 'people-file',
  label: 'Files that list people',
  weight: 'exposes',
  mends: ['leave-out', 'give-file'],
  why: () => 'Class lists belong to the platform that made them; they may not leave with the course.',
  *inCourse({ course, house, fileMarks }) {
    const named = patternOf(house.peopleFiles);
    const marked = new Set(course.personal?.files ?? []);
    for (const file of course.files) {
      const marks = fileMarks.get(file.path)?.filter((m) => m.startsWith('people: ')) ?? [];
      if (!marked.has(file.path) && marks.length === 0 && !(named.fits(baseName(file.path)) && isTable(file.path)))
        continue;
      yield {
        like: marked.has(file.path) ? 'known' : 'by name',
        title: file.path,
        file: file.path,
        evidence: marks.length > 0 ? `${file.path}: ${marks.map((m) => m.slice(8)).join(', ')}` : file.path,
        suggestions: [{ mend: 'leave-out', params: {}, words: 'Leave the file out' }],
      };
    }
  },
};

const isTable = (path: string) => /\.(csv|tsv|xlsx?|ods|txt|docx|pdf)$/i.test(path);

const records: FindingKind = {
  id: 'people-records',
  label: 'Work and marks of students',
  weight: 'exposes',
  mends: ['strip-people'],
  why: () => 'Enrolments, hand-ins, marks and posts are records about students, not the course.',
  *inCourse({ course }) {
    const found = course.personal;
    if (!found) return;
    const words = [
      found.people > 0 && count(found.people, 'person', 'people'),
      found.submissions > 0 && count(found.submissions, 'submission'),
      found.grades > 0 && count(found.grades, 'grade'),
      found.posts > 0 && count(found.posts, 'post'),
    ].filter((w) => w !== false);
    if (words.length === 0) return;
    yield {
      title: 'Records of students',
      evidence: words.join(', '),
      suggestions: [{ mend: 'strip-people', params: {}, words: 'Take them all out' }],
    };
  },
};

const metadata: FindingKind = {
  id: 'file-tells-of-people',
  label: 'Files that tell who made them, or where',
  weight: 'exposes',
  mends: ['strip-marks', 'give-file', 'leave-out'],
  why: () => 'Documents bear the names of their authors, pictures the place where they were taken.',
  *inCourse({ fileMarks }) {
    for (const [path, marks] of fileMarks) {
      const told = marks.filter((m) => !m.startsWith('people: '));
      if (told.length === 0) continue;
      yield {
        like: told.map((m) => m.split(':', 1)[0]).join(' '),
        title: path,
        file: path,
        evidence: `${path}: ${told.join(', ')}`,
        suggestions: [
          canStrip(path)
            ? { mend: 'strip-marks', params: {}, words: 'Take that out of the file' }
            : { mend: 'leave-out', params: {}, words: 'Leave the file out' },
        ],
      };
    }
  },
};

export const PERSONAL_FINDINGS: readonly FindingKind[] = [records, lists, inTexts, metadata];
