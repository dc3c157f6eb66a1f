import type { Format } from '../format.ts';
import { readTarnhall } from './read.ts';
import { CRATE } from './unpack.ts';

/** Tarnhall's own archive, read whole. */
export const tarnhallArchive: Format = {
  id: 'tarnhall',
  targets: [],
  async detect(pkg) {
    return pkg.entries.has(CRATE) ? '1' : null;
  },
  read: readTarnhall,
  plan() {
    throw new RangeError('no target of this format');
  },
};
