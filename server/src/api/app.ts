import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Refusal, problem } from '@treenail/core';
import compression from 'compression';
import cookieParser from 'cookie-parser';
import express, { type Express } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import type { Services } from '../services/context.ts';
import { readHere, type Read } from '../services/readings.ts';
import { JobEvents } from './events.ts';
import { fromOwnPages, notTooMany } from './guards.ts';
import { answerProblems } from './problems.ts';
import { copyAnswers } from './routes/copies.ts';
import { courseAnswers } from './routes/courses.ts';
import { moveAnswers } from './routes/moves.ts';
import { platformAnswers } from './routes/platforms.ts';
import { sessionAnswers } from './routes/session.ts';
import { redateAnswers } from './routes/redate.ts';
import { tidyAnswers } from './routes/tidy.ts';
import { blobSender, type SendBlob } from './sending.ts';
import { lasting, onlyFor, serve } from './serve.ts';
import { UPLOADS, uploads } from './uploads.ts';

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
  const path = UPLOADS.slice('/api'.length);
  const last = lasting();
  const isLasting = (url: string) => url.startsWith(path) || last(url);
  api.use((_req, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  api.use(notTooMany(MOST_AT_ONCE, (url) => url === '/health' || isLasting(url)));
  api.use(fromOwnPages(services.config.address));
  api.use(cookieParser());
  // An event must not wait for a full buffer.
  api.use(
    compression({ filter: (req, res) => !req.originalUrl.startsWith('/api/events') && compression.filter(req, res) }),
  );
  // Uploads speak a protocol of their own (tus), whose calls are no endpoints.
  api.all([path, `${path}/{*rest}`], onlyFor('administrator'), handleUpload);
  serve(api, {
    ...sessionAnswers(events),
    ...courseAnswers(services),
    ...copyAnswers(services, read, sendBlob),
    ...platformAnswers(services),
    ...moveAnswers(services, read, sendBlob),
    ...tidyAnswers(services, read),
    ...redateAnswers(services),
  });
  // What is no endpoint is refused to strangers before it is said not to be there.
  api.use(onlyFor('signed in'));
  api.use(() => {
    throw new Refusal(
      problem('not-found', 'There is no such call.', {}, 'Look at /api/openapi.json for those there are.'),
    );
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
