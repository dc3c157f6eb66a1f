import { Refusal, problem } from '@treenail/core';
import express, { type Request, type RequestHandler } from 'express';

/** What stands before every route: who may ask from where, how much at once, and how much in one request. */

const HARMLESS = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Calls that change something come from Treenail's own pages only. A cookie does not tell ports apart, and SameSite not
 * origins of one site: the browser says both (Fetch Metadata; RFC 6454). What is no browser says neither, and bears no
 * cookie of anybody who did not give it one.
 */
export function fromOwnPages(address: string): RequestHandler {
  const own = new URL(address).origin;
  return (req, _res, next) => {
    if (HARMLESS.has(req.method)) return next();
    const site = req.get('Sec-Fetch-Site');
    const origin = req.get('Origin');
    const foreignSite = site !== undefined && site !== 'same-origin' && site !== 'none';
    const foreignOrigin = origin !== undefined && origin !== own && origin !== originAsked(req);
    if (foreignSite || foreignOrigin) {
      throw new Refusal(problem('other-origin', 'This was asked from a page that is not Treenail\u2019s.'));
    }
    next();
  };
}

/** The origin under which the browser reached this server. */
function originAsked(req: Request): string {
  return `${req.protocol}://${req.get('Host') ?? ''}`;
}

/** How much of one request is read as JSON, and where a whole course is spoken of. */
const JSON_BYTES = 2 ** 20;
const LONG_JSON_BYTES = 32 * 2 ** 20;
/** How deep JSON may nest: what is sent nests a tenth of it. */
const JSON_DEPTH = 100;

/** Reads JSON: of a whole course where it is `long`. */
export function boundedJson(long = false): RequestHandler {
  return express.json({
    limit: long ? LONG_JSON_BYTES : JSON_BYTES,
    verify: (_req, _res, body) => mustBeShallow(body),
  });
}

/** @throws Refusal `request-too-deep` */
function mustBeShallow(body: Buffer): void {
  let depth = 0;
  let inText = false;
  for (let i = 0; i < body.length; i++) {
    const byte = body[i];
    if (inText) {
      if (byte === 0x5c) i++;
      else if (byte === 0x22) inText = false;
    } else if (byte === 0x22) inText = true;
    else if (byte === 0x7b || byte === 0x5b) {
      if (++depth > JSON_DEPTH) {
        throw new Refusal(problem('request-too-deep', `What was sent nests deeper than ${JSON_DEPTH}.`));
      }
    } else if (byte === 0x7d || byte === 0x5d) depth--;
  }
}

/**
 * Answers at once that it is too busy rather than late, before memory goes: with 503 and when to come back (RFC 9110,
 * 10.2.3 and 15.6.4). What lasts by itself (the line to the browser, files on their way) is not counted.
 */
export function notTooMany(most: number, lasts: (path: string) => boolean): RequestHandler {
  let now = 0;
  return (req, res, next) => {
    if (lasts(req.path)) return next();
    if (now >= most) {
      res.set('Retry-After', '2');
      throw new Refusal(problem('too-busy', 'Treenail has more to answer than it can just now.'));
    }
    now++;
    res.once('close', () => now--);
    next();
  };
}
