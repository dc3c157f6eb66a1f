import { goesOnWhole, ofFormat, type Format } from '../format.ts';
import { OXLEA_PARCEL_PROFILE } from './kinds.ts';
import { readOxlea } from './read.ts';
import { BOOK, oxleaUnpacker } from './unpack.ts';
import { planParcel, planUntouched } from './write.ts';

/** Oxlea's own archive, read and written. */
export const oxleaArchive: Format = {
  id: 'oxlea',
  label: (version) => `Oxlea parcel ${version}`,
  rank: 'plain',
  unpacker: oxleaUnpacker,
  targets: [
    {
      id: 'oxlea',
      label: 'Oxlea parcel',
      version: '2',
      extension: 'zip',
      passthrough: ofFormat('oxlea'),
      profile: OXLEA_PARCEL_PROFILE,
    },
  ],
  async detect(pkg) {
    return pkg.entries.has(BOOK) ? '2' : null;
  },
  read: readOxlea,
  async plan(course, target, source) {
    return goesOnWhole(course, target) ? planUntouched(source) : planParcel(course, source);
  },
};
