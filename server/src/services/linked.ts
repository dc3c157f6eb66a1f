import { Refusal, readCourse, readLinks, type CourseLink, type Finding } from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import { Copy, DecisionRow, type LinkedFiles, planOf, type WholeMove } from '../db/models/index.ts';
import { ExportGone, PlatformTrouble, asTrouble, type SourceSide } from '../platforms/index.ts';
import { isDiskFull } from '../trouble.ts';
import type { Services } from './context.ts';
import { withPackage } from './packages.ts';
import { addSupplies, fetchShared } from './supplies.ts';

/** Files of a repository that courses share: kept beside a copy whose texts link to them, and copied in by a move. */

/** After so many files for which the platform did not answer, it is not asked for the rest. */
const TROUBLES = 3;

const REASON = 'linked files were asked for with the fetch';

export interface LinkedAsked {
  sharedFile: NonNullable<SourceSide['sharedFile']>;
  sourceSide: SourceSide;
  remoteId: string;
  /** Told how many were asked for. */
  onProgress: (done: number, total: number) => Promise<void>;
}

/**
 * Fetches every file of the repository that a text of the copy links to. One that can not be had is told with the reason,
 * and does not hold up the copy: what the platform made of the course is kept all the same.
 */
export async function fetchLinked(services: Services, copy: Copy, asked: LinkedAsked): Promise<LinkedFiles> {
  const { sharedFile, sourceSide, remoteId, onProgress } = asked;
  const known = await sourceSide.addresses(remoteId);
  const { links, unread } = await withPackage(services, copy.sha256, async (pkg, described) => {
    const { course } = await readCourse(pkg, described);
    return readLinks(pkg, course, { engine: nodeEngine, known });
  });
  const linked: LinkedFiles = { came: [], missing: [], unread };
  const addresses = [...new Set(links.filter((l) => l.state === 'repository').map((l) => l.value))];
  let troubles = 0;
  for (const [done, address] of addresses.entries()) {
    await onProgress(done, addresses.length);
    if (troubles >= TROUBLES) {
      linked.missing.push({ address, why: 'it was not asked for, since the platform did not answer before.' });
      continue;
    }
    try {
      linked.came.push({ address, ...(await fetchShared(services, sharedFile, address)) });
    } catch (error) {
      // A disk that is full is no matter of this file.
      if (isDiskFull(error)) throw error;
      const trouble = error instanceof RangeError ? error : asTrouble(error, remoteId);
      if (trouble instanceof PlatformTrouble) troubles++;
      linked.missing.push({ address, why: whyNot(trouble) });
    }
  }
  return linked;
}

function whyNot(told: Error): string {
  // A page may name what is no address, or leads out of the repository.
  if (told instanceof RangeError) return 'it is no address of the repository.';
  if (told instanceof ExportGone) return 'it is there no more.';
  return told instanceof Refusal ? told.problem.message : 'the platform did not answer for it.';
}

/**
 * Decides for a move, once, that what came along with its copy takes the place of the links to it: led to where the course
 * has the same file already, else copied in. Each is a decision like any other, and can be undone. Gives how many.
 */
export async function useLinked(
  move: WholeMove,
  copy: Copy,
  {
    findings,
    links,
    hashes,
  }: { findings: readonly Finding[]; links: readonly CourseLink[]; hashes: Map<string, string> },
): Promise<number> {
  // Whoever decided something has seen the course.
  const came = new Map((copy.linked?.came ?? []).map(({ address, sha256 }) => [address, sha256]));
  if (came.size === 0 || planOf(move).workedVersion > 0) return 0;
  const addresses = new Set(findings.filter((f) => f.kind === 'link-repository').map((f) => f.groupKey));
  const near = new Map(links.flatMap((l) => (l.state === 'repository' && l.near ? [[l.value, l.near.path]] : [])));
  const decisions = [...came]
    .filter(([address]) => addresses.has(address))
    .map(([address, sha256]) => {
      const path = near.get(address);
      const there = path !== undefined && hashes.get(path) === sha256;
      return {
        moveId: move.id,
        matchKind: 'link-repository',
        matchGroupKey: address,
        matchKey: null,
        ...(there ? { mend: 'retarget', params: { to: `file:${path}` } } : { mend: 'copy-in', params: {} }),
        reason: REASON,
        decidedBy: move.createdBy,
        decidedAt: new Date(),
      };
    });
  await addSupplies(move.id, came);
  // Looked at once more after a worker was lost: what people decided since stays.
  await DecisionRow.destroy({ where: { moveId: move.id, reason: REASON } });
  await DecisionRow.bulkCreate(decisions);
  return decisions.length;
}
