import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { Refusal, escapeXml, mediaTypeOf } from '@treenail/core';
import express, { type Express } from 'express';
import type { Logger } from 'pino';
import type { Services } from '../services/context.ts';
import { withPackage } from '../services/packages.ts';
import { usableTicket, type Ticket } from '../services/play.ts';

/**
 * Where learning objects are played: on an origin of their own, since their scripts run there. They reach nothing but
 * their own package and the player around them; Treenail's cookies are never sent there, for the host is another.
 */
export function createPlayApp(services: Services, log: Logger): Express {
  const app = express();
  app.disable('x-powered-by');
  const runtime = dirname(createRequire(import.meta.url).resolve('scorm-again/scorm12'));
  app.use((_req, res, next) => {
    res.set({
      'Content-Security-Policy': [
        "default-src 'self' data: blob: 'unsafe-inline' 'unsafe-eval'",
        "connect-src 'self'",
        "form-action 'self'",
        "base-uri 'self'",
        `frame-ancestors 'self' ${services.config.address}`,
      ].join('; '),
      'X-Content-Type-Options': 'nosniff',
      'Referrer-Policy': 'no-referrer',
      'Cache-Control': 'no-store',
    });
    next();
  });
  app.get('/runtime/:file', (req, res) => {
    const file = RUNTIMES.find((name) => name === req.params.file);
    if (file) res.sendFile(join(runtime, file));
    else res.status(404).end();
  });
  app.get('/:ticket/player.html', async (req, res) => {
    const ticket = await usableTicket(services.config.secret, req.params.ticket);
    if (ticket) res.type('html').send(playerPage(ticket, services.config.address));
    else res.status(410).type('text').send('The time to play this is over. Open it again in Treenail.');
  });
  app.get('/:ticket/files/{*path}', async (req, res) => {
    const ticket = await usableTicket(services.config.secret, req.params.ticket);
    const path = (req.params.path as unknown as string[]).join('/');
    if (!ticket) {
      res.status(410).end();
      return;
    }
    await withPackage(services, ticket.sha256, async (pkg) => {
      if (!pkg.entries.has(path)) {
        res.status(404).end();
        return;
      }
      const media = mediaTypeOf(path);
      res.type(/^text\/|javascript|json|xml$/.test(media) ? `${media}; charset=utf-8` : media);
      for await (const part of pkg.stream(path)) {
        if (!res.write(part)) await new Promise((done) => res.once('drain', done).once('close', done));
        if (res.destroyed) return;
      }
      res.end();
    });
  });
  app.use(((error: unknown, _req, res, next) => {
    if (res.headersSent) return next(error);
    if (!(error instanceof Refusal)) log.error({ error }, 'a learning object could not be given');
    res.status(error instanceof Refusal ? 422 : 500).end();
  }) satisfies express.ErrorRequestHandler);
  return app;
}

const RUNTIMES = ['scorm12.min.js', 'scorm2004.min.js'];

/** The player: the runtime interface in the window above the object (SCORM 1.2 RTE 3.3, SCORM 2004 RTE 3.3). */
function playerPage(ticket: Ticket, toldTo: string): string {
  const old = ticket.version === '1.2';
  const data = JSON.stringify({
    name: old ? 'API' : 'API_1484_11',
    toldTo,
    launchData: ticket.launchData,
    masteryScore: ticket.masteryScore,
  }).replaceAll('<', '\\u003c');
  const path = ticket.launch.split('/').map(encodeURIComponent).join('/');
  const parameters = ticket.parameters.replace(/^[?&]?/, (start) => (ticket.parameters === '' ? '' : start || '?'));
  return `<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>${escapeXml(ticket.title)}</title>
<style>html,body{margin:0;height:100%}iframe{display:block;width:100%;height:100%;border:0}</style>
<script src="/runtime/${old ? 'scorm12.min.js' : 'scorm2004.min.js'}"></script>
<script>
const given = ${data};
const api = ${old ? 'new Scorm12API' : 'new Scorm2004API'}({ autocommit: false, logLevel: 4 });
${
  old
    ? "api.loadFromJSON({ launch_data: given.launchData, student_data: { mastery_score: given.masteryScore } }, 'cmi');"
    : "api.loadFromJSON({ launch_data: given.launchData, scaled_passing_score: given.masteryScore === '' ? '' : String(Number(given.masteryScore) / 100) }, 'cmi');"
}
const told = {};
for (const name of ${JSON.stringify(old ? CALLS_12 : CALLS_2004)}) {
  told[name] = (...values) => {
    const answered = api[name](...values);
    parent.postMessage({ treenail: 'call', name, given: values.map(String), answered: String(answered) }, given.toldTo);
    return answered;
  };
}
window[given.name] = told;
</script></head>
<body><iframe src="files/${path}${escapeXml(parameters)}" title="${escapeXml(ticket.title)}"></iframe></body></html>
`;
}

const CALLS_12 = [
  'LMSInitialize',
  'LMSFinish',
  'LMSGetValue',
  'LMSSetValue',
  'LMSCommit',
  'LMSGetLastError',
  'LMSGetErrorString',
  'LMSGetDiagnostic',
];
const CALLS_2004 = [
  'Initialize',
  'Terminate',
  'GetValue',
  'SetValue',
  'Commit',
  'GetLastError',
  'GetErrorString',
  'GetDiagnostic',
];
