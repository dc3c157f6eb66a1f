import { TransferReport } from '@treenail/core';
import * as z from 'zod';
import { Id, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Transfer reports. */

export const REPORTS = {
  reports: get('/reports', {
    who: 'signed in',
    says: 'The transfer reports that the person may read.',
    answer: z.array(c.ReportSummary),
  }),
  report: get('/reports/:id', { who: 'signed in', says: 'One transfer report.', params: [Id], answer: TransferReport }),
  passwords: post('/reports/:id/passwords', {
    who: 'signed in',
    says: 'Passwords that a report leaves out; that they were shown is written down.',
    params: [Id],
    answer: z.array(z.object({ title: z.string(), password: z.string() })),
  }),
  reportSheet: get('/reports/:id/csv', {
    who: 'signed in',
    says: 'A transfer report as a sheet.',
    params: [Id],
    answer: 'bytes',
  }),
};
