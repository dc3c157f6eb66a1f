import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { HouseRules, Refusal, Rule, problem, relationsOf, reportToCsv, wordsAsked } from '@treenail/core';
import compression from 'compression';
import cookieParser from 'cookie-parser';
import express, { type Express, type Request, type Response } from 'express';
import rateLimit from 'express-rate-limit';
import helmet from 'helmet';
import type { Logger } from 'pino';
import * as z from 'zod';
import type { Services } from '../services/context.ts';
import { readDocument, readLog } from '../services/documents.ts';
import { coursesAsCsv, coursesAsXlsx } from '../services/course-list.ts';
import { carryAs, formsOf } from '../services/carrying.ts';
import { descriptionOf, keepDescription, listDescriptions } from '../services/descriptions.ts';
import { listFilters, removeFilter, saveFilter } from '../services/filters.ts';
import { costsOf, estimateOf, partsOf, startFetches } from '../services/fetches.ts';
import { healthOfAll } from '../services/health.ts';
import { houseRules, namingRule, setHouseRules, setNamingRule, setTerms, terms } from '../services/house.ts';
import { inventoryAsCsv, inventoryAsXlsx } from '../services/inventory-sheets.ts';
import { listInstances } from '../services/instances.ts';
import { listOpenJobs, markAllSeen, markSeen } from '../services/jobs.ts';
import { mailChoice, setMailChoice } from '../services/mail.ts';
import * as moves from '../services/moves.ts';
import { startAsking } from '../services/outside.ts';
import { audit, mustBe, personOf, sessionKey, signIn, signOut } from '../services/people.ts';
import { listCourses, refreshRegister } from '../services/register.ts';
import * as platforms from '../services/platforms.ts';
import { PLATFORMS } from '../platforms/index.ts';
import { playItem } from '../services/play.ts';
import { listReports, passwordsOf, reportOf } from '../services/reports.ts';
import { search } from '../services/search.ts';
import { asCopySummary, copyById, copyWithBytes, listCopies, markDamaged, removeCopy } from '../services/strongroom.ts';
import { BlobDamaged } from '../store/blob-store.ts';
import { searchTexts } from '../services/texts.ts';
import * as tidy from '../services/tidy.ts';
import { courseToSend, hasWorkingCopy } from '../services/working.ts';
import {
  CourseFilter,
  DeliverRequest,
  FetchOptions,
  FetchRequest,
  MailChoice,
  NewDecision,
  NewDescription,
  NewMove,
  NewPlatform,
  type Person,
  PlatformChange,
  ProfileChange,
  SignIn,
  Term,
} from './contract.ts';
import { JobEvents } from './events.ts';
import { boundedJson, fromOwnPages, notTooMany } from './guards.ts';
import { answerProblems } from './problems.ts';
import { UPLOADS, uploads } from './uploads.ts';
import { COOKIE, needSession, personIn, tokenOf } from './session.ts';

/** Requests that are answered at one time. */
const MOST_AT_ONCE = 64;

const Id = z.coerce.number().int().positive();

export interface App {
  app: Express;
  events: JobEvents;
  /** Removes uploads that nobody went on with. */
  sweepUploads: () => Promise<number>;
}

/** The HTTP interface: thin routes, each validated at the door and answered by one service. */
export function createApp(services: Services, log: Logger): App {
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
  app.use('/api', api(services, events, arriving.handle));
  if (services.config.web !== null) serveWeb(app, services.config.web);
  app.use(answerProblems(log));
  return { app, events, sweepUploads: arriving.sweep };
}

function api(services: Services, events: JobEvents, handleUpload: express.RequestHandler): express.Router {
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
  api.use(boundedJson((path) => path.endsWith('/given')));
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
  moveRoutes(api, services);
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
      address: await playItem(services, personIn(req), sessionKey(tokenOf(req) ?? ''), Id.parse(req.params.id), item),
    });
  });
  api.get('/copies/:id/file', async (req, res) => {
    const copy = await copyWithBytes(Id.parse(req.params.id));
    // Looking inside asks for many parts; that is told once, by the page that begins it.
    if (req.headers.range === undefined) await audit(personIn(req), 'copy downloaded', `copy ${copy.id}`);
    sendBlob(services, req, res, copy);
  });
  return api;
}

function platformRoutes(api: express.Router, services: Services): void {
  api.get('/platform-kinds', (_req, res) => void res.json(PLATFORMS.map(({ id, label }) => ({ id, label }))));
  api.get('/platforms', async (_req, res) => void res.json(await platforms.listPlatforms(services)));
  api.post('/platforms/test', async (req, res) => {
    res.json(await platforms.testPlatform(personIn(req), NewPlatform.parse(req.body)));
  });
  api.post('/platforms', async (req, res) => {
    const id = await platforms.addPlatform(services, personIn(req), NewPlatform.parse(req.body));
    await refreshRegister(2000);
    res.status(201).json({ id });
  });
  api.put('/platforms/:id', async (req, res) => {
    const change = PlatformChange.parse(req.body);
    await platforms.changePlatform(services, personIn(req), Id.parse(req.params.id), change);
    res.status(204).end();
  });
  api.post('/platforms/:id/check', async (req, res) => {
    res.json(await platforms.checkPlatform(services, Id.parse(req.params.id)));
  });
  api.post('/platforms/:id/retry-all', async (req, res) => {
    res.json({ jobs: await moves.retryAllOf(personIn(req), Id.parse(req.params.id)) });
  });
  api.get('/platforms/:id/exports', async (req, res) => {
    res.json(await platforms.exportsAt(services, Id.parse(req.params.id)));
  });
  api.post('/platforms/:id/exports/clear', async (req, res) => {
    const { exports } = z.object({ exports: z.array(z.string().max(200)).min(1).max(2000) }).parse(req.body);
    res.json(await platforms.clearExports(services, personIn(req), Id.parse(req.params.id), exports));
  });
  api.get('/platforms/:id/profile', async (req, res) => {
    res.json(await platforms.profileAnswer(services, Id.parse(req.params.id)));
  });
  api.put('/platforms/:id/profile', async (req, res) => {
    const change = ProfileChange.parse(req.body);
    res.json(await platforms.changeProfile(services, personIn(req), Id.parse(req.params.id), change));
  });
}

function moveRoutes(api: express.Router, services: Services): void {
  const summary = async (id: number) => moves.moveSummary(await moves.moveById(id));
  api.get('/moves', async (req, res) => void res.json(await moves.listMoves(personIn(req))));
  api.post('/moves', async (req, res) => {
    const { moveId, fresh } = await moves.startMove(personIn(req), NewMove.parse(req.body));
    res.status(fresh ? 201 : 200).json(await summary(moveId));
  });
  api.get('/moves/:id', async (req, res) => void res.json(await summary(Id.parse(req.params.id))));
  api.get('/moves/:id/look', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [look, mended] = await Promise.all([readDocument(id, 'look'), hasWorkingCopy(id)]);
    res.json({ ...look, mended });
  });
  api.get('/moves/:id/fit', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [course, forecast, forms, missing, open] = await Promise.all([
      courseToSend(id),
      readDocument(id, 'forecast'),
      formsOf(services, id),
      moves.missingIn(id),
      tidy.openIn(id),
    ]);
    res.json({ course, forecast, forms, missing, open });
  });
  api.get('/moves/:id/relations', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [{ course }, { links }] = await Promise.all([readDocument(id, 'look'), readDocument(id, 'links')]);
    const { pointsAt, pointedAtBy } = relationsOf(course, links);
    res.json({ pointsAt: Object.fromEntries(pointsAt), pointedAtBy: Object.fromEntries(pointedAtBy) });
  });
  api.get('/moves/:id/texts', async (req, res) => {
    const question = z.string().max(200).parse(req.query['q']);
    res.json(await searchTexts(services, Id.parse(req.params.id), question));
  });
  api.get('/moves/:id/inventory.:format', async (req, res) => {
    const format = z.enum(['csv', 'xlsx', 'json']).parse(req.params.format);
    const id = Id.parse(req.params.id);
    const { course, inventory } = await readDocument(id, 'look');
    res.attachment(`inventory_move-${id}.${format}`);
    if (format === 'json') res.json({ title: course.title, origin: course.origin, inventory });
    else if (format === 'csv') res.type('text/csv').send(inventoryAsCsv(course, inventory));
    else res.send(await inventoryAsXlsx(course, inventory));
  });
  tidyRoutes(api, services);
  api.put('/moves/:id/carried-as', async (req, res) => {
    const { target } = z.object({ target: z.string() }).parse(req.body);
    res.json(await carryAs(services, personIn(req), Id.parse(req.params.id), target));
  });
  api.get('/moves/:id/log', async (req, res) => void res.json(await readLog(Id.parse(req.params.id))));
  api.get('/moves/:id/check', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [course, arrived, comparison] = await Promise.all([
      courseToSend(id),
      readDocument(id, 'arrived'),
      readDocument(id, 'comparison'),
    ]);
    res.json({ course, arrived, comparison });
  });
  api.get('/moves/:id/preview', async (req, res) => {
    const view = { learner: z.string().optional(), q: z.string().max(200).optional(), mended: z.string().optional() };
    const asked = z
      .union([z.object({ item: z.string(), ...view }), z.object({ path: z.string(), ...view })])
      .parse(req.query);
    const id = Id.parse(req.params.id);
    res.json(
      'item' in asked
        ? await moves.previewOfItem(services, id, asked.item, {
            learner: asked.learner !== undefined,
            words: wordsAsked(asked.q ?? ''),
            mended: asked.mended !== undefined,
          })
        : await moves.previewOfFile(services, id, asked.path),
    );
  });
  api.get('/moves/:id/file', async (req, res) => {
    const asked = z.object({ path: z.string(), mended: z.string().optional() }).parse(req.query);
    await moves.withFile(services, Id.parse(req.params.id), asked.path, asked.mended !== undefined, async (file) => {
      const part = askedPart(req, res, file.size);
      if (part === null) return;
      // It may be shown, but not become a page of this origin.
      // Nor may anything be packed on its way: a part of it would be another part.
      res.set('Content-Security-Policy', "sandbox; default-src 'none'").set('Cache-Control', 'no-store, no-transform');
      res.type(file.mediaType);
      await sendPart(res, file.bytes(), part);
    });
  });
  api.post('/moves/:id/accept', async (req, res) => {
    const id = Id.parse(req.params.id);
    await moves.acceptFit(personIn(req), id);
    res.json(await summary(id));
  });
  const act = (path: string, work: (person: Person, id: number) => Promise<void>) =>
    api.post(`/moves/:id/${path}`, async (req, res) => {
      const id = Id.parse(req.params['id']);
      await work(personIn(req), id);
      res.json(await summary(id));
    });
  act('reopen', moves.reopenFit);
  act('call-off', moves.callOffMove);
  act('put-away', (person, id) => moves.putAway(person, id, true));
  act('take-out', (person, id) => moves.putAway(person, id, false));
  api.get('/moves/:id/there', async (req, res) => {
    res.json(await moves.thereAlready(Id.parse(req.params.id)));
  });
  api.post('/moves/:id/deliver', async (req, res) => {
    const id = Id.parse(req.params.id);
    await moves.deliver(personIn(req), id, DeliverRequest.parse(req.body));
    res.json(await summary(id));
  });
  api.post('/moves/:id/retry', async (req, res) => {
    const id = Id.parse(req.params.id);
    await moves.retry(personIn(req), id);
    res.json(await summary(id));
  });
  api.get('/moves/:id/package', async (req, res) => {
    const { built } = await moves.moveById(Id.parse(req.params.id));
    if (!built) throw new Refusal(problem('not-yet', 'No package is built yet.', 'Accept the fit first.'));
    sendBlob(services, req, res, built);
  });
}

function tidyRoutes(api: express.Router, services: Services): void {
  const answer = async (req: Request, res: Response) => {
    res.json(await tidy.tidyOf(services, Id.parse(req.params['id'])));
  };
  api.get('/moves/:id/tidy', answer);
  api.post('/moves/:id/decisions', async (req, res) => {
    await tidy.decide(services, personIn(req), Id.parse(req.params.id), NewDecision.parse(req.body));
    await answer(req, res);
  });
  api.delete('/moves/:id/decisions/:decision', async (req, res) => {
    await tidy.undo(personIn(req), Id.parse(req.params.id), Id.parse(req.params.decision));
    await answer(req, res);
  });
  api.put('/moves/:id/selection', async (req, res) => {
    const { leftOut } = z.object({ leftOut: z.array(z.string()).max(200_000) }).parse(req.body);
    await tidy.leaveOut(personIn(req), Id.parse(req.params.id), leftOut);
    await answer(req, res);
  });
  api.post('/moves/:id/given', async (req, res) => {
    const { name } = z.object({ name: z.string().min(1).max(200) }).parse(req.query);
    res.json(await tidy.give(services, personIn(req), Id.parse(req.params.id), name, req));
  });
  api.post('/moves/:id/before-after', async (req, res) => {
    const asked = z.object({ key: z.string(), mend: z.string(), params: z.record(z.string(), z.string()) });
    res.json(await tidy.tryMend(services, Id.parse(req.params.id), asked.parse(req.body)));
  });
  api.post('/moves/:id/ask-outside', async (req, res) => {
    res.status(202).json(await startAsking(services, personIn(req), Id.parse(req.params.id)));
  });
  api.get('/mend-rules', async (_req, res) => void res.json(await tidy.listRules()));
  api.post('/mend-rules', async (req, res) => {
    res.json(await tidy.saveRule(personIn(req), Rule.parse(req.body)));
  });
  api.delete('/mend-rules/:id', async (req, res) => {
    res.json(await tidy.removeRule(personIn(req), Id.parse(req.params.id)));
  });
  api.get('/mend-rules/:id/uses', async (req, res) => void res.json(await tidy.usesOf(Id.parse(req.params.id))));
  api.post('/mend-rules/:id/apply', async (req, res) => {
    const { moveIds } = z.object({ moveIds: z.array(z.number().int()).min(1).max(500) }).parse(req.body);
    await tidy.applyRule(services, personIn(req), Id.parse(req.params.id), moveIds);
    res.status(202).end();
  });
  api.get('/house-rules', async (_req, res) => void res.json(await houseRules()));
  api.put('/house-rules', async (req, res) => {
    res.json(await setHouseRules(personIn(req), HouseRules.parse(req.body)));
  });
}

interface Blob {
  sha256: string;
  size: number;
  fileName: string;
}

interface Part {
  start: number;
  /** The last byte. */
  end: number;
}

/** The part of so many bytes that is asked for (RFC 9110, 14); `null` where there is none, and it was said so. */
function askedPart(req: Request, res: Response, size: number): Part | null {
  const ranges = req.range(size);
  if (ranges === -1) {
    res.status(416).set('Content-Range', `bytes */${size}`).end();
    return null;
  }
  res.set('Accept-Ranges', 'bytes');
  const part = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : undefined;
  if (part) res.status(206).set('Content-Range', `bytes ${part.start}-${part.end}/${size}`);
  const { start, end } = part ?? { start: 0, end: size - 1 };
  res.set('Content-Length', String(end - start + 1));
  return { start, end };
}

/** Sends a part of what is read from its start: what is packed can't be read from its middle. */
async function sendPart(res: Response, bytes: AsyncIterable<Uint8Array>, { start, end }: Part): Promise<void> {
  let at = 0;
  for await (const chunk of bytes) {
    const piece = chunk.subarray(Math.max(0, start - at), Math.max(0, end + 1 - at));
    at += chunk.length;
    if (piece.length > 0 && !res.write(piece)) {
      await new Promise((done) => res.once('drain', done).once('close', done));
    }
    if (at > end || res.destroyed) break;
  }
  res.end();
}

/** A kept file, or the part of it that is asked for (RFC 9110, 14): packages are looked into without being taken whole. */
function sendBlob(services: Services, req: Request, res: Response, { sha256, size, fileName }: Blob): void {
  const part = askedPart(req, res, size);
  if (part === null) return;
  res.attachment(fileName).type('application/octet-stream');
  const stream = services.store.stream(sha256, part);
  stream.on('error', (error) => {
    // Cut off before its end: whoever takes it sees that it is not whole.
    res.destroy(error);
    if (error instanceof BlobDamaged) void markDamaged(error.sha256).catch(() => undefined);
  });
  stream.pipe(res);
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
