import * as z from 'zod';
import { Id, get, post, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Moves, step by step. */

const admin = 'administrator' as const;
const Words = z.string().max(200);

const view = { learner: z.string().optional(), q: Words.optional(), mended: z.string().optional() };
const act = (path: string, says: string) =>
  post(`/moves/:id/${path}`, { who: admin, says, params: [Id], answer: c.MoveSummary });

export const MOVES = {
  moves: get('/moves', {
    who: admin,
    says: 'Moves in pages, the newest first.',
    query: c.MovesAsked,
    answer: c.MovesPage,
  }),
  startMove: post('/moves', {
    who: admin,
    says: 'Begins a move; the same one while it is not delivered is that one.',
    body: c.NewMove,
    answer: c.MoveSummary,
  }),
  move: get('/moves/:id', { who: admin, says: 'One move and where it is.', params: [Id], answer: c.MoveSummary }),
  look: get('/moves/:id/look', { who: admin, says: 'What is in the course.', params: [Id], answer: c.LookAnswer }),
  fit: get('/moves/:id/fit', { who: admin, says: 'The forecast.', params: [Id], answer: c.FitAnswer }),
  relations: get('/moves/:id/relations', {
    who: admin,
    says: 'Which items point at which.',
    params: [Id],
    answer: c.RelationsAnswer,
  }),
  searchTexts: get('/moves/:id/texts', {
    who: admin,
    says: 'Finds words in the texts of the course.',
    params: [Id],
    query: z.object({ q: Words }),
    answer: c.TextSearchAnswer,
  }),
  inventorySheet: get('/moves/:id/inventory.:format', {
    who: admin,
    says: 'The inventory of the course as a sheet, or as JSON.',
    params: [Id, z.enum(['csv', 'xlsx', 'json'])],
    answer: 'bytes',
  }),
  carryAs: put('/moves/:id/carried-as', {
    who: admin,
    says: 'Chooses the format that carries the course.',
    params: [Id],
    body: z.object({ target: z.string() }),
    answer: c.MoveSummary,
  }),
  log: get('/moves/:id/log', { who: admin, says: 'What the destination said.', params: [Id], answer: c.LogAnswer }),
  giveWords: put('/moves/:id/log', {
    who: admin,
    says: 'Gives words to lines of a log that nobody knew, for this and the next time.',
    params: [Id],
    body: z.object({ line: z.string().max(2000), words: z.string().max(300) }),
    answer: c.LogAnswer,
  }),
  check: get('/moves/:id/check', { who: admin, says: 'What really arrived.', params: [Id], answer: c.CheckAnswer }),
  arrivedPreview: get('/moves/:id/arrived-preview', {
    who: admin,
    says: 'An item of what arrived, as a person reads it.',
    params: [Id],
    query: z.object({ item: z.string(), learner: z.string().optional() }),
    answer: c.PreviewAnswer,
  }),
  preview: get('/moves/:id/preview', {
    who: admin,
    says: 'An item or a file as a person reads it.',
    params: [Id],
    query: z.union([z.object({ item: z.string(), ...view }), z.object({ path: z.string(), ...view })]),
    answer: c.PreviewAnswer,
  }),
  file: get('/moves/:id/file', {
    who: admin,
    says: 'A file of the course.',
    params: [Id],
    query: z.object({ path: z.string(), mended: z.string().optional() }),
    answer: 'bytes',
  }),
  accept: act('accept', 'Accepts the fit.'),
  reopenFit: act('reopen', 'Opens the fit again.'),
  callOffMove: act('call-off', 'Calls a move off.'),
  putAway: act('put-away', 'Puts a move away.'),
  takeOut: act('take-out', 'Takes a move out again.'),
  retry: act('retry', 'Tries the step that failed again.'),
  there: get('/moves/:id/there', {
    who: admin,
    says: 'What stands at the destination already.',
    params: [Id],
    answer: c.ThereAnswer,
  }),
  deliver: post('/moves/:id/deliver', {
    who: admin,
    says: 'Delivers the package into a shell.',
    params: [Id],
    body: c.DeliverRequest,
    answer: c.MoveSummary,
  }),
  builtPackage: get('/moves/:id/package', {
    who: admin,
    says: 'The package that was built.',
    params: [Id],
    answer: 'bytes',
  }),
};
