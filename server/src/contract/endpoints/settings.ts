import { FindingSettings } from '@treenail/core';
import * as z from 'zod';
import { get, post, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** What the house has set. */

const admin = 'administrator' as const;
const Words = z.string().max(200);

export const SETTING_ENDPOINTS = {
  terms: get('/terms', { who: admin, says: 'The calendar of terms.', answer: z.array(c.Term) }),
  setTerms: put('/terms', {
    who: admin,
    says: 'Changes the calendar.',
    body: z.array(c.Term),
    answer: z.array(c.Term),
  }),
  closedDays: get('/closed-days', {
    who: admin,
    says: 'Days on which the house is closed.',
    answer: z.array(c.ClosedDay),
  }),
  setClosedDays: put('/closed-days', {
    who: admin,
    says: 'Changes the days on which the house is closed.',
    body: z.array(c.ClosedDay).max(5000),
    answer: z.array(c.ClosedDay),
  }),
  zone: get('/zone', { who: 'signed in', says: 'The time zone of the house.', answer: c.Zone }),
  setZone: put('/zone', {
    who: admin,
    says: 'Changes the time zone of the house.',
    body: z.object({ zone: c.Zone }),
    answer: c.Zone,
  }),
  namingRule: get('/naming-rule', { who: admin, says: 'How packages are named.', answer: z.string() }),
  setNamingRule: put('/naming-rule', {
    who: admin,
    says: 'Changes how packages are named.',
    body: z.object({ rule: Words }),
    answer: z.string(),
  }),
  findingSettings: get('/finding-settings', {
    who: admin,
    says: 'What counts as a finding here.',
    answer: FindingSettings,
  }),
  setFindingSettings: put('/finding-settings', {
    who: admin,
    says: 'Changes what counts as a finding.',
    body: FindingSettings,
    answer: FindingSettings,
  }),
  descriptions: get('/descriptions', {
    who: admin,
    says: 'Descriptions of archives.',
    answer: z.array(c.DescriptionSummary),
  }),
  description: get('/descriptions/:archive', {
    who: admin,
    says: 'One description, with its versions.',
    params: [z.string()],
    answer: c.DescriptionAnswer,
  }),
  keepDescription: post('/descriptions', {
    who: admin,
    says: 'Keeps a description of an archive.',
    body: c.NewDescription,
    answer: c.DescriptionAnswer,
  }),
};
