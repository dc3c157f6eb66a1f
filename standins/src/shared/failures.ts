import express, { type Express, type Request, type RequestHandler } from 'express';
import * as z from 'zod';
import { HttpTrouble, escapeHtml } from './http.ts';
import type { Settings } from './settings.ts';

/** What a platform can be told to do wrong, so that people can practise and tests can prove what happens then. */
export const FAILURES = {
  errors: 'the next calls are answered with 500',
  silence: 'the next calls are not answered at all',
  token: 'the next calls are told that the token is wrong',
  down: 'the next calls find nobody there',
  full: 'the next export is refused, because the course is over its quota',
  room: 'the next upload is refused, because there is no room for it',
  hang: 'the next export begins and never ends',
  break: 'the next export fails half-way',
  cut: 'the next download is cut off half-way',
  expire: 'the next finished export is gone before it is fetched',
} as const;
export type Failure = keyof typeof FAILURES;

const Armed = z.object({
  failure: z.enum(Object.keys(FAILURES) as [Failure, ...Failure[]]),
  times: z.coerce.number().int().min(0).max(1000),
});

/** Milliseconds, for a while; `null` is the pace that it was started with. */
const Pace = z.object({ ms: z.number().int().min(0).max(3_600_000).nullable() });

/** Which failures are due, and how often. Lost when the process ends: a platform comes back well. */
export class Failures {
  private readonly left = new Map<Failure, number>();

  arm(failure: Failure, times: number): void {
    this.left.set(failure, times);
  }

  /** Whether this one is due now; each time it is asked, once fewer. */
  take(failure: Failure): boolean {
    const left = this.left.get(failure) ?? 0;
    if (left > 0) this.left.set(failure, left - 1);
    return left > 0;
  }

  all(): { failure: Failure; left: number }[] {
    return (Object.keys(FAILURES) as Failure[]).map((failure) => ({ failure, left: this.left.get(failure) ?? 0 }));
  }

  /** Before the routes of the interface. */
  readonly guard: RequestHandler = (req, res, next) => {
    if (this.take('down')) {
      req.socket.destroy();
      return;
    }
    if (this.take('silence')) return;
    if (this.take('errors')) throw new HttpTrouble(500, 'something broke inside');
    if (this.take('token')) throw new HttpTrouble(401, 'token refused');
    if (isDownload(req) && this.take('cut')) cutOff(res);
    next();
  };

  /** The page on which they are armed, and its form as JSON for tests. */
  mount(app: Express, name: string, settings: Pick<Settings, 'pace'>): void {
    const usual = settings.pace;
    app.get('/practice', (_req, res) => void res.send(page(name, this.all())));
    app.post('/practice', express.json(), express.urlencoded({ extended: false }), (req, res) => {
      const asked = Armed.safeParse(req.body);
      if (!asked.success) throw new HttpTrouble(400, z.prettifyError(asked.error));
      this.arm(asked.data.failure, asked.data.times);
      if (req.is('json')) res.json(this.all());
      else res.redirect(303, '/practice');
    });
    app.post('/practice/pace', express.json(), (req, res) => {
      const asked = Pace.safeParse(req.body);
      if (!asked.success) throw new HttpTrouble(400, z.prettifyError(asked.error));
      // Shares of it are told, so it is never nothing.
      settings.pace = Math.max(1, asked.data.ms ?? usual);
      res.json({ ms: settings.pace });
    });
  }
}

function isDownload(req: Request): boolean {
  return req.method === 'GET' && /\/(file|parcel|crate)$/.test(req.path);
}

/** Lets half of the body through and then breaks the line. */
function cutOff(res: Parameters<RequestHandler>[1]): void {
  const write = res.write.bind(res) as (chunk: unknown, ...rest: unknown[]) => boolean;
  let sent = 0;
  res.write = ((chunk: unknown, ...rest: unknown[]) => {
    const length = Buffer.isBuffer(chunk) ? chunk.length : Buffer.byteLength(String(chunk));
    const whole = Number(res.getHeader('content-length') ?? 0);
    sent += length;
    if (sent * 2 < whole) return write(chunk, ...rest);
    const part = Buffer.isBuffer(chunk) ? chunk.subarray(0, Math.max(1, Math.floor(length / 2))) : String(chunk);
    write(part, () => res.socket?.destroy());
    return false;
  }) as typeof res.write;
}

function page(name: string, all: readonly { failure: Failure; left: number }[]): string {
  const rows = all.map(
    ({ failure, left }) =>
      `<tr><td>${escapeHtml(FAILURES[failure])}</td><td>${left === 0 ? '' : `${left} to come`}</td><td><form method="post" action="/practice"><input type="hidden" name="failure" value="${failure}"><label>times <input name="times" type="number" min="0" max="1000" value="1"></label> <button>Arm</button></form></td></tr>`,
  );
  return `<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><link rel="icon" href="data:,"><title>${escapeHtml(name)}: practice</title><style>body{font:16px/1.5 sans-serif;max-width:52em;margin:1em auto;padding:0 1em}td{padding:.3em .8em;border-bottom:1px solid #ccc}</style></head><body><h1>${escapeHtml(name)}: what goes wrong next</h1><p>For practice: tell this platform to fail, and see what Treenail makes of it.</p><table>${rows.join('')}</table></body></html>`;
}
