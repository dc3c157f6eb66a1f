import { HouseRules, Rule, TransferReport } from '@treenail/core';
import * as z from 'zod';
import * as c from './shapes.ts';
import { Id, del, get, post, put } from './endpoint.ts';

/** Every call of the HTTP interface. One is added by its line here; the compiler then asks the server for it. */

const admin = 'administrator' as const;
const rules = z.array(c.RuleSummary);
const filters = z.array(c.SavedFilterSummary);
const copies = z.array(c.CopySummary);
const exportsAt = z.array(c.RemoteExportSummary);
const Words = z.string().max(200);

const SESSION = {
  health: get('/health', {
    who: 'anyone',
    says: 'Whether everything that Treenail needs is there.',
    answer: c.SystemHealth,
  }),
  signIn: post('/session', {
    who: 'anyone',
    says: 'Signs a person in.',
    body: c.SignIn,
    answer: c.Person,
    perMinute: 20,
  }),
  signOut: del('/session', { who: 'anyone', says: 'Ends the session.', answer: 'nothing' }),
  session: get('/session', {
    who: 'anyone',
    says: 'Who is signed in; that nobody is, is an answer.',
    answer: c.Person.nullable(),
  }),
  mailChoice: get('/mail-choice', {
    who: 'signed in',
    says: 'Of what the person is told by mail.',
    answer: c.MailChoice,
  }),
  setMailChoice: put('/mail-choice', {
    who: 'signed in',
    says: 'Chooses of what to be told by mail.',
    body: c.MailChoice,
    answer: c.MailChoice,
  }),
  apiDescription: get('/openapi.json', {
    who: 'signed in',
    says: 'This description of the interface, as OpenAPI.',
    answer: z.record(z.string(), z.unknown()),
  }),
};

const REPORTS = {
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

const COURSES = {
  instances: get('/instances', { who: admin, says: 'Connected instances.', answer: z.array(c.InstanceSummary) }),
  courses: get('/courses', { who: admin, says: 'The register of all courses.', answer: z.array(c.CourseSummary) }),
  courseSheet: get('/courses/list.:format', {
    who: admin,
    says: 'The register, or a part of it, as a sheet.',
    params: [z.enum(['csv', 'xlsx'])],
    query: z.object({ ids: z.string().max(20_000).optional() }),
    answer: 'bytes',
  }),
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
    answer: z.array(c.Found),
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

const JOBS = {
  events: get('/events', { who: admin, says: 'What changes of jobs, as it changes.', answer: 'events' }),
  jobs: get('/jobs', {
    who: admin,
    says: 'Jobs that are not done, and those that nobody has seen.',
    answer: z.array(c.JobSummary),
  }),
  allSeen: post('/jobs/seen', { who: admin, says: 'All that are over were seen.', answer: 'nothing' }),
  seen: post('/jobs/:id/seen', { who: admin, says: 'That it is over was seen.', params: [Id], answer: 'nothing' }),
  callOffJob: post('/jobs/:id/call-off', {
    who: admin,
    says: 'Calls a job off.',
    params: [Id],
    answer: 'nothing',
    status: 202,
  }),
  retryJob: post('/jobs/:id/retry', { who: admin, says: 'Tries a failed job again.', params: [Id], answer: 'nothing' }),
};

const PLATFORMS = {
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

const HOUSE = {
  terms: get('/terms', { who: admin, says: 'The calendar of terms.', answer: z.array(c.Term) }),
  setTerms: put('/terms', {
    who: admin,
    says: 'Changes the calendar.',
    body: z.array(c.Term),
    answer: z.array(c.Term),
  }),
  namingRule: get('/naming-rule', { who: admin, says: 'How packages are named.', answer: z.string() }),
  setNamingRule: put('/naming-rule', {
    who: admin,
    says: 'Changes how packages are named.',
    body: z.object({ rule: Words }),
    answer: z.string(),
  }),
  houseRules: get('/house-rules', { who: admin, says: 'What counts as a finding here.', answer: HouseRules }),
  setHouseRules: put('/house-rules', {
    who: admin,
    says: 'Changes what counts as a finding.',
    body: HouseRules,
    answer: HouseRules,
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

const view = { learner: z.string().optional(), q: Words.optional(), mended: z.string().optional() };
const act = (path: string, says: string) =>
  post(`/moves/:id/${path}`, { who: admin, says, params: [Id], answer: c.MoveSummary });

const MOVES = {
  moves: get('/moves', { who: admin, says: 'Moves, the newest first.', query: c.MovesAsked, answer: c.MovesAnswer }),
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
  log: get('/moves/:id/log', { who: admin, says: 'What the destination said.', params: [Id], answer: c.DeliverAnswer }),
  check: get('/moves/:id/check', { who: admin, says: 'What really arrived.', params: [Id], answer: c.CheckAnswer }),
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

const TIDY = {
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
  leaveOut: put('/moves/:id/selection', {
    who: admin,
    says: 'Chooses what does not go.',
    params: [Id],
    body: z.object({ leftOut: z.array(z.string()).max(200_000) }),
    answer: c.TidyAnswer,
    takes: 'long json',
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

const COPIES = {
  copies: get('/copies', { who: admin, says: 'Kept copies.', answer: copies }),
  copy: get('/copies/:id', { who: admin, says: 'One kept copy.', params: [Id], answer: c.CopySummary }),
  removeCopy: post('/copies/:id/remove', {
    who: admin,
    says: 'Removes a kept copy, with a reason.',
    params: [Id],
    body: z.object({ reason: z.string().trim().min(3).max(300) }),
    answer: copies,
  }),
  play: post('/copies/:id/play', {
    who: admin,
    says: 'An address at which a learning object is played.',
    params: [Id],
    body: z.object({ item: z.string() }),
    answer: z.object({ address: z.url() }),
  }),
  linkedFile: get('/copies/:id/linked/:place', {
    who: admin,
    says: 'A file that was copied in beside a kept copy.',
    params: [Id, z.coerce.number().int().min(0)],
    answer: 'bytes',
  }),
  copyFile: get('/copies/:id/file', { who: admin, says: 'The bytes of a kept copy.', params: [Id], answer: 'bytes' }),
};

export const ENDPOINTS = {
  ...SESSION,
  ...REPORTS,
  ...COURSES,
  ...JOBS,
  ...PLATFORMS,
  ...HOUSE,
  ...MOVES,
  ...TIDY,
  ...COPIES,
};
export type Endpoints = typeof ENDPOINTS;
export type EndpointName = keyof Endpoints;
