import type { Format } from '../format.ts';
import { MANIFEST, readManifest } from '../imscp/manifest.ts';
import { kindOf, readContentPackage } from '../imscp/read.ts';
import { SCORM12_PROFILE, SCORM2004_PROFILE } from './profile.ts';
import { planScorm } from './write.ts';

/** SCORM 1.2 and 2004: read as content packages with what they say of tracking, written as packages that play. */
export const scorm: Format = {
  id: 'scorm',
  targets: [
    { id: 'scorm12', label: 'SCORM 1.2', version: '1.2', extension: 'zip', profile: SCORM12_PROFILE },
    {
      id: 'scorm2004',
      label: 'SCORM 2004 4th Edition',
      version: '2004 4th Edition',
      extension: 'zip',
      profile: SCORM2004_PROFILE,
    },
  ],
  async detect(pkg) {
    if (!pkg.entries.has(MANIFEST)) return null;
    const { format, version } = kindOf((await readManifest(pkg)).root);
    return format === 'imscp' ? null : version;
  },
  read: readContentPackage,
  async plan(course, target, source) {
    const { format, version, untouched } = course.origin;
    if (format === target.id && version === target.version && untouched) {
      return [...source.entries.keys()].map((path) => ({ path, copy: path }));
    }
    return planScorm(course, target.id === 'scorm12' ? '1.2' : '2004', source);
  },
};
