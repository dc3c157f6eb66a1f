import type { Format } from '../format.ts';
import { readOxlea } from './read.ts';
import { BOOK } from './unpack.ts';

/** Oxlea's own archive, read whole. It is not written: Oxlea is a place that courses leave. */
export const oxleaArchive: Format = {
  id: 'oxlea',
  targets: [],
  async detect(pkg) {
    return pkg.entries.has(BOOK) ? '2' : null;
  },
  read: readOxlea,
  plan() {
    throw new RangeError('no target of this format');
  },
};
