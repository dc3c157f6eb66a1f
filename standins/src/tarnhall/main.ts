import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { tarnhall } from './app.ts';
import type { TEntry, TSpace } from './model.ts';

const settings = settingsFromEnvironment();

function text(id: string, title: string, body: string): TEntry {
  return {
    id,
    sort: 'text',
    title,
    origin: null,
    body: `<p>${body}</p>`,
    url: '',
    file: null,
    files: [],
    marks: null,
    ways: [],
    tries: null,
    minutes: null,
    questions: [],
  };
}

/** What is already at Tarnhall before anything is moved: one course written there. */
const welcome: TSpace = {
  id: 's1',
  code: 'STF 001',
  section: '01',
  term: 'Spring 2027',
  title: 'Working in Tarnhall',
  keeper: 'admin@marrowick.example',
  remark: '',
  changedAt: '2026-10-02T08:30:00Z',
  about: null,
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
  pools: [],
  files: [],
};

await serve(
  tarnhall(settings, () => [welcome]),
  settings.port,
  'Tarnhall',
);
