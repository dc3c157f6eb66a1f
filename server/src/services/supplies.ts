import {
  Refusal,
  decodePercent,
  givenAddress,
  givenPath,
  matches,
  problem,
  readableSize,
  type Decision,
  type Match,
} from '@treenail/core';
import type { Transaction } from 'sequelize';
import { CourseRow, Instance, Move, type WholeMove } from '../db/models/index.ts';
import type { SourceSide } from '../platforms/index.ts';
import type { Digest } from '../store/blob-store.ts';
import type { Services } from './context.ts';
import { readDocument, writeDocument } from './documents.ts';
import { connectorOf } from './instances.ts';

/** Files that come into the working copy of a move from elsewhere: out of a shared repository, or given by a person. */

/** Where a file is put in the working copy. */
export function supplyPath(address: string): string {
  if (address.startsWith('given:')) return givenPath(address);
  // The whole path, so that two files of one name do not take each other's place.
  const segments = new URL(address).pathname.split('/').filter((segment) => segment !== '');
  return ['shared', ...segments.map((s) => decodePercent(s).replace(/[/\\:*?"<>|]/g, '-'))].join('/');
}

/** Fetches what links into the repository name, so that it can be copied in. */
export async function supply(services: Services, move: WholeMove, match: Match): Promise<void> {
  const { findings } = await readDocument(move.id, 'findings');
  const matching = findings.filter((f) => f.kind === 'link-repository' && matches(match, f));
  const addresses = new Set(matching.map((f) => f.groupKey));
  const course = await CourseRow.findByPk(move.courseId, { rejectOnEmpty: true });
  const source = await Instance.findByPk(course.instanceId, { rejectOnEmpty: true });
  const sourceSide = connectorOf(services.config.secret, source).source;
  if (!sourceSide?.sharedFile) {
    throw new Refusal(problem('no-repository', `Files can't be taken from the repository of ${source.name}.`));
  }
  const before = await suppliesOf(move.id);
  const found = new Map<string, string>();
  for (const address of addresses) {
    if (before.has(address)) continue;
    try {
      found.set(address, (await fetchShared(services, sourceSide.sharedFile, address)).sha256);
    } catch (error) {
      // Of many, those that are there are taken; the others are told as mends that could not be done.
      if (!(error instanceof Refusal) || addresses.size === 1) throw error;
    }
  }
  await addSupplies(move.id, found);
}

/** Writes down blobs that may be copied in, by the address that pages have for them. */
export async function addSupplies(moveId: number, found: ReadonlyMap<string, string>): Promise<void> {
  await onlyOne(moveId, async (transaction) => {
    const files = Object.fromEntries([...(await suppliesOf(moveId, transaction)), ...found]);
    await writeDocument(moveId, 'supplies', { files }, transaction);
  });
}

/** Fetches one file of the repository that courses share, and keeps its bytes. */
export async function fetchShared(
  services: Services,
  sharedFile: NonNullable<SourceSide['sharedFile']>,
  address: string,
): Promise<Digest> {
  const whole = address.startsWith('//') ? `https:${address}` : address;
  if (!URL.canParse(whole)) throw new RangeError(`${address} is no address`);
  return kept(services, address, await sharedFile(whole, AbortSignal.timeout(60_000)));
}

async function kept({ store }: Services, name: string, body: AsyncIterable<Uint8Array>): Promise<Digest> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of body) {
    parts.push(part);
    size += part.length;
    if (size > SUPPLY_BYTES) {
      throw new Refusal(
        problem(
          'supply-too-long',
          `${name} is longer than ${readableSize(SUPPLY_BYTES)}, which is too long to be put into a course here.`,
        ),
      );
    }
  }
  return { sha256: await store.putBytes(Buffer.concat(parts)), size };
}

/** Given again under one name, the same file is the same; another gets a name of its own. */
export async function takeGiven(
  services: Services,
  moveId: number,
  name: string,
  body: AsyncIterable<Uint8Array>,
): Promise<string> {
  const { sha256 } = await kept(services, name, body);
  return onlyOne(moveId, (transaction) => addGiven(moveId, name, sha256, transaction));
}

/** Does one thing after another for a move, also where several servers are asked at once: its row is held meanwhile. */
async function onlyOne<T>(moveId: number, work: (transaction: Transaction) => Promise<T>): Promise<T> {
  const { sequelize } = Move;
  if (!sequelize) throw new RangeError('the models are not bound');
  return sequelize.transaction(async (transaction) => {
    await Move.findByPk(moveId, { transaction, lock: transaction.LOCK.UPDATE });
    return work(transaction);
  });
}

async function addGiven(moveId: number, name: string, sha256: string, transaction: Transaction): Promise<string> {
  const before = await suppliesOf(moveId, transaction);
  const [, stem = name, ending = ''] = /^(.*?)(\.[^.]*)?$/s.exec(name) ?? [];
  let given = givenAddress(name);
  for (let n = 2; before.has(given) && before.get(given) !== sha256; n++) given = givenAddress(`${stem}-${n}${ending}`);
  const files = Object.fromEntries(before.set(given, sha256));
  await writeDocument(moveId, 'supplies', { files }, transaction);
  return given;
}

const SUPPLY_BYTES = 64 * 2 ** 20;

async function suppliesOf(moveId: number, transaction?: Transaction): Promise<Map<string, string>> {
  try {
    return new Map(Object.entries((await readDocument(moveId, 'supplies', transaction)).files));
  } catch (error) {
    if (error instanceof Refusal && error.problem.code === 'not-yet') return new Map();
    throw error;
  }
}

/**
 * Bytes that were copied in or given for a move, by the address that mends have for them. Of what was given only that is
 * held which a decision names: a person may have tried one file after another.
 */
export async function supplied(
  { store }: Services,
  moveId: number,
  decisions: readonly Pick<Decision, 'params'>[],
): Promise<Map<string, { path: string; bytes: Uint8Array }>> {
  const found = new Map<string, { path: string; bytes: Uint8Array }>();
  const named = new Set(decisions.flatMap((d) => Object.values(d.params)));
  for (const [address, sha256] of await suppliesOf(moveId)) {
    if (address.startsWith('given:') && !named.has(address)) continue;
    const source = await store.open(sha256);
    try {
      found.set(address, { path: supplyPath(address), bytes: await source.read(0, source.size) });
    } finally {
      await source.close();
    }
  }
  return found;
}
