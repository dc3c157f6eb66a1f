import * as z from 'zod';
import { Id, del, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** The register, and what is fetched of it. */

const admin = 'administrator' as const;
const filters = z.array(c.SavedFilterSummary);
const Words = z.string().max(200);

export const COURSES = {
  instances: get('/instances', { who: admin, says: 'Connected instances.', answer: z.array(c.InstanceSummary) }),
  courses: get('/courses', {
    who: admin,
    says: 'The register of all courses, in pages.',
    query: c.CoursesAsked,
    answer: c.CoursesPage,
  }),
  register: get('/register', {
    who: admin,
    says: 'How many courses there are, where, and what they lack.',
    answer: c.RegisterSums,
  }),
  courseSheet: get('/courses/list.:format', {
    who: admin,
    says: 'The register, or a part of it, as a sheet.',
    params: [z.enum(['csv', 'xlsx'])],
    query: z.object({ ids: z.string().max(20_000).optional() }),
    answer: 'bytes',
  }),
  course: get('/courses/:id', { who: admin, says: 'One course.', params: [Id], answer: c.CourseSummary }),
  refreshCourses: post('/courses/refresh', {
    who: admin,
    says: 'Has every instance asked for its courses anew.',
    answer: 'nothing',
    status: 202,
  }),
  search: get('/search', {
    who: admin,
    says: 'Finds courses, items, files and moves by words.',
    query: z.object({ q: Words.default('') }),
    answer: z.array(c.SearchHit),
  }),
  filters: get('/filters', { who: admin, says: 'The person’s kept filters.', answer: filters }),
  saveFilter: post('/filters', {
    who: admin,
    says: 'Keeps a filter under a name.',
    body: z.object({ name: z.string().trim().min(1).max(80), filter: c.CourseFilter }),
    answer: filters,
  }),
  removeFilter: del('/filters/:id', { who: admin, says: 'Forgets a kept filter.', params: [Id], answer: filters }),
  parts: get('/courses/:id/parts', {
    who: admin,
    says: 'Of what a course consists, as its platform counts it.',
    params: [Id],
    answer: c.PartsAnswer,
  }),
  estimate: post('/courses/:id/estimate', {
    who: admin,
    says: 'What an export will weigh, and how long it will wait.',
    params: [Id],
    body: c.FetchOptions,
    answer: c.EstimateAnswer,
  }),
  costs: post('/courses/costs', {
    who: admin,
    says: 'The same for many courses.',
    body: c.FetchRequest,
    answer: c.CostsAnswer,
  }),
  beginnings: get('/courses/:id/beginnings', {
    who: admin,
    says: 'With what a move of the course can begin.',
    params: [Id],
    answer: c.BeginningsAnswer,
  }),
  fetchCourses: post('/fetches', {
    who: admin,
    says: 'Fetches courses; the same request while one runs is that one.',
    body: c.FetchRequest,
    answer: z.array(c.JobSummary),
    status: 202,
  }),
};
