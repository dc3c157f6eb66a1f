import { Refusal, problem } from '@treenail/core';
import type { Connector, SourceSide, PlatformKind } from './contract.ts';
import { ExportGone } from './http.ts';
import { files } from './files/index.ts';
import { oxlea } from './oxlea/index.ts';
import { quernhold } from './quernhold/index.ts';
import { tarnhall } from './tarnhall/index.ts';

export * from './contract.ts';
export { ExportGone, PlatformTrouble, asTrouble } from './http.ts';

const KINDS: readonly PlatformKind[] = [quernhold, oxlea, tarnhall, files];

/** Kinds of platforms that can be connected. */
export const PLATFORMS = KINDS.filter((kind) => kind.connected);
/** The kind of the instance under which courses stand that are known from files. */
export const FILES = files.id;

/** Whether instances of this kind are reached over the network. */
export function isConnected(platform: string): boolean {
  return PLATFORMS.some((kind) => kind.id === platform);
}

/** @throws Refusal `platform-unknown` */
export function connectTo(platform: string, baseUrl: string, credential: string): Connector {
  const kind = KINDS.find((p) => p.id === platform);
  if (!kind) throw new Refusal(problem('platform-unknown', `There is no connector for ${platform}.`));
  return kind.connect({ baseUrl, credential });
}

/** The platform's own file goes; that it is gone already is as good. */
export async function removeExport(sourceSide: SourceSide, exportId: string): Promise<true> {
  try {
    await sourceSide.removeExport(exportId);
  } catch (error) {
    const gone = error instanceof Refusal && error.problem.code === 'platform-gone';
    if (!gone && !(error instanceof ExportGone)) throw error;
  }
  return true;
}
