import { leaves, type QCourse } from '../quernhold/model.ts';
import type { QRich } from '../quernhold/rich.ts';

const NAMES = [
  'Wren Aldous',
  'Mabli Tarrow',
  'Jory Penhale',
  'Elowen Stroud',
  'Odhran Vesk',
  'Kasia Brolin',
  'Noor Halvard',
];
const DAY = 86_400_000;

/** The first day of a term, by its name. */
export function termStart(term: string): number {
  const year = Number(/\d{4}/.exec(term)?.[0] ?? 2026);
  const [month, day] = term.startsWith('Spring') ? [0, 11] : term.startsWith('Summer') ? [3, 26] : [8, 14];
  return Date.UTC(year, month, day, 9);
}

const FIRST_DAY = new Intl.DateTimeFormat('en-GB', {
  weekday: 'long',
  day: 'numeric',
  month: 'long',
  timeZone: 'UTC',
});
/** `Monday 14 September`. */
const firstDay = (start: number) => FIRST_DAY.format(start).replace(',', '');

/** What a course at Quernhold has beyond its folders, made to fit what is in it. */
export function furnish(
  course: Pick<QCourse, 'nodes' | 'banks' | 'code' | 'section' | 'term' | 'title' | 'id'>,
  linked: Record<string, string>,
): QRich {
  const all = [...leaves(course.nodes)];
  const quizzes = all.filter((l) => l.kind === 'quiz');
  const tasks = all.filter((l) => l.kind === 'task');
  const talks = all.filter((l) => l.kind === 'talk');
  const pages = all.filter((l) => l.kind === 'page');
  const announced = course.nodes.filter((node) => node.kind === 'folder' && node.about !== undefined);
  const start = termStart(course.term);
  const week = (n: number, hour = 9) => new Date(start + n * 7 * DAY + (hour - 9) * 3_600_000).toISOString();
  let n = 0;
  const ref = () => `${course.id}-x${++n}`;
  const [quiz] = quizzes;
  const [task] = tasks;
  const rubric = {
    ref: ref(),
    title: 'Practical work',
    rows: ['Preparation', 'Execution', 'Record'].map((title) => ({
      title,
      cells: [
        { title: 'Sound', points: 10, text: 'Could be left to do it alone.' },
        { title: 'Fair', points: 6, text: 'Sound with help at hand.' },
        { title: 'Not yet', points: 0, text: 'To be done again.' },
      ],
    })),
  };
  const groups = { ref: ref(), title: 'Boat crews', names: ['Gannet', 'Shearwater', 'Turnstone'] };
  const crew = groups.names[0] ?? '';
  const categories = [
    { ref: ref(), title: 'Quizzes', weight: 40, dropLowest: 1, equal: true },
    { ref: ref(), title: 'Practical', weight: 60, dropLowest: 0, equal: false },
  ];
  const columns = [
    ...quizzes.map((q) => ({
      ref: ref(),
      title: q.title,
      points: 20,
      category: categories[0]?.ref ?? null,
      item: q.ref,
      bonus: false,
    })),
    ...tasks.map((t) => ({
      ref: ref(),
      title: t.title,
      points: t.kind === 'task' ? t.points : 10,
      category: categories[1]?.ref ?? null,
      item: t.ref,
      bonus: false,
    })),
    {
      ref: ref(),
      title: 'Workshop conduct',
      points: 10,
      category: categories[1]?.ref ?? null,
      item: null,
      bonus: false,
    },
    { ref: ref(), title: 'Open day helper', points: 5, category: null, item: null, bonus: true },
  ];
  const none = {
    opens: null,
    due: null,
    closes: null,
    after: null,
    done: null,
    password: null,
    lockdown: false,
    originality: false,
    group: null,
    rubric: null,
    starter: null,
  };
  const rules: QRich['rules'] = [
    ...quizzes.map((q, i) => ({
      ...none,
      item: q.ref,
      opens: week(2 + 2 * i),
      due: week(3 + 2 * i, 17),
      closes: week(3 + 2 * i, 23),
      after: i > 0 && quiz ? { item: quiz.ref, score: 60 } : null,
      done: 'passed' as const,
      password: i === 1 ? 'oakum' : null,
      lockdown: i === 1,
    })),
    ...tasks.map((t, i) => ({
      ...none,
      item: t.ref,
      due: week(4 + 2 * i, 17),
      done: 'handed in' as const,
      originality: i === 0,
      rubric: rubric.ref,
      group: i === 1 ? crew : null,
    })),
    ...talks.slice(0, 1).map((t) => ({
      ...none,
      item: t.ref,
      starter: 'Say where you are from, and what you want to be able to do by spring.',
    })),
    ...pages.slice(0, 1).map((p) => ({ ...none, item: p.ref, done: 'viewed' as const })),
    ...announced.map((f) => ({ ...none, item: f.ref, opens: week(6) })),
  ];
  const people = NAMES.map((name, i) => ({
    name,
    mail: `${name.toLowerCase().replace(' ', '.')}@students.marrowick.example`,
    number: `M${260_100 + i * 7 + Number(course.id.replace(/\D/g, ''))}`,
  }));
  return {
    notices: [
      {
        ref: ref(),
        title: 'Before we begin',
        text: `<p>Bring boots and a pencil on ${firstDay(start)}.</p>`,
        posted: week(0),
      },
      {
        ref: ref(),
        title: 'Car park closed',
        text: '<p>The lower car park is closed this week.</p>',
        posted: '2022-11-03T08:00:00.000Z',
      },
    ],
    checklists: [
      { ref: ref(), title: 'First-day list', steps: ['Read the safety page', 'Sign the tool book', 'Find your bench'] },
    ],
    automations: [
      ...(quiz
        ? [
            {
              ref: ref(),
              title: 'A word after a low score',
              when: 'score-below' as const,
              item: quiz.ref,
              value: 50,
              mailTo: 'learner' as const,
              text: 'Come to the clinic on Thursday.',
            },
          ]
        : []),
      {
        ref: ref(),
        title: 'Missed twice',
        when: 'absent' as const,
        item: null,
        value: 2,
        mailTo: 'tutor' as const,
        text: 'A learner has missed two sessions.',
      },
    ],
    attendance: {
      ref: ref(),
      title: 'Workshop register',
      marks: [
        { code: 'H', label: 'here', share: 100 },
        { code: 'L', label: 'late', share: 50 },
        { code: 'A', label: 'away', share: 0 },
      ],
      sessions: [1, 2, 3, 4].map((i) => week(i).slice(0, 10)),
    },
    events: [{ ref: ref(), title: 'Visit to the slip', text: 'Meet at the gate.', from: week(5), to: week(5, 12) }],
    rubrics: [rubric],
    groups: [groups],
    ledger: { letters: { Distinction: 80, Pass: 50, Refer: 0 }, categories, columns },
    rules,
    people,
    work:
      task && quiz
        ? people.slice(0, 4).map((p, i) => ({ person: p.number, item: i % 2 ? quiz.ref : task.ref, score: 50 + 9 * i }))
        : [],
    linked,
  };
}
