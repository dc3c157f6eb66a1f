import { baseName } from '../../../model/index.ts';
import { patternOf } from '../../patterns.ts';
import type { FindingKind } from '../contract.ts';

export const peopleFile: FindingKind = {
  id: 'people-file',
  label: 'Files that list people',
  weight: 'exposes',
  mends: ['leave-out', 'give-file'],
  why: () => 'Class lists belong to the platform that made them; they may not leave with the course.',
  *inCourse({ course, settings, fileMarks }) {
    const named = patternOf(settings.peopleFiles);
    const marked = new Set(course.personal?.files ?? []);
    for (const file of course.files) {
      const marks = fileMarks.get(file.path)?.filter((m) => m.startsWith('people: ')) ?? [];
      if (!marked.has(file.path) && marks.length === 0 && !(named.fits(baseName(file.path)) && isTable(file.path)))
        continue;
      yield {
        groupKey: marked.has(file.path) ? 'known' : 'by name',
        title: file.path,
        file: file.path,
        evidence: marks.length > 0 ? `${file.path}: ${marks.map((m) => m.slice(8)).join(', ')}` : file.path,
        suggestions: [{ mend: 'leave-out', params: {}, words: 'Leave the file out' }],
      };
    }
  },
};

const isTable = (path: string) => /\.(csv|tsv|xlsx?|ods|txt|docx|pdf)$/i.test(path);
