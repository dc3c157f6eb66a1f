import { blank, essay, file, folder, link, mc, page, talk, tf, type CoursePlan, type NodePlan } from './plan.ts';
import type { Drawing } from './media.ts';

/** The rest of the two schools' courses, each made of a few words of its own trade. */

interface Trade {
  code: string;
  title: string;
  about: string;
  /** Four words that its weeks are about. */
  weeks: readonly [string, string, string, string];
  drawing?: Drawing;
  words?: Omit<Extract<NodePlan, { kind: 'words' }>, 'kind'>;
}

const MARROWICK: readonly Trade[] = [
  {
    code: 'RIG 140',
    title: 'Rigging and Splicing',
    about: 'Wire and fibre rope, from the coil to the masthead.',
    weeks: ['Fibre', 'Knots', 'Splices', 'Standing rigging'],
    words: {
      title: 'Words of the rigging loft',
      about: 'What is shouted across the loft, and what is meant by it.',
      words: [
        { word: 'Bight', means: 'The slack part of a rope between its ends.', picture: 'contours' },
        { word: 'Fid', means: '<p>A wooden cone that opens the strands for a <em>splice</em>.</p>' },
        { word: 'Serve', means: 'To bind wire with tarred yarn, against the lay.' },
        { word: 'Whipping', means: 'Twine round a rope’s end, so that it does not fray.' },
      ],
    },
  },
  {
    code: 'CON 305',
    title: 'Conservation of Waterlogged Timber',
    about: 'What keeps old wood whole once it is out of the mud.',
    weeks: ['Lifting', 'Washing', 'Impregnation', 'Drying'],
  },
  {
    code: 'MET 115',
    title: 'Weather for Mariners',
    about: 'Reading the sky, the glass and the chart.',
    weeks: ['Pressure', 'Fronts', 'Fog', 'Forecasts'],
    drawing: 'contours',
  },
  {
    code: 'FSH 220',
    title: 'Shellfish Hatchery Practice',
    about: 'From spawning to spat.',
    weeks: ['Brood stock', 'Spawning', 'Larvae', 'Settlement'],
  },
  {
    code: 'HIS 150',
    title: 'The Coasting Trade',
    about: 'Who carried what, and why the ports grew where they did.',
    weeks: ['Cargoes', 'Crews', 'Ports', 'Decline'],
  },
  {
    code: 'SAF 100',
    title: 'Workshop Safety',
    about: 'What everybody reads before they touch a tool.',
    weeks: ['Eyes and ears', 'Edges', 'Dust', 'Fire'],
  },
  {
    code: 'ENG 130',
    title: 'Small Engines',
    about: 'Two strokes and four, and why they stop.',
    weeks: ['Fuel', 'Spark', 'Cooling', 'Winter'],
  },
  {
    code: 'SAI 160',
    title: 'Sailmaking',
    about: 'Cloth, seam and shape.',
    weeks: ['Cloth', 'Seams', 'Corners', 'Shape'],
  },
  {
    code: 'CHT 210',
    title: 'Chartwork',
    about: 'Fixes, tides and the line between them.',
    weeks: ['Position', 'Course', 'Tide', 'Passage'],
    drawing: 'contours',
  },
  {
    code: 'PAI 110',
    title: 'Paints and Varnishes',
    about: 'What goes on, what comes off, and in what weather.',
    weeks: ['Stripping', 'Primers', 'Varnish', 'Antifouling'],
  },
  {
    code: 'SUR 230',
    title: 'Small Craft Survey',
    about: 'Looking for what is wrong before it is.',
    weeks: ['Sounding', 'Fastenings', 'Keels', 'Reports'],
  },
  {
    code: 'LOF 240',
    title: 'Lofting',
    about: 'From a table of numbers to the shape of a hull.',
    weeks: ['Offsets', 'Battens', 'Fairing', 'Moulds'],
  },
  {
    code: 'FRG 120',
    title: 'Forge Work for Boats',
    about: 'Hot iron, small and strong.',
    weeks: ['Drawing down', 'Upsetting', 'Welding', 'Galvanising'],
  },
  {
    code: 'NET 130',
    title: 'Net Making and Mending',
    about: 'Mesh by mesh.',
    weeks: ['Twine', 'Mesh', 'Setting', 'Repair'],
  },
  {
    code: 'GAE 101',
    title: 'Gàidhlig na Mara',
    about: 'Faclan airson na h-obrach aig muir.',
    weeks: ['Bàtaichean', 'Sìde', 'Ròpan', 'Cladach'],
  },
  {
    code: 'POL 101',
    title: 'Żegluga przybrzeżna',
    about: 'Słowa i zwyczaje żeglugi przybrzeżnej.',
    weeks: ['Łodzie', 'Pogoda', 'Liny', 'Brzeg'],
  },
  {
    code: 'ARB 101',
    title: 'الملاحة الساحلية',
    about: 'مصطلحات البحر والسواحل.',
    weeks: ['القوارب', 'الطقس', 'الحبال', 'الساحل'],
  },
];

const FENWRIGHT: readonly Trade[] = [
  {
    code: 'TID 200',
    title: 'Tides and Tidal Streams',
    about: 'A year with the tide, in two halves.',
    weeks: ['Causes', 'Predictions', 'Streams', 'Harbours'],
    drawing: 'contours',
  },
  {
    code: 'ACC 110',
    title: 'Accounts for Small Yards',
    about: 'Books that close.',
    weeks: ['Ledgers', 'Estimates', 'Invoices', 'Tax'],
  },
  {
    code: 'BIO 125',
    title: 'Life on the Lower Shore',
    about: 'What lives under the weed.',
    weeks: ['Weed', 'Crabs', 'Worms', 'Molluscs'],
  },
  {
    code: 'DRA 105',
    title: 'Drawing from Objects',
    about: 'Hand, eye and pencil.',
    weeks: ['Line', 'Tone', 'Measure', 'Section'],
  },
  {
    code: 'ELE 140',
    title: 'Electrics Afloat',
    about: 'Twelve volts and salt water.',
    weeks: ['Batteries', 'Wiring', 'Corrosion', 'Lights'],
  },
  {
    code: 'FIL 210',
    title: 'Filming at Sea',
    about: 'Keeping the horizon level.',
    weeks: ['Light', 'Sound', 'Steadying', 'Cutting'],
  },
  {
    code: 'GEO 150',
    title: 'Coasts That Move',
    about: 'Sand, shingle and time.',
    weeks: ['Waves', 'Drift', 'Spits', 'Retreat'],
    drawing: 'contours',
  },
  {
    code: 'LAW 120',
    title: 'Law of Wreck and Salvage',
    about: 'Whose it is when it comes ashore.',
    weeks: ['Finding', 'Reporting', 'Ownership', 'Reward'],
  },
  {
    code: 'MUS 115',
    title: 'Work Songs of the Coast',
    about: 'Songs that pulled ropes.',
    weeks: ['Hauling', 'Pumping', 'Rowing', 'Resting'],
  },
  {
    code: 'OCE 230',
    title: 'Estuary Chemistry',
    about: 'Where fresh meets salt.',
    weeks: ['Salinity', 'Silt', 'Nutrients', 'Oxygen'],
  },
  {
    code: 'RAD 101',
    title: 'Radio Procedure',
    about: 'Short words, clearly.',
    weeks: ['Calling', 'Distress', 'Weather', 'Logs'],
  },
  {
    code: 'SWM 100',
    title: 'Swimming in the Open',
    about: 'Cold, current and judgement.',
    weeks: ['Cold', 'Current', 'Company', 'Coming out'],
  },
  {
    code: 'TIM 135',
    title: 'Knowing Timber',
    about: 'Which tree it was, and what it will do.',
    weeks: ['Oak', 'Larch', 'Elm', 'Ash'],
  },
  {
    code: 'WRI 110',
    title: 'Writing Reports',
    about: 'What happened, in order.',
    weeks: ['Notes', 'Order', 'Plain words', 'Figures'],
  },
];

const STAFF = ['boatbuilding', 'seamanship', 'shore', 'workshop', 'history', 'languages'];

function week(trade: Trade, word: string, n: number): NodePlan {
  const next = trade.weeks[(n + 1) % 4] ?? word;
  const name = `${trade.code.replace(' ', '').toLowerCase()}-${n + 1}`;
  return folder(
    `Week ${n + 1}: ${word}`,
    page(
      `${word}: what to know`,
      [`${trade.about} This week: ${word}.`, `Afterwards comes ${next}; what is learnt here is used there.`],
      {
        ...(n % 2 === 0 ? { picture: trade.drawing ?? 'contours' } : {}),
        ...(n > 0 ? { see: [`${trade.weeks[n - 1] ?? word}: what to know`] } : {}),
      },
    ),
    page(`${word} by hand`, [`Try it three times. Write down what changed between the first and the third.`]),
    file(`${word} sheet (PDF)`, {
      make: 'pdf',
      name: `${name}-sheet.pdf`,
      lines: [trade.title, `Week ${n + 1}`, word, 'Keep this dry.'],
    }),
    ...(n === 1 ? [link(`More about ${word}`, `https://notes.marrowick.example/${name}?print=1&lang=en`, true)] : []),
    ...(n === 2 ? [talk(`Your ${word}`, `What went wrong with ${word}, and what did you do?`)] : []),
    ...(n === 3
      ? [
          {
            kind: 'task' as const,
            title: `Portfolio: ${word}`,
            text: `Hand in what you made of ${word}, with three pictures.`,
            points: 30,
            ways: ['file' as const, 'text' as const],
            notes: 'Look at the edges first.',
          },
        ]
      : [
          {
            kind: 'quiz' as const,
            title: `Wk ${n + 1} quiz`,
            intro: 'Ten minutes.',
            tries: 2,
            minutes: 10,
            questions: [
              mc(`${word} 1`, `What is week ${n + 1} about?`, [`*${word}`, next, 'neither']),
              tf(`${word} 2`, `${word} comes before ${next}.`, n < 3),
              blank(`${word} 3`, `This course is ______ (its code).`, [trade.code]),
              ...(n === 2
                ? [essay(`${word} 4`, `Say in five lines what matters most about ${word}.`, 'That it holds.')]
                : []),
            ],
          },
        ]),
  );
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
    keywords: trade.weeks.map((w) => w.toLowerCase()),
    drawing: trade.drawing ?? 'contours',
    outline: [
      page(`About ${trade.title}`, [trade.about, 'Everybody is welcome who has read Workshop Safety.'], {
        use: 'syllabus',
      }),
      ...trade.weeks.map((word, n) => week(trade, word, n)),
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
    ...MARROWICK.map((t, i) => planOf(t, '01', i % 5 === 4 ? 'Spring 2027' : 'Autumn 2026', i)),
    ...MARROWICK.slice(0, 6).map((t, i) => planOf(t, '02', 'Autumn 2026', i + 20)),
  ];
}

/** Fourteen courses of Fenwright, which all run the whole year. */
export function fenwrightPlans(): CoursePlan[] {
  return FENWRIGHT.map((t, i) => planOf(t, 'A', 'Year 2026', i + 3));
}

/** A few that stand on the rehearsal instance. */
export function rehearsalPlans(): CoursePlan[] {
  return MARROWICK.slice(0, 2).map((t, i) => planOf(t, '99', 'Autumn 2026', i + 30));
}
