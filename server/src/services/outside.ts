import { createHash } from 'node:crypto';
import { lookup } from 'node:dns';
import http from 'node:http';
import https from 'node:https';
import { isIP, type LookupFunction } from 'node:net';
import {
  Refusal,
  addressAsked,
  courseName,
  problem,
  type OutsideAnswer,
  type Course,
  type CourseLink,
} from '@treenail/core';
import { Op } from 'sequelize';
import type { JobSummary, Person } from '../contract/index.ts';
import { Job, OutsideAnswerRow } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { isPublic } from '../platforms/reach.ts';
import type { Services } from './context.ts';
import { asJobSummary } from './jobs.ts';
import { courseOf, moveById } from './moves.ts';
import { audit, mustBe } from './people.ts';

/** Asking outside addresses whether they are still there: politely, within bounds, and never inside the house. */

/** An address that was there is not asked again for a week; one that was not, as soon as a person wants to know. */
const FRESH_MS = 7 * 86_400_000;
const PATIENCE_MS = 10 * 60_000;
const TIMEOUT_MS = 8000;
const REDIRECTS = 4;
export const MOST_ADDRESSES = 2000;

const hashOf = (address: string) => createHash('sha256').update(address).digest('hex');

/** All that was ever answered; the newest answer of each address counts. */
export async function answersKept(addresses?: readonly string[]): Promise<OutsideAnswer[]> {
  const rows = await OutsideAnswerRow.findAll(
    addresses ? { where: { addressHash: { [Op.in]: addresses.map(hashOf) } } } : { limit: 50_000 },
  );
  return rows.map((r) => ({
    address: r.address,
    state: r.state as OutsideAnswer['state'],
    to: r.movedTo,
    words: r.words,
    askedAt: r.askedAt.toISOString(),
  }));
}

export async function keepAnswer(answer: OutsideAnswer): Promise<void> {
  await OutsideAnswerRow.upsert({
    addressHash: hashOf(answer.address),
    address: answer.address,
    state: answer.state,
    movedTo: answer.to,
    words: answer.words.slice(0, 300),
    askedAt: new Date(answer.askedAt),
  });
}

/** Outside addresses of a course, each once. */
export function outsideAddresses(course: Course, links: readonly CourseLink[]): string[] {
  const linked = links.filter((l) => l.state === 'outside').map((l) => l.value);
  const web = course.items.flatMap((i) => (i.kind === 'link' ? [i.url] : []));
  const addresses = [...linked, ...web].map(addressAsked).filter((a) => /^https?:\/\//i.test(a));
  return [...new Set(addresses)];
}

/** Those that have to be asked, or asked again. */
export async function unasked(addresses: readonly string[], now = Date.now()): Promise<string[]> {
  const answers = await answersKept(addresses);
  const fresh = new Set(
    answers
      .filter((a) => Date.parse(a.askedAt) > now - (a.state === 'there' ? FRESH_MS : PATIENCE_MS))
      .map((a) => a.address),
  );
  return addresses.filter((a) => !fresh.has(a));
}

export async function startAsking({ config }: Services, person: Person, moveId: number): Promise<JobSummary> {
  mustBe(person, 'administrator');
  if (!config.askOutside) {
    throw new Refusal(problem('outside-off', 'This Treenail does not ask outside addresses.'));
  }
  const move = await moveById(moveId);
  const course = await courseOf(move);
  // Pressed again while it runs it is the same; once it is over it is another.
  const over = await Job.count({ where: { moveId, kind: 'outside', state: ['done', 'failed'] } });
  const job = await enqueue({
    kind: 'outside',
    key: `outside:move-${moveId}-${over}`,
    course: courseName(course),
    moveId,
    input: { round: 0 },
  });
  await audit(person, 'outside addresses asked', `move ${moveId}`);
  return asJobSummary(job);
}

/** Only hosts that anybody could reach: a page must not make the server look around in its own house. */
const onlyPublic: LookupFunction = (hostname, options, done) => {
  lookup(hostname, { ...options, all: true }, (error, found) => {
    if (error) return done(error, []);
    const all = found;
    const inside = all.find(({ address }) => !isPublic(address));
    const [first] = all;
    if (inside || !first) return done(new NotPublic(hostname), []);
    if (options.all === true) done(null, all);
    else done(null, first.address, first.family);
  });
};

class NotPublic extends Error {
  constructor(host: string) {
    super(`${host} is no public host`);
  }
}

interface Reply {
  status: number;
  location: string | null;
}

function ask(method: 'HEAD' | 'GET', url: URL, free: boolean, signal: AbortSignal): Promise<Reply> {
  return new Promise((resolve, reject) => {
    if (!free && isIP(url.hostname.replace(/^\[|\]$/g, '')) !== 0 && !isPublic(url.hostname.replace(/^\[|\]$/g, ''))) {
      reject(new NotPublic(url.hostname));
      return;
    }
    const { request } = url.protocol === 'https:' ? https : http;
    const sent = request(
      url,
      {
        method,
        signal: AbortSignal.any([signal, AbortSignal.timeout(TIMEOUT_MS)]),
        headers: { 'User-Agent': 'Treenail link check', Accept: '*/*' },
        ...(free ? {} : { lookup: onlyPublic }),
      },
      (answer) => {
        // Nothing of the body is wanted.
        answer.destroy();
        resolve({ status: answer.statusCode ?? 0, location: answer.headers.location ?? null });
      },
    );
    sent.once('error', reject);
    sent.end();
  });
}

/**
 * Asks one address: HEAD, and GET where HEAD is not understood. `examplesAt` is where hosts that exist nowhere are asked.
 */
export async function askAddress(
  address: string,
  examplesAt: string | null,
  signal: AbortSignal,
): Promise<OutsideAnswer> {
  const answerOf = (state: OutsideAnswer['state'], words: string, to: string | null = null): OutsideAnswer => ({
    address,
    state,
    to,
    words,
    askedAt: new Date().toISOString(),
  });
  let at: URL;
  try {
    at = new URL(address);
  } catch {
    return answerOf('gone', 'it is no address');
  }
  let forGood = true;
  for (let hop = 0; hop <= REDIRECTS; hop++) {
    const example = examplesAt !== null && at.hostname.endsWith('.example');
    const url = example ? new URL(`${examplesAt}/${at.hostname}${at.pathname}${at.search}`) : at;
    let reply: Reply;
    try {
      reply = await ask('HEAD', url, example, signal);
      if ([400, 403, 404, 405, 501].includes(reply.status)) reply = await ask('GET', url, example, signal);
    } catch (error) {
      signal.throwIfAborted();
      if (error instanceof NotPublic) return answerOf('unasked', 'it is no public host, and was not asked');
      const code = (error as NodeJS.ErrnoException).code;
      return code === 'ENOTFOUND' ? answerOf('gone', 'there is no such host') : answerOf('silent', 'it did not answer');
    }
    const { status, location } = reply;
    if (status >= 300 && status < 400 && location !== null) {
      forGood &&= status === 301 || status === 308;
      const next = new URL(location, at);
      if (next.protocol !== 'http:' && next.protocol !== 'https:')
        return answerOf('gone', `it leads to ${next.protocol}`);
      at = next;
      continue;
    }
    if (status === 404 || status === 410) return answerOf('gone', 'there is no such page any more');
    if (status >= 500) return answerOf('silent', `it answered with an error of its own (${status})`);
    // Pages behind a door are there, for those who have the key.
    const there = hop === 0 || !forGood;
    return there ? answerOf('there', 'it is there') : answerOf('moved', `it has moved to ${at.href}`, at.href);
  }
  return answerOf('silent', 'it leads round in a circle');
}
