import { Along, Rule } from '@treenail/core';
import * as z from 'zod';
import { Id, del, get, post, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** What is found and decided in a course. */

const admin = 'administrator' as const;
const rules = z.array(c.RuleSummary);

export const TIDY = {
  tidy: get('/moves/:id/tidy', {
    who: admin,
    says: 'Findings and what was decided.',
    params: [Id],
    answer: c.TidyAnswer,
  }),
  decide: post('/moves/:id/decisions', {
    who: admin,
    says: 'Decides on a finding, or on all alike.',
    params: [Id],
    body: c.NewDecision,
    answer: c.TidyAnswer,
  }),
  undo: del('/moves/:id/decisions/:decision', {
    who: admin,
    says: 'Takes a decision back.',
    params: [Id, Id],
    answer: c.TidyAnswer,
  }),
  chooseToGo: put('/moves/:id/selection', {
    who: admin,
    says: 'Chooses what goes, and from when on it can be seen.',
    params: [Id],
    body: c.ChosenToGo,
    answer: c.TidyAnswer,
    takes: 'long json',
  }),
  along: get('/moves/:id/along', {
    who: admin,
    says: 'How what goes is to arrive: seen or hidden, with first posts, with which tools.',
    params: [Id],
    answer: c.AlongAnswer,
  }),
  setAlong: put('/moves/:id/along', {
    who: admin,
    says: 'Chooses how what goes is to arrive.',
    params: [Id],
    body: Along,
    answer: c.AlongAnswer,
  }),
  give: post('/moves/:id/given', {
    who: admin,
    says: 'Gives a file that a mend puts in.',
    params: [Id],
    query: z.object({ name: z.string().min(1).max(200) }),
    body: z.custom<Blob>(),
    answer: z.object({ given: z.string() }),
    takes: 'bytes',
  }),
  beforeAfter: post('/moves/:id/before-after', {
    who: admin,
    says: 'What a mend would change.',
    params: [Id],
    body: z.object({ key: z.string(), mend: z.string(), params: z.record(z.string(), z.string()) }),
    answer: c.BeforeAfterAnswer,
  }),
  askOutside: post('/moves/:id/ask-outside', {
    who: admin,
    says: 'Asks the addresses that the course leads to.',
    params: [Id],
    answer: c.JobSummary,
    status: 202,
  }),
  mendRules: get('/mend-rules', { who: admin, says: 'Mends that are kept as rules.', answer: rules }),
  saveRule: post('/mend-rules', { who: admin, says: 'Keeps a mend as a rule.', body: Rule, answer: rules }),
  removeRule: del('/mend-rules/:id', { who: admin, says: 'Forgets a rule.', params: [Id], answer: rules }),
  usesOfRule: get('/mend-rules/:id/uses', {
    who: admin,
    says: 'Where a rule would do something.',
    params: [Id],
    answer: z.array(c.RuleUse),
  }),
  applyRule: post('/mend-rules/:id/apply', {
    who: admin,
    says: 'Uses a rule in moves.',
    params: [Id],
    body: z.object({ moveIds: z.array(z.number().int()).min(1).max(500) }),
    answer: 'nothing',
    status: 202,
  }),
};
