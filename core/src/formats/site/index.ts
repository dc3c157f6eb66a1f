import { hasManifest } from '../imscp/manifest.ts';
import { goesOnWhole, ofFormat, type Format } from '../format.ts';
import { relativeAddress } from '../leads.ts';
import { SITE_PROFILE } from './kinds.ts';
import { hasPages, readFolder } from './read.ts';
import { planSite } from './write.ts';

/** A plain folder of pages and files, and a course as a static website. */
export const site: Format = {
  id: 'site',
  label: () => 'Folder of pages',
  rank: 'any',
  // It has nothing but pages and files, and they go on as they are.
  countsUnread: true,
  targets: [
    {
      id: 'site',
      label: 'Website',
      version: '1',
      extension: 'zip',
      passthrough: ofFormat('site'),
      itemAddress: relativeAddress,
      profile: SITE_PROFILE,
    },
  ],
  async detect(pkg) {
    return !hasManifest(pkg) && hasPages(pkg) ? '1' : null;
  },
  read: readFolder,
  async plan(course, target, source) {
    if (goesOnWhole(course, target)) {
      return [...source.entries.keys()].map((path) => ({ path, copy: path }));
    }
    return planSite(course);
  },
};
