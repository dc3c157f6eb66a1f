import { goesOnWhole, ofFormat, type Format } from '../format.ts';
import { TARNHALL_CRATE_PROFILE } from './kinds.ts';
import { readTarnhall } from './read.ts';
import { CRATE, tarnhallUnpacker } from './unpack.ts';
import { planCrate, planUntouched } from './write.ts';

/** Tarnhall's own archive, read and written. */
export const tarnhallArchive: Format = {
  id: 'tarnhall',
  label: (version) => `Tarnhall crate ${version}`,
  rank: 'plain',
  unpacker: tarnhallUnpacker,
  targets: [
    {
      id: 'tarnhall',
      label: 'Tarnhall crate',
      version: '1',
      extension: 'zip',
      passthrough: ofFormat('tarnhall'),
      itemAddress: (_from, to) => to.replace(/^entries\/(e\d+)\.json$/, 'entry:$1'),
      profile: TARNHALL_CRATE_PROFILE,
    },
  ],
  async detect(pkg) {
    return pkg.entries.has(CRATE) ? '1' : null;
  },
  read: readTarnhall,
  async plan(course, target, source) {
    return goesOnWhole(course, target) ? planUntouched(source) : planCrate(course, source);
  },
};
