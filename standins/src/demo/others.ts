import { TRADES, type Trade, type Week } from './trades/index.ts';
import { blank, essay, file, folder, link, mc, page, talk, tf, type CoursePlan, type NodePlan } from './plan.ts';

/** The rest of the two schools' courses, each made of the words of its own trade (`trades/`). */

/** What Treenail's people would call the parts of a course in its language. */
const SAYS = {
  en: {
    week: 'Week',
    know: (word: string) => `${word}: what to know`,
    hand: (word: string) => `${word} by hand`,
    next: (word: string) => `Afterwards comes ${word}; what is learnt here is used there.`,
    term: (word: string, means: string) => `The word of the week: *${word}*. ${means}`,
    blank: (means: string) => `${means} The word for it is ______.`,
    welcome: 'Everybody is welcome who has read Workshop Safety.',
  },
  gd: {
    week: 'Seachdain',
    know: (word: string) => `${word}: na dh’fheumas tu`,
    hand: (word: string) => `${word} le làimh`,
    next: (word: string) => `An ath sheachdain: ${word}.`,
    term: (word: string, means: string) => `Facal na seachdain: *${word}*. ${means}`,
    blank: (means: string) => `${means} ’S e ______ am facal.`,
    welcome: 'Fàilte air a h-uile duine.',
  },
  pl: {
    week: 'Tydzień',
    know: (word: string) => `${word}: co trzeba wiedzieć`,
    hand: (word: string) => `${word} w praktyce`,
    next: (word: string) => `Następny temat: ${word}.`,
    term: (word: string, means: string) => `Słowo tygodnia: *${word}*. ${means}`,
    blank: (means: string) => `${means} To słowo: ______.`,
    welcome: 'Zapraszamy wszystkich.',
  },
  ar: {
    week: 'الأسبوع',
    know: (word: string) => `${word}: ما يجب معرفته`,
    hand: (word: string) => `${word} عمليا`,
    next: (word: string) => `الأسبوع القادم: ${word}.`,
    term: (word: string, means: string) => `كلمة الأسبوع: *${word}*. ${means}`,
    blank: (means: string) => `${means} الكلمة هي ______.`,
    welcome: 'أهلا بالجميع.',
  },
} as const;

const STAFF = ['boatbuilding', 'seamanship', 'shore', 'workshop', 'history', 'languages'];

function quizOf(trade: Trade, { word, ask, truth, term, hand }: Week, n: number): NodePlan {
  const [prompt, right, ...wrong] = ask;
  // The right one is not always the first.
  const choices = wrong.toSpliced(n % (wrong.length + 1), 0, `*${right}`);
  return {
    kind: 'quiz',
    title: `Wk ${n + 1} quiz`,
    intro: 'Ten minutes.',
    tries: 2,
    minutes: 10,
    questions: [
      mc(`${word} 1`, prompt, choices, { feedback: `${right}.` }),
      tf(`${word} 2`, truth[0], truth[1]),
      blank(`${word} 3`, SAYS[trade.lang].blank(term[1]), [term[0]]),
      ...(n === 2 ? [essay(`${word} 4`, hand, 'That it was done, and what changed.')] : []),
    ],
  };
}

/** What a week has beside what all have. */
function extra(trade: Trade, { word, hand }: Week, n: number, name: string): NodePlan[] {
  const nodes: NodePlan[] = [];
  if (n === 1) {
    nodes.push({
      kind: 'task',
      title: `Half way: ${word}`,
      text: `${hand} Write one page on how it went.`,
      points: 15,
      ways: ['text'],
    });
    nodes.push(link(`More about ${word}`, `https://notes.marrowick.example/${name}?print=1&lang=${trade.lang}`, true));
    if (trade.film) {
      const [film, bytes] = trade.film;
      nodes.push(file(`${word} (film)`, { make: 'mp4', name: film, bytes }));
    }
    if (trade.sound) nodes.push(file(`${word} (sound)`, { make: 'mp3', name: trade.sound, hertz: 220 }));
  }
  if (n === 2) nodes.push(talk(`Your ${word}`, `What went wrong with ${word}, and what did you do?`));
  if (n === 3) {
    nodes.push({
      kind: 'task',
      title: `Portfolio: ${word}`,
      text: `${hand} Hand in what you made, with three pictures.`,
      points: 30,
      ways: ['file', 'text'],
      notes: 'Look at the edges first.',
    });
  }
  return nodes;
}

function weekOf(trade: Trade, week: Week, n: number): NodePlan {
  const { word, know, hand, term } = week;
  const says = SAYS[trade.lang];
  const [before, next] = [trade.weeks[n - 1], trade.weeks[n + 1]];
  const name = `${trade.code.replace(' ', '').toLowerCase()}-${n + 1}`;
  return folder(
    `${says.week} ${n + 1}: ${word}`,
    page(says.know(word), [...know, says.term(term[0], term[1]), ...(next ? [says.next(next.word)] : [])], {
      picture: trade.drawing,
      ...(before ? { see: [says.know(before.word)] } : {}),
    }),
    page(says.hand(word), [hand]),
    file(`${word} sheet (PDF)`, {
      make: 'pdf',
      name: `${name}-sheet.pdf`,
      lines: [trade.title, `${says.week} ${n + 1}: ${word}`, ...know, hand, 'Keep this dry.'],
    }),
    file(`${word}, drawn`, { make: 'png', name: `${name}-plate.png`, drawing: trade.drawing }),
    ...extra(trade, week, n, name),
    ...(n === 3 ? [] : [quizOf(trade, week, n)]),
  );
}

/** What to read on, of a course as it is. */
function readOn(trade: Trade): NodePlan {
  return page('Where to read on', [
    `Of ${trade.weeks.map((w) => w.word).join(', ')}: the shelf beside the door, second board.`,
    'Who takes a book leaves a slip.',
  ]);
}

function planOf(trade: Trade, section: string, term: string, index: number): CoursePlan {
  const changed = new Date(Date.UTC(2026, 9, 1) + index * 26 * 3_600_000 + index * 1_234_567);
  return {
    code: trade.code,
    section,
    term,
    title: trade.title,
    owner: `${STAFF[index % STAFF.length] ?? 'staff'}@marrowick.example`,
    changedAt: changed.toISOString().replace(/\.\d+Z$/, 'Z'),
    about: trade.about,
    keywords: trade.weeks.map((w) => w.word.toLowerCase()),
    drawing: trade.drawing,
    language: trade.lang,
    outline: [
      page(`About ${trade.title}`, [trade.about, SAYS[trade.lang].welcome], {
        use: 'syllabus',
      }),
      ...trade.weeks.map((week, n) => weekOf(trade, week, n)),
      readOn(trade),
      ...(trade.words
        ? [
            { kind: 'words' as const, ...trade.words },
            {
              kind: 'folder' as const,
              title: 'Workshop evenings',
              about: 'Four evenings in the sail loft; what is needed for them comes here in the week before.',
              inside: [],
            },
          ]
        : []),
    ],
    bank: {
      title: `${trade.title}: reserve questions`,
      questions: [tf('Reserve', `${trade.title} has four parts.`, true)],
    },
  };
}

/** Seventeen further courses of Marrowick, six of them in a second section. */
export function marrowickPlans(): CoursePlan[] {
  return [
    ...TRADES.marrowick.map((t, i) => planOf(t, '01', i % 5 === 4 ? 'Spring 2027' : 'Autumn 2026', i)),
    ...TRADES.marrowick.slice(0, 6).map((t, i) => planOf(t, '02', 'Autumn 2026', i + 20)),
  ];
}

/** Fourteen courses of Fenwright, which all run the whole year. */
export function fenwrightPlans(): CoursePlan[] {
  return TRADES.fenwright.map((t, i) => planOf(t, 'A', 'Year 2026', i + 3));
}

/** A few that stand on the rehearsal instance. */
export function rehearsalPlans(): CoursePlan[] {
  return TRADES.marrowick.slice(0, 2).map((t, i) => planOf(t, '99', 'Autumn 2026', i + 30));
}
