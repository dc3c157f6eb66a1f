import type { CheckedLine, Outcome } from '@treenail/core';
import type {
  CopySummary,
  CourseSummary,
  JobSummary,
  MoveStep,
  MoveSummary,
  StepState,
} from '@treenail/server/contract';

/** What the server tells of things, for specs that speak of one of them. */
export const job = (id: number, state: JobSummary['state'], more: Partial<JobSummary> = {}): JobSummary => ({
  id,
  kind: 'fetch',
  moveId: null,
  courseId: 1,
  course: `BTB ${id}`,
  state,
  words: `job ${id}`,
  ahead: null,
  done: 0,
  total: 0,
  unit: '',
  problem: null,
  createdAt: '2026-11-01T10:00:00Z',
  finishedAt: null,
  seen: false,
  callOff: false,
  ...more,
});

export const courseRow = (id: number, more: Partial<CourseSummary> = {}): CourseSummary => ({
  id,
  instance: { id: 1, name: 'Marrowick Live', platform: 'quernhold', gives: true, fetches: true },
  code: 'RIG 140',
  section: '01',
  term: 'Autumn 2026',
  title: 'Rigging and Splicing',
  owner: 'rig@marrowick.example',
  size: 900,
  changedAt: '2026-11-10T05:00:00.000Z',
  newestCopy: null,
  cutOff: null,
  move: null,
  fetch: null,
  ...more,
});

export const copy = (id: number, more: Partial<CopySummary> = {}): CopySummary => ({
  id,
  form: 'archive',
  partial: false,
  personal: false,
  fileName: `BTB210-0${id}.zip`,
  code: 'BTB 210',
  section: `0${id}`,
  term: 'Autumn 2026',
  title: 'Wooden Boat Repair',
  from: 'Marrowick Live',
  format: 'Quernhold archive 4',
  size: 2048,
  sha256: `${id}`.repeat(64),
  items: 40,
  keptAt: '2026-11-01T10:00:00Z',
  moveId: null,
  courseId: 1,
  facts: {
    label: 'Quernhold archive 4',
    counted: null,
    shown: null,
    lacks: [],
    partial: false,
    ofPlatform: true,
    linked: null,
  },
  removed: null,
  damagedAt: null,
  ...more,
});

/** A step by which nobody was asked. */
export const moveStep = (step: MoveStep, state: StepState, result = ''): MoveSummary['steps'][number] => ({
  step,
  state,
  result,
  by: null,
  at: null,
});

export const move = (id: number, more: Partial<MoveSummary> = {}): MoveSummary => ({
  id,
  course: { id: 1, code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Wooden Boat Repair' },
  from: { id: 1, name: 'Marrowick Live', platform: 'quernhold' },
  to: { id: 2, name: 'Marrowick New', platform: 'tarnhall', quiet: null },
  steps: [],
  at: 'fit',
  createdAt: '2026-11-01T10:00:00Z',
  copy: null,
  built: null,
  shell: null,
  canReopen: false,
  planVersion: 1,
  deliveries: [],
  calledOffAt: null,
  putAwayAt: null,
  jobs: [],
  part: 1,
  canSendMore: false,
  canTakeBack: false,
  errand: null,
  ...more,
});

/** What became of a page of this title. */
export const line = (title: string, outcome: Outcome, more: Partial<CheckedLine> = {}): CheckedLine => ({
  source: `s-${title}`,
  arrived: null,
  title,
  kind: 'page',
  trail: [],
  as: null,
  outcome,
  reasons: [],
  settings: [],
  parts: [],
  predicted: null,
  ...more,
});
