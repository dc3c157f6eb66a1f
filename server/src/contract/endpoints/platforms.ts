import * as z from 'zod';
import { Id, get, post, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Connected instances and their profiles. */

const admin = 'administrator' as const;
const exportsAt = z.array(c.RemoteExportSummary);

export const PLATFORMS = {
  platformKinds: get('/platform-kinds', {
    who: admin,
    says: 'Platforms that can be connected.',
    answer: z.array(c.PlatformKindSummary),
  }),
  platforms: get('/platforms', {
    who: admin,
    says: 'Connected instances, and how they are.',
    answer: z.array(c.PlatformSummary),
  }),
  testPlatform: post('/platforms/test', {
    who: admin,
    says: 'Tries an address and a token.',
    body: c.NewPlatform,
    answer: c.PlatformTest,
  }),
  addPlatform: post('/platforms', {
    who: admin,
    says: 'Connects an instance.',
    body: c.NewPlatform,
    answer: z.object({ id: z.number() }),
    status: 201,
  }),
  changePlatform: put('/platforms/:id', {
    who: admin,
    says: 'Changes what is set of an instance.',
    params: [Id],
    body: c.PlatformChange,
    answer: 'nothing',
  }),
  checkPlatform: post('/platforms/:id/check', {
    who: admin,
    says: 'Asks an instance how it is.',
    params: [Id],
    answer: c.Health,
  }),
  retryAll: post('/platforms/:id/retry-all', {
    who: admin,
    says: 'Tries all failed jobs of an instance again.',
    params: [Id],
    answer: z.object({ jobs: z.number() }),
  }),
  exportsAt: get('/platforms/:id/exports', {
    who: admin,
    says: 'Exports that lie at an instance.',
    params: [Id],
    answer: exportsAt,
  }),
  clearExports: post('/platforms/:id/exports/clear', {
    who: admin,
    says: 'Removes exports at an instance.',
    params: [Id],
    body: z.object({ exports: z.array(z.string().max(200)).min(1).max(2000) }),
    answer: exportsAt,
  }),
  profile: get('/platforms/:id/profile', {
    who: admin,
    says: 'What an instance can hold.',
    params: [Id],
    answer: c.ProfileAnswer,
  }),
  changeProfile: put('/platforms/:id/profile', {
    who: admin,
    says: 'Keeps a new version of a profile.',
    params: [Id],
    body: c.ProfileChange,
    answer: c.ProfileAnswer,
  }),
};
