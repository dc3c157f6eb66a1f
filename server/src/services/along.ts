import { Refusal, alongIn, problem, type Along } from '@treenail/core';
import type { AlongAnswer, Person } from '../contract/index.ts';
import { Instance } from '../db/models/index.ts';
import { PlatformTrouble } from '../platforms/http.ts';
import type { Services } from './context.ts';
import { alongOf } from './decided.ts';
import { readDocument, writeDocument } from './documents.ts';
import { connectorOf } from './instances.ts';
import { moveById } from './move-rows.ts';
import { audit, mustBe } from './people.ts';
import { mustBeOpen } from './move-steps.ts';
import { decidedAnew } from './tidy.ts';

/** How what goes is to arrive: seen or hidden, with first posts, its tools those that the destination has. */

export async function alongFor(services: Services, moveId: number): Promise<AlongAnswer> {
  const move = await moveById(moveId);
  const [{ course }, now, destination] = await Promise.all([
    readDocument(moveId, 'look'),
    alongOf(moveId),
    Instance.findByPk(move.destinationId, { rejectOnEmpty: true }),
  ]);
  const { tools, ...found } = alongIn(course);
  const { connected, trouble } = await toolsAt(services, destination, tools.length > 0);
  const knownAs = (address: string) => connected?.find((tool) => address.startsWith(tool.address))?.name ?? null;
  return { now, ...found, tools: tools.map((t) => ({ ...t, known: knownAs(t.address) })), connected, trouble };
}

async function toolsAt(
  services: Services,
  destination: Instance,
  asks: boolean,
): Promise<Pick<AlongAnswer, 'connected' | 'trouble'>> {
  const tell = connectorOf(services.config.secret, destination).destination?.connectedTools;
  if (!asks || !tell) return { connected: null, trouble: '' };
  try {
    return { connected: await tell(), trouble: '' };
  } catch (error) {
    if (!(error instanceof Refusal) && !(error instanceof PlatformTrouble)) throw error;
    return { connected: null, trouble: `${destination.name} could not be asked which tools it has: ${error.message}` };
  }
}

/** @throws Refusal where a tool is to be one that the destination does not have */
export async function setAlong(services: Services, person: Person, moveId: number, along: Along): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustBeOpen(move);
  const { connected } = await alongFor(services, moveId);
  const stray = Object.values(along.tools).find((address) => !connected?.some((tool) => tool.address === address));
  if (stray !== undefined) {
    throw new Refusal(problem('not-found', `No tool of that address is connected there: ${stray}`));
  }
  await writeDocument(moveId, 'along', along);
  await audit(person, 'how it arrives chosen', `move ${moveId}`, along);
  await decidedAnew(move);
}
