import { createHmac, timingSafeEqual } from 'node:crypto';
import { Refusal, problem, readCourse } from '@treenail/core';
import * as z from 'zod';
import type { Person } from '../contract/index.ts';
import type { Services } from './context.ts';
import { withPackage } from './packages.ts';
import { audit, mustBe, openSessions } from './people.ts';
import { copyWithBytes } from './strongroom.ts';

/** What may be played: one package, from one file on, until a time. The player asks nobody else. */
export const Ticket = z.object({
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  launch: z.string(),
  parameters: z.string(),
  version: z.enum(['1.2', '2004']),
  title: z.string(),
  launchData: z.string(),
  masteryScore: z.string(),
  until: z.number(),
  /** The session that it was opened in: with that, it ends. */
  session: z.string(),
});
export type Ticket = z.infer<typeof Ticket>;

const VALID_MS = 4 * 3_600_000;

function signed(secret: Buffer, body: string): Buffer {
  return createHmac('sha256', secret).update(`play ${body}`).digest();
}

export function sealTicket(secret: Buffer, ticket: Ticket): string {
  const body = Buffer.from(JSON.stringify(ticket)).toString('base64url');
  return `${body}.${signed(secret, body).toString('base64url')}`;
}

/** The ticket, if Treenail gave it and its time is not over; else `null`. */
export function openTicket(secret: Buffer, sealed: string, now = Date.now()): Ticket | null {
  const [body = '', mark = ''] = sealed.split('.');
  const [given, own] = [Buffer.from(mark, 'base64url'), signed(secret, body)];
  if (given.length !== own.length || !timingSafeEqual(given, own)) return null;
  const ticket = Ticket.safeParse(JSON.parse(Buffer.from(body, 'base64url').toString('utf8')));
  return ticket.success && ticket.data.until > now ? ticket.data : null;
}

/** A ticket that may still be used: whoever it was given to is still signed in. */
export async function usableTicket(secret: Buffer, sealed: string): Promise<Ticket | null> {
  const ticket = openTicket(secret, sealed);
  return ticket && (await openSessions([ticket.session])).has(ticket.session) ? ticket : null;
}

/** The address at which an item of a kept copy is played. */
export async function playItem(
  services: Services,
  person: Person,
  session: string,
  copyId: number,
  itemId: string,
): Promise<string> {
  mustBe(person, 'administrator');
  const copy = await copyWithBytes(copyId);
  const { course } = await withPackage(services, copy.sha256, readCourse);
  const item = course.items.find((i) => i.id === itemId);
  if (item?.kind !== 'page' || item.settings.tracked !== true) {
    throw new Refusal(problem('not-playable', 'This item reports to no player.'));
  }
  const { parameters, launchData, masteryScore } = item.settings;
  const text = (value: unknown) => (typeof value === 'string' || typeof value === 'number' ? String(value) : '');
  await audit(person, 'item played', `copy ${copyId}`, { item: itemId });
  const ticket = sealTicket(services.config.secret, {
    sha256: copy.sha256,
    launch: item.file,
    parameters: text(parameters),
    version: course.origin.version.startsWith('2004') ? '2004' : '1.2',
    title: item.title,
    launchData: text(launchData),
    masteryScore: text(masteryScore),
    until: Date.now() + VALID_MS,
    session,
  });
  return `${services.config.playAddress}/${ticket}/player.html`;
}
