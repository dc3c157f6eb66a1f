import type { TEntry, TPerson, TSpace, TWork } from './model.ts';

/** What is already at Tarnhall before anything is moved. */

function entry(id: string, sort: TEntry['sort'], title: string, more: Partial<TEntry> = {}): TEntry {
  return {
    id,
    sort,
    title,
    origin: null,
    body: '',
    url: '',
    file: null,
    files: [],
    marks: null,
    ways: [],
    tries: null,
    minutes: null,
    questions: [],
    ...more,
  };
}

const text = (id: string, title: string, body: string) => entry(id, 'text', title, { body: `<p>${body}</p>` });

function space(named: Pick<TSpace, 'id' | 'code' | 'section' | 'term' | 'title'>, more: Partial<TSpace> = {}): TSpace {
  return {
    ...named,
    keeper: 'admin@marrowick.example',
    remark: '',
    changedAt: '2026-10-02T08:30:00Z',
    about: null,
    units: [],
    pools: [],
    files: [],
    people: [],
    work: [],
    shut: false,
    turn: 0,
    cleared: [],
    ...more,
  };
}

const people = (tutor: string, ...learners: string[]): TPerson[] => [
  { name: tutor, part: 'tutor' },
  ...learners.map((name): TPerson => ({ name, part: 'learner' })),
];
const work = (...all: [entry: string, person: string][]): TWork[] =>
  all.map(([of, person], i) => ({ id: `w${i + 1}`, entry: of, person, at: '2026-06-11T14:20:00Z' }));

export const SEED: readonly TSpace[] = [
  space(
    { id: 's1', code: 'STF 001', section: '01', term: 'Spring 2027', title: 'Working in Tarnhall' },
    {
      units: [
        {
          id: 'u1',
          title: 'First steps',
          origin: null,
          entries: [
            text(
              'e1',
              'Units and entries',
              'A space is a row of units. A unit is a list of entries, and has no folders in it.',
            ),
            text('e2', 'Tasks and tests', 'Tasks are handed in, tests are sat. Both carry marks.'),
          ],
        },
      ],
    },
  ),
  // As the registrar makes them: people in it, and nothing else.
  space(
    { id: 's2', code: 'SAI 160', section: '03', term: 'Spring 2027', title: 'Sailmaking' },
    { people: people('Orla Tarrant', 'Bram Hollis', 'Cate Umber', 'Dilys Marsh', 'Ewan Pike', 'Fenna Sloe') },
  ),
  // A trial of last summer, with what its learners handed in.
  space(
    { id: 's3', code: 'MET 115', section: 'T1', term: 'Summer 2026', title: 'Weather for Mariners, a trial' },
    {
      people: people('Joss Carrick', 'Ana Willet', 'Ned Barrow', 'Pia Sedge'),
      units: [
        {
          id: 'u11',
          title: 'Reading the sky',
          origin: null,
          entries: [
            text('e11', 'Fronts: what to know', 'Low, middle, high cloud: learn three of each before you learn all.'),
            entry('e12', 'task', 'A cloud diary', { body: '<p>Seven days, three looks a day.</p>', marks: 20 }),
          ],
        },
        {
          id: 'u12',
          title: 'Wind and pressure',
          origin: null,
          entries: [
            text('e13', 'Pressure: what to know', 'Where they crowd, it blows.'),
            entry('e14', 'talk', 'What did the glass say?', { body: '<p>Tell us what you saw.</p>' }),
          ],
        },
      ],
      work: work(['e12', 'Ana Willet'], ['e12', 'Ned Barrow'], ['e14', 'Pia Sedge']),
    },
  ),
  // One that its tutor keeps to herself.
  space(
    { id: 's5', code: 'NET 130', section: 'T1', term: 'Summer 2026', title: 'Net Making, a trial' },
    {
      sealed: true,
      keeper: 'h.wick@marrowick.example',
      people: people('Hetty Wick'),
      units: [
        {
          id: 'u31',
          title: 'Knots first',
          origin: null,
          entries: [text('e31', 'A mesh and its gauge', 'The gauge makes the mesh, not the hand.')],
        },
      ],
    },
  ),
  // One that is over, and shut.
  space(
    { id: 's4', code: 'HIS 150', section: 'T1', term: 'Summer 2026', title: 'The Coasting Trade, a trial' },
    {
      shut: true,
      people: people('Mabel Orchard', 'Tam Rusk'),
      units: [
        {
          id: 'u21',
          title: 'Ports and cargoes',
          origin: null,
          entries: [text('e21', 'What a coaster carried', 'Coal out, pit props back.')],
        },
      ],
    },
  ),
];
