import {
  holdsQuestions,
  timeOf,
  writtenMoment,
  type Moment,
  baseName,
  count,
  drawsOf,
  filesOf,
  hasPartialCredit,
  readableSize,
  type Item,
  type OutlineNode,
  type Question,
} from '../../model/index.ts';
import { readable } from '../passages.ts';
import type { FindingKind, Found, ScanContext, Suggestion } from './contract.ts';

/** Kinds of findings about what a course is made of. */

const leaveOut = (words: string): Suggestion => ({ mend: 'leave-out', params: {}, words });

const PLAYED_WHOLE = /^play\/course(-\d+)?\.(html|js)$/;

/** Package paths that something of the course is made of or uses. */
function usedFiles({ course, links }: ScanContext): Set<string> {
  const used = new Set(course.items.flatMap(filesOf));
  for (const link of links) if (link.path !== null) used.add(link.path);
  for (const item of course.items) if (item.definitionPath !== null) used.add(item.definitionPath);
  // The page around a course that is played whole, and its script, are what Treenail wrote to play it.
  for (const file of course.files) if (PLAYED_WHOLE.test(file.path)) used.add(file.path);
  return used;
}

const unusedFile: FindingKind = {
  id: 'file-unused',
  label: 'Files that nothing uses',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'They are carried, stored and backed up for nobody.',
  *inCourse(context) {
    const used = usedFiles(context);
    for (const file of context.course.files) {
      if (file.role !== 'content' || used.has(file.path)) continue;
      yield {
        like: baseName(file.path),
        title: file.path,
        file: file.path,
        evidence: `${file.path}, ${readableSize(file.size)}`,
        suggestions: [leaveOut('Leave the file out')],
      };
    }
  },
};

const unusedQuiz: FindingKind = {
  id: 'quiz-unused',
  label: 'Quizzes and banks that nothing shows',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'No place of the outline shows them and no quiz draws from them; old attempts often lie about so.',
  *inCourse(context) {
    const drawn = new Set(
      context.course.items.flatMap((i) => (i.kind === 'quiz' ? drawsOf(i).map((d) => d.bank) : [])),
    );
    const linked = new Set(context.links.flatMap((l) => l.to ?? []));
    for (const item of context.course.items) {
      const unused =
        (item.kind === 'quiz' && !context.placed.has(item.id) && !linked.has(item.id)) ||
        (item.kind === 'bank' && !drawn.has(item.id) && !context.placed.has(item.id));
      if (!unused) continue;
      yield {
        like: item.kind,
        item,
        evidence: `${item.kind === 'quiz' ? 'quiz' : 'question bank'} with ${count(item.questions.length, 'question')}`,
        suggestions: [leaveOut(item.kind === 'quiz' ? 'Leave the quiz out' : 'Leave the bank out')],
      };
    }
  },
};

const keyless: FindingKind = {
  id: 'question-without-key',
  label: 'Questions without a key',
  weight: 'breaks',
  mends: ['leave-out-question'],
  why: () => 'No answer is right, so nobody gets the points, or the import refuses the whole quiz.',
  *inCourse({ course }) {
    for (const item of course.items) {
      if (!holdsQuestions(item)) continue;
      for (const q of item.questions) {
        if (hasKey(q)) continue;
        yield {
          like: q.type,
          item,
          part: `question ${q.id}: prompt`,
          evidence: `${q.type}: ${readable(q.prompt).slice(0, 120)}`,
          suggestions: [{ mend: 'leave-out-question', params: { question: q.id }, words: 'Leave the question out' }],
        };
      }
    }
  },
};

function hasKey(q: Question): boolean {
  switch (q.type) {
    case 'choice':
    case 'multiple response':
    case 'true/false':
      return q.choices.some((c) => c.correct || (c.score ?? 0) > 0);
    case 'short answer':
    case 'pattern':
      return q.answers.length > 0;
    case 'cloze':
      return (q.blanks ?? []).every((b) => b.answers.length > 0 || b.choices.some((c) => c.correct));
    case 'numeric':
      return (q.numbers ?? []).length > 0;
    case 'matching':
    case 'associate':
    case 'gap match':
      return (q.pairs ?? []).length > 0;
    case 'ordering':
      return (q.order ?? []).length > 0;
    case 'hotspot':
      return (q.areas ?? []).some((a) => a.correct);
    default:
      return true;
  }
}

const emptyQuiz: FindingKind = {
  id: 'quiz-without-questions',
  label: 'Quizzes without questions',
  weight: 'breaks',
  mends: ['leave-out', 'ask-bank'],
  why: () => 'Students open it and find nothing.',
  *inCourse({ course }) {
    const banks = course.items.flatMap((i) => (i.kind === 'bank' && i.questions.length > 0 ? [i] : []));
    for (const item of course.items) {
      if (item.kind !== 'quiz' || item.questions.length > 0) continue;
      const there = drawsOf(item).some((d) => banks.some((b) => b.id === d.bank));
      yield {
        like: there ? 'drawn' : 'empty',
        item,
        evidence: there ? 'all of its questions are drawn from banks' : 'it has no questions, and draws none',
        weight: there ? 'weakens' : 'breaks',
        suggestions: [
          ...banks.slice(0, 3).map((bank) => ({
            mend: 'ask-bank',
            params: { bank: bank.id },
            words: `Put the ${count(bank.questions.length, 'question')} of “${bank.title}” into it`,
          })),
          leaveOut('Leave the quiz out'),
        ],
      };
    }
  },
};

const points: FindingKind = {
  id: 'points-do-not-add-up',
  label: 'Points that do not add up',
  weight: 'weakens',
  mends: ['set-points'],
  why: () => 'The gradebook counts other points than the quiz gives.',
  *inCourse({ course, items }) {
    for (const item of course.items) {
      if (item.kind === 'quiz' && typeof item.settings.points === 'number' && item.questions.length > 0) {
        const sum = item.questions.reduce((total, q) => total + (q.points ?? 0), 0);
        const drawn = drawsOf(item).length > 0;
        if (drawn || item.questions.some((q) => q.points === null) || sum === item.settings.points) continue;
        yield {
          item,
          evidence: `set to ${item.settings.points} points, its questions give ${sum}`,
          suggestions: [{ mend: 'set-points', params: { points: String(sum) }, words: `Set it to ${sum} points` }],
        };
      }
      if (item.kind === 'quiz') {
        for (const q of item.questions) {
          if (!hasPartialCredit(q) || q.points === null || q.type !== 'multiple response') continue;
          const best = q.choices.reduce((total, c) => total + Math.max(0, c.score ?? 0), 0);
          if (best === 0 || Math.abs(best - q.points) < 1e-6) continue;
          yield {
            like: 'parts',
            item,
            part: `question ${q.id}: prompt`,
            evidence: `“${readable(q.prompt).slice(0, 80)}” is worth ${q.points}, its right choices give ${best}`,
          };
        }
      }
      if (item.kind === 'column') {
        const graded = typeof item.settings.gradesItem === 'string' ? items.get(item.settings.gradesItem) : undefined;
        const own = graded?.settings.points;
        if (typeof own !== 'number' || typeof item.settings.points !== 'number' || own === item.settings.points)
          continue;
        yield {
          like: 'column',
          item,
          evidence: `the column counts ${item.settings.points} points, “${graded?.title ?? ''}” gives ${own}`,
          suggestions: [{ mend: 'set-points', params: { points: String(own) }, words: `Count ${own} points` }],
        };
      }
    }
    const weights = course.items.flatMap((i) =>
      i.kind === 'category' && typeof i.settings.weight === 'number' && i.settings.bonus !== true
        ? [i.settings.weight]
        : [],
    );
    const sum = weights.reduce((a, b) => a + b, 0);
    if (weights.length > 0 && sum > 0 && Math.abs(sum - 100) > 0.01) {
      yield {
        like: 'weights',
        title: 'Gradebook',
        evidence: `the weights of ${count(weights.length, 'grade category', 'grade categories')} come to ${sum} %`,
      };
    }
  },
};

const emptyFolder: FindingKind = {
  id: 'folder-empty',
  label: 'Folders with nothing in them',
  weight: 'clutters',
  mends: ['leave-out'],
  why: (to) => `They arrive at ${to?.label ?? 'the destination'} as headings over nothing, or not at all.`,
  *inCourse({ course }) {
    const stack: OutlineNode[] = [...course.outline].reverse();
    for (let node = stack.pop(); node; node = stack.pop()) {
      stack.push(...[...node.children].reverse());
      if (node.item !== undefined || node.heading === true || node.children.length > 0) continue;
      yield {
        like: node.id,
        title: node.title,
        evidence: `“${node.title}” holds nothing`,
        suggestions: [{ mend: 'leave-out', params: { node: node.id }, words: 'Leave the folder out' }],
      };
    }
  },
};

const doubled: FindingKind = {
  id: 'doubled',
  label: 'Items that are there twice',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'Readers find two of the same and do not know which counts; marks are split between them.',
  *inCourse({ course, placed }) {
    const first = new Map<string, Item>();
    for (const item of course.items) {
      if (item.fingerprint === undefined || item.kind === 'category' || item.kind === 'foreign') continue;
      const settings = item.kind === 'column' ? JSON.stringify(item.settings) : '';
      const same = `${item.kind}\n${item.title}\n${item.fingerprint}\n${settings}`;
      const before = first.get(same);
      if (!before) first.set(same, item);
      else {
        yield {
          like: same.slice(0, 200),
          item,
          evidence: `the same as another ${item.kind} “${before.title}”${placed.has(item.id) ? '' : ', and in no place of the outline'}`,
          suggestions: [leaveOut('Leave this one out')],
        };
      }
    }
    const files = new Map<string, string>();
    for (const file of course.files) {
      if (file.role !== 'content' || file.sha256 === undefined || file.size < 1024 || /html/.test(file.mediaType))
        continue;
      const before = files.get(file.sha256);
      if (before === undefined) files.set(file.sha256, file.path);
      else {
        yield {
          like: file.sha256,
          title: file.path,
          file: file.path,
          evidence: `${file.path} (${readableSize(file.size)}) is byte for byte ${before}`,
          suggestions: [{ mend: 'merge-file', params: { into: before }, words: `Use ${before} in its place` }],
        };
      }
    }
  },
};

const DATES = ['opens', 'due', 'closes', 'posted'] as const;
/** A date by its day, as lists of dates are read; words that are no date as they stand. */
const day = (moment: Moment) => (moment.is === 'unread' ? moment.words : writtenMoment(moment).slice(0, 10));

function isBefore(moment: Moment, limit: number): boolean {
  const time = timeOf(moment);
  return time !== null && time < limit;
}

const stale: FindingKind = {
  id: 'announcement-stale',
  label: 'Announcements of long ago',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'New students are told what was new to others.',
  *inCourse({ course, today, house }) {
    const before = Date.parse(today) - house.staleDays * 86_400_000;
    for (const item of course.items) {
      const { posted } = item.settings;
      if (item.kind !== 'announcement' || posted === undefined || !isBefore(posted, before)) continue;
      yield {
        like: day(posted).slice(0, 4),
        item,
        evidence: `posted on ${day(posted)}`,
        suggestions: [leaveOut('Leave the announcement out')],
      };
    }
  },
};

const past: FindingKind = {
  id: 'date-past',
  label: 'Dates that have passed',
  weight: 'weakens',
  mends: ['drop-dates'],
  why: () => 'What was due last term arrives closed.',
  *inCourse({ course, today }) {
    for (const item of course.items) {
      if (item.kind === 'announcement') continue;
      const dates = DATES.flatMap((name) => {
        const value = item.settings[name];
        return value !== undefined && isBefore(value, Date.parse(today)) ? [{ name, value }] : [];
      });
      if (dates.length === 0) continue;
      yield {
        like: dates.map((d) => d.name).join(' '),
        item,
        evidence: dates.map((d) => `${d.name} ${day(d.value)}`).join(', '),
        suggestions: [
          { mend: 'drop-dates', params: { names: dates.map((d) => d.name).join(',') }, words: 'Take the dates off' },
        ],
      };
    }
  },
};

const hidden: FindingKind = {
  id: 'hidden',
  label: 'Items that students do not see',
  weight: 'clutters',
  mends: ['leave-out', 'show'],
  why: (to) =>
    `Some destinations show everything that arrives; look whether ${to?.label ?? 'yours'} is to have them at all.`,
  *inCourse({ course }) {
    for (const item of course.items) {
      const why =
        item.settings.hidden === true
          ? 'hidden in the outline'
          : item.settings.audience === 'Instructor'
            ? 'shown to instructors only'
            : null;
      if (why === null) continue;
      yield {
        like: why,
        item,
        evidence: why,
        suggestions: [leaveOut('Leave it out'), { mend: 'show', params: {}, words: 'Show it' }],
      };
    }
  },
};

const oversize: FindingKind = {
  id: 'file-too-long',
  label: 'Files over the limit',
  weight: 'breaks',
  mends: ['leave-out', 'give-file'],
  why(to) {
    const limit = to?.limits.fileBytes;
    return limit
      ? `${limit.reason}: a longer one is left behind.`
      : 'Long files make moves slow, and destinations refuse them.';
  },
  *inCourse({ course, profile, house }) {
    const limit = profile?.limits.fileBytes?.at ?? house.oversizeBytes;
    const users = new Map<string, Item>();
    for (const item of course.items) for (const path of filesOf(item)) if (!users.has(path)) users.set(path, item);
    for (const file of course.files) {
      if (file.size <= limit || file.role !== 'content') continue;
      const item = users.get(file.path) ?? null;
      yield {
        item,
        title: file.path,
        file: file.path,
        evidence: `${file.path} has ${readableSize(file.size)}, the limit is ${readableSize(limit)}`,
        suggestions: [leaveOut('Leave it out')],
      };
    }
  },
};

const names: FindingKind = {
  id: 'name-unfit',
  label: 'Names that the destination can not bear',
  weight: 'weakens',
  mends: ['rename'],
  why(to) {
    const rule = to?.limits.nameCharacters;
    return rule && to
      ? `${to.label} ${rule.reason}.`
      : 'They are cut off or changed on the way, and what leads to them breaks.';
  },
  *inCourse({ course, profile }) {
    const rule = profile?.limits.nameCharacters;
    const title = profile?.limits.titleLength;
    for (const file of course.files) {
      const unfit = rule ? [...baseName(file.path)].filter((c) => rule.not.includes(c)) : [];
      if (file.role !== 'content' || unfit.length === 0 || !rule) continue;
      const to = [...baseName(file.path)]
        .map((c) => (rule.not.includes(c) ? '-' : c))
        .join('')
        .replace(/-{2,}/g, '-');
      yield {
        like: [...new Set(unfit)].sort().join(''),
        title: file.path,
        file: file.path,
        evidence: `${file.path} has ${[...new Set(unfit)].map((c) => (c === ' ' ? 'a space' : c)).join(' ')} in its name`,
        suggestions: [{ mend: 'rename', params: { name: to }, words: `Name it ${to}` }],
      };
    }
    for (const item of course.items) {
      if (!title || item.title.length <= title.at) continue;
      const short = item.title.slice(0, title.at).trimEnd();
      yield {
        like: 'title',
        item,
        evidence: `a title of ${item.title.length} characters, where ${title.at} are held`,
        suggestions: [{ mend: 'rename', params: { name: short }, words: `Call it “${short}”` }],
      };
    }
  },
};

const tool: FindingKind = {
  id: 'tool',
  label: 'External tools to be connected again',
  weight: 'weakens',
  mends: ['to-web-link', 'leave-out'],
  why: (to) => `Keys and secrets never travel: somebody has to enter them at ${to?.label ?? 'the destination'}.`,
  *inCourse({ course }) {
    for (const item of course.items) {
      if (item.kind !== 'tool') continue;
      const host = /^https?:\/\/([^/]+)/i.exec(item.url)?.[1] ?? item.url;
      yield {
        like: host,
        item,
        evidence: `tool at ${item.url}`,
        suggestions: [{ mend: 'to-web-link', params: {}, words: 'Make it a web link' }],
      };
    }
  },
};

const guarded: FindingKind = {
  id: 'guarded',
  label: 'Guards to be set again',
  weight: 'weakens',
  mends: ['drop-guards'],
  why: () => 'Passwords, locked-down browsers and originality checks stay behind: without them the quiz stands open.',
  *inCourse({ course }) {
    for (const item of course.items) {
      const guards = (['password', 'lockdown', 'originality'] as const).filter(
        (name) => item.settings[name] !== undefined,
      );
      if (guards.length === 0) continue;
      const words = { password: 'a password', lockdown: 'a locked-down browser', originality: 'an originality check' };
      const found: Found = {
        like: guards.join(' '),
        item,
        evidence: guards.map((g) => words[g]).join(', '),
        suggestions: [{ mend: 'drop-guards', params: {}, words: 'Do without' }],
      };
      yield found;
    }
  },
};

const linked: FindingKind = {
  id: 'file-in-repository',
  label: 'Files that lie in the shared repository',
  weight: 'weakens',
  mends: ['keep-own'],
  why: () => 'Another course may use the same file; after the move each has its own, and nobody updates them all.',
  *inCourse({ course }) {
    for (const item of course.items) {
      const { repository } = item.settings;
      if (typeof repository !== 'string') continue;
      yield {
        like: repository,
        item,
        evidence: `lies in the repository as ${repository}`,
        suggestions: [{ mend: 'keep-own', params: {}, words: 'Keep it as a file of this course' }],
      };
    }
  },
};

export const CONTENT_FINDINGS: readonly FindingKind[] = [
  emptyQuiz,
  keyless,
  oversize,
  points,
  guarded,
  tool,
  linked,
  names,
  past,
  stale,
  doubled,
  hidden,
  emptyFolder,
  unusedQuiz,
  unusedFile,
];
