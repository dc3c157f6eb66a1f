import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { reportToCsv } from '@treenail/core';
import compression from 'compression';
import cookieParser from 'cookie-parser';
import express, { type Express } from 'express';
import rateLimit from 'express-rate-limit';
import helmet from 'helmet';
import type { Logger } from 'pino';
import * as z from 'zod';
import type { Services } from '../services/context.ts';
import { coursesAsCsv, coursesAsXlsx } from '../services/course-list.ts';
import { descriptionOf, keepDescription, listDescriptions } from '../services/descriptions.ts';
import { listFilters, removeFilter, saveFilter } from '../services/filters.ts';
import { costsOf, estimateOf, partsOf, startFetches } from '../services/fetches.ts';
import { healthOfAll } from '../services/health.ts';
import { namingRule, setNamingRule, setTerms, terms } from '../services/house.ts';
import { listInstances } from '../services/instances.ts';
import { listOpenJobs, markAllSeen, markSeen } from '../services/jobs.ts';
import { mailChoice, setMailChoice } from '../services/mail.ts';
import * as moves from '../services/moves.ts';
import { audit, mustBe, personOf, sessionKey, signIn, signOut } from '../services/people.ts';
import { listCourses, refreshRegister } from '../services/register.ts';
import { readHere, type Read } from '../services/readings.ts';
import { listReports, passwordsOf, reportOf } from '../services/reports.ts';
import { search } from '../services/search.ts';
import { asCopySummary, copyById, copyWithBytes, linkedFile, listCopies, removeCopy } from '../services/strongroom.ts';
import {
  CourseFilter,
  FetchOptions,
  FetchRequest,
  MailChoice,
  NewDescription,
  SignIn,
  Term,
} from '../contract/index.ts';
import { JobEvents } from './events.ts';
import { boundedJson, fromOwnPages, notTooMany } from './guards.ts';
import { Id } from './id.ts';
import { answerProblems } from './problems.ts';
import { moveRoutes } from './routes/moves.ts';
import { platformRoutes } from './routes/platforms.ts';
import { tidyRoutes } from './routes/tidy.ts';
import { blobSender, type SendBlob } from './sending.ts';
import { UPLOADS, uploads } from './uploads.ts';
import { COOKIE, needSession, personIn, tokenOf } from './session.ts';

/** Requests that are answered at one time. */
const MOST_AT_ONCE = 64;

export interface App {
  app: Express;
  events: JobEvents;
  /** Removes uploads that nobody went on with. */
  sweepUploads: () => Promise<number>;
}

/** The HTTP interface: thin routes, each validated at the door and answered by one service. */
export function createApp(services: Services, log: Logger, read: Read = readHere(services)): App {
  const events = new JobEvents(Math.min(500, services.config.pollMs), log);
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'img-src': ["'self'", 'data:', 'blob:'],
          'media-src': ["'self'", 'data:', 'blob:'],
          'worker-src': ["'self'"],
          'frame-src': ["'self'", services.config.playAddress],
          'upgrade-insecure-requests': null,
        },
      },
    }),
  );
  const arriving = uploads(services.config);
  app.use('/api', api(services, read, events, arriving.handle, blobSender(services.store, log)));
  if (services.config.web !== null) serveWeb(app, services.config.web);
  app.use(answerProblems(log));
  return { app, events, sweepUploads: arriving.sweep };
}

function api(
  services: Services,
  read: Read,
  events: JobEvents,
  handleUpload: express.RequestHandler,
  sendBlob: SendBlob,
): express.Router {
  const api = express.Router();
  api.use((_req, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  api.get('/health', async (_req, res) => {
    const health = await healthOfAll();
    res.status(health.ok ? 200 : 503).json(health);
  });
  const lasts = (path: string) => path === '/events' || path.startsWith('/uploads') || path.endsWith('/file');
  api.use(notTooMany(MOST_AT_ONCE, lasts));
  api.use(fromOwnPages(services.config.address));
  api.use(cookieParser());
  api.use(
    boundedJson(
      (path) => path.endsWith('/given'),
      (path) => /^\/moves\/\d+\/selection$/.test(path),
    ),
  );
  const slow = rateLimit({ windowMs: 60_000, limit: 20, standardHeaders: true, legacyHeaders: false });
  api.post('/session', slow, async (req, res) => {
    const { email, password } = SignIn.parse(req.body);
    const { person, token, expiresAt } = await signIn(email, password);
    res.cookie(COOKIE, token, {
      httpOnly: true,
      sameSite: 'strict',
      secure: req.secure,
      expires: expiresAt,
      path: '/',
    });
    res.json(person);
  });
  api.delete('/session', async (req, res) => {
    const token = tokenOf(req);
    if (token !== null) {
      await signOut(token);
      events.endFor(sessionKey(token));
    }
    res.clearCookie(COOKIE, { path: '/' }).status(204).end();
  });
  // Asked by everyone who opens the page: that nobody is signed in is an answer, not an error.
  api.get('/session', async (req, res) => {
    const token = tokenOf(req);
    res.json(token === null ? null : await personOf(token));
  });
  api.use(needSession);
  api.get('/mail-choice', async (req, res) => void res.json(await mailChoice(personIn(req))));
  api.put('/mail-choice', async (req, res) => {
    res.json(await setMailChoice(personIn(req), MailChoice.parse(req.body)));
  });
  api.get('/reports', async (req, res) => void res.json(await listReports(personIn(req))));
  api.get('/reports/:id', async (req, res) => void res.json(await reportOf(personIn(req), Id.parse(req.params.id))));
  api.post('/reports/:id/passwords', async (req, res) => {
    res.json(await passwordsOf(personIn(req), Id.parse(req.params.id)));
  });
  api.get('/reports/:id/csv', async (req, res) => {
    const report = await reportOf(personIn(req), Id.parse(req.params.id));
    res
      .attachment(`${report.packageFile.replace(/\.\w+$/, '')}_transfer-report.csv`)
      .type('text/csv')
      .send(reportToCsv(report));
  });
  // Everything below is for administrators.
  api.use((req, _res, next) => {
    mustBe(personIn(req), 'administrator');
    next();
  });
  // Before compression: an event must not wait for a full buffer.
  api.get('/events', (req, res) => events.listen(res, sessionKey(tokenOf(req) ?? '')));
  const path = UPLOADS.slice('/api'.length);
  api.all([path, `${path}/{*rest}`], handleUpload);
  api.use(compression());
  api.get('/instances', async (_req, res) => void res.json(await listInstances()));
  api.get('/courses', async (_req, res) => void res.json(await listCourses()));
  api.get('/courses/list.:format', async (req, res) => {
    const format = z.enum(['csv', 'xlsx']).parse(req.params.format);
    const ids = z.string().max(20_000).optional().parse(req.query['ids'])?.split(',').map(Number);
    const courses = (await listCourses()).filter((c) => !ids || ids.includes(c.id));
    res.attachment(`courses_${new Date().toISOString().slice(0, 10)}.${format}`);
    if (format === 'csv') res.type('text/csv').send(coursesAsCsv(courses));
    else res.send(await coursesAsXlsx(courses));
  });
  api.get('/filters', async (req, res) => void res.json(await listFilters(personIn(req))));
  api.post('/filters', async (req, res) => {
    const { name, filter } = z.object({ name: z.string().trim().min(1).max(80), filter: CourseFilter }).parse(req.body);
    res.json(await saveFilter(personIn(req), name, filter));
  });
  api.delete('/filters/:id', async (req, res) => {
    res.json(await removeFilter(personIn(req), Id.parse(req.params.id)));
  });
  api.post('/courses/refresh', async (_req, res) => {
    await refreshRegister(2000);
    res.status(202).end();
  });
  api.get(
    '/search',
    async (req, res) =>
      void res.json(
        await search(
          z
            .string()
            .max(200)
            .parse(req.query['q'] ?? ''),
        ),
      ),
  );
  api.get('/jobs', async (_req, res) => void res.json(await listOpenJobs()));
  api.post('/jobs/:id/seen', async (req, res) => {
    await markSeen(Id.parse(req.params.id));
    res.status(204).end();
  });
  api.post('/jobs/seen', async (_req, res) => {
    await markAllSeen();
    res.status(204).end();
  });
  api.post('/jobs/:id/call-off', async (req, res) => {
    await moves.callOff(personIn(req), Id.parse(req.params.id));
    res.status(202).end();
  });
  api.post('/jobs/:id/retry', async (req, res) => {
    await moves.retryJob(personIn(req), Id.parse(req.params.id));
    res.status(204).end();
  });
  api.post('/fetches', async (req, res) => {
    res.status(202).json(await startFetches(services, personIn(req), FetchRequest.parse(req.body)));
  });
  api.get('/courses/:id/parts', async (req, res) => {
    res.json(await partsOf(services, Id.parse(req.params.id)));
  });
  api.post('/courses/:id/estimate', async (req, res) => {
    res.json(await estimateOf(services, Id.parse(req.params.id), FetchOptions.parse(req.body)));
  });
  api.post('/courses/costs', async (req, res) => {
    const { courseIds, options } = FetchRequest.parse(req.body);
    res.json(await costsOf(services, courseIds, options));
  });
  api.get('/courses/:id/beginnings', async (req, res) => {
    res.json(await moves.beginningsOf(services, Id.parse(req.params.id)));
  });
  platformRoutes(api, services);
  api.get('/terms', async (_req, res) => void res.json(await terms()));
  api.put('/terms', async (req, res) => void res.json(await setTerms(personIn(req), z.array(Term).parse(req.body))));
  api.get('/descriptions', async (_req, res) => void res.json(await listDescriptions()));
  api.get('/descriptions/:archive', async (req, res) => void res.json(await descriptionOf(req.params.archive)));
  api.post('/descriptions', async (req, res) => {
    res.json(await keepDescription(personIn(req), NewDescription.parse(req.body)));
  });
  api.get('/naming-rule', async (_req, res) => void res.json(await namingRule()));
  api.put('/naming-rule', async (req, res) => {
    const { rule } = z.object({ rule: z.string().max(200) }).parse(req.body);
    res.json(await setNamingRule(personIn(req), rule));
  });
  moveRoutes(api, services, read, sendBlob);
  tidyRoutes(api, services, read);
  api.get('/copies', async (_req, res) => void res.json(await listCopies()));
  api.get('/copies/:id', async (req, res) => {
    const copy = await copyById(Id.parse(req.params.id));
    await audit(personIn(req), 'copy looked into', `copy ${copy.id}`);
    res.json(asCopySummary(copy, null));
  });
  api.post('/copies/:id/remove', async (req, res) => {
    const { reason } = z.object({ reason: z.string().trim().min(3).max(300) }).parse(req.body);
    await removeCopy(services, personIn(req), Id.parse(req.params.id), reason);
    res.json(await listCopies());
  });
  api.post('/copies/:id/play', async (req, res) => {
    const { item } = z.object({ item: z.string() }).parse(req.body);
    res.json({
      address: await read('playItem', personIn(req), sessionKey(tokenOf(req) ?? ''), Id.parse(req.params.id), item),
    });
  });
  api.get('/copies/:id/linked/:place', async (req, res) => {
    const file = await linkedFile(Id.parse(req.params.id), z.coerce.number().int().min(0).parse(req.params.place));
    await audit(personIn(req), 'linked file downloaded', `copy ${req.params.id}`, { fileName: file.fileName });
    sendBlob(req, res, file);
  });
  api.get('/copies/:id/file', async (req, res) => {
    const copy = await copyWithBytes(Id.parse(req.params.id));
    // Looking inside asks for many parts; that is told once, by the page that begins it.
    if (req.headers.range === undefined) await audit(personIn(req), 'copy downloaded', `copy ${copy.id}`);
    sendBlob(req, res, copy);
  });
  return api;
}

function serveWeb(app: Express, folder: string): void {
  const index = join(folder, 'index.html');
  if (!existsSync(index)) throw new Error(`${index} is not there: build the web application first`);
  app.use(compression());
  app.use(
    express.static(folder, {
      index: false,
      setHeaders(res, path) {
        res.set('Cache-Control', /-[A-Z0-9]{8}\./.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache');
      },
    }),
  );
  app.get('/{*path}', (req, res, next) => {
    if (req.accepts('html') && !/\.\w+$/.test(req.path)) res.set('Cache-Control', 'no-cache').sendFile(index);
    else next();
  });
}
