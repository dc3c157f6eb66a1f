import type { Format } from '../format.ts';
import { readQuernhold } from './read.ts';
import { RECORDS } from './unpack.ts';

/** Quernhold's own archive, read whole. It is not written: Quernhold is a place that courses leave. */
export const quernholdArchive: Format = {
  id: 'quernhold',
  targets: [],
  async detect(pkg) {
    return pkg.entries.has(RECORDS) ? '4' : null;
  },
  read: readQuernhold,
  plan() {
    throw new RangeError('no target of this format');
  },
};
