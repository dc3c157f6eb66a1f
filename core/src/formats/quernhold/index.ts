import { goesOnWhole, ofFormat, type Format } from '../format.ts';
import { QUERNHOLD_ARCHIVE_PROFILE } from './kinds.ts';
import { readQuernhold } from './read.ts';
import { RECORDS, quernholdUnpacker } from './unpack.ts';
import { packArchive, planArchive } from './write.ts';

/** Quernhold's own archive, read and written whole. */
export const quernholdArchive: Format = {
  id: 'quernhold',
  label: (version) => `Quernhold archive ${version}`,
  rank: 'plain',
  unpacker: quernholdUnpacker,
  targets: [
    {
      id: 'quernhold',
      label: 'Quernhold archive',
      version: '4',
      extension: 'quern',
      passthrough: ofFormat('quernhold'),
      profile: QUERNHOLD_ARCHIVE_PROFILE,
      pack: packArchive,
    },
  ],
  async detect(pkg) {
    return pkg.entries.has(RECORDS) ? '4' : null;
  },
  read: readQuernhold,
  async plan(course, target, source) {
    if (!goesOnWhole(course, target)) return planArchive(course);
    // Records first, as Quernhold writes them; they were gathered behind the files.
    const files = [...source.entries.keys()].filter((path) => path !== RECORDS);
    return [RECORDS, ...files].map((path) => ({ path, copy: path }));
  },
};
