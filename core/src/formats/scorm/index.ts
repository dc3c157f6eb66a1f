import type { Course, Profile } from '../../model/index.ts';
import { ofVersion, type Format, type Target } from '../format.ts';
import { hasManifest, isPlayedWhole, readManifest } from '../imscp/manifest.ts';
import { kindOf, readContentPackage } from '../imscp/read.ts';
import { relativeAddress } from '../leads.ts';
import { SCORM12_ONE_PROFILE, SCORM12_PROFILE, SCORM2004_ONE_PROFILE, SCORM2004_PROFILE } from './kinds.ts';
import { planExchange } from './exchange.ts';
import { planScorm } from './write.ts';

interface Edition extends Target {
  edition: '1.2' | '2004';
  /** One SCO for the whole course, rather than one for each page and quiz. */
  whole: boolean;
}

/** Packages of the same edition are copied; in those of the 2nd and 3rd the words that the 4th has otherwise are exchanged. */
function passthroughOf(version: string): NonNullable<Target['passthrough']> {
  const same = ofVersion('scorm', version);
  return (origin) => same(origin) ?? (isExchanged(origin, version) ? 'exchanged' : null);
}

function isExchanged({ format, version: from }: Course['origin'], to: string): boolean {
  return format === 'scorm' && from !== to && from.startsWith('2004') && to.startsWith('2004');
}

const edition = (id: string, version: string, whole: boolean, profile: Profile): Edition => ({
  id,
  label: profile.label,
  version,
  extension: 'zip',
  // One SCO for the whole is made anew, unless the package was so already: see `plan`.
  ...(whole ? {} : { passthrough: passthroughOf(version) }),
  keepsPaths: hasManifest,
  itemAddress: relativeAddress,
  profile,
  edition: version === '1.2' ? '1.2' : '2004',
  whole,
});

const EDITIONS: readonly Edition[] = [
  edition('scorm12', '1.2', false, SCORM12_PROFILE),
  edition('scorm12one', '1.2', true, SCORM12_ONE_PROFILE),
  edition('scorm2004', '2004 4th Edition', false, SCORM2004_PROFILE),
  edition('scorm2004one', '2004 4th Edition', true, SCORM2004_ONE_PROFILE),
];

/** SCORM 1.2 and 2004: read as content packages with what they say of tracking, written as packages that play. */
export const scorm: Format = {
  id: 'scorm',
  label: (version) => `SCORM ${version}`,
  rank: 'built',
  countsUnread: true,
  targets: EDITIONS,
  async detect(pkg) {
    if (!hasManifest(pkg)) return null;
    const { format, version } = kindOf((await readManifest(pkg)).root);
    return format === 'imscp' ? null : version;
  },
  read: readContentPackage,
  async plan(course, target, source) {
    const edition = EDITIONS.find((e) => e.id === target.id);
    if (!edition) throw new RangeError(`${target.id} is no edition of SCORM`);
    const { format, version, untouched } = course.origin;
    if (format === 'scorm' && version === edition.version && untouched) {
      const { root } = await readManifest(source);
      if (isPlayedWhole(root) === edition.whole)
        return [...source.entries.keys()].map((path) => ({ path, copy: path }));
    }
    if (untouched && !edition.whole && isExchanged(course.origin, edition.version))
      return planExchange(source, edition.version);
    return planScorm(course, edition.edition, edition.whole, source);
  },
};
