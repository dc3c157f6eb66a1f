import type { Format, Target } from '../format.ts';
import { CC11_PROFILE, CC12_PROFILE, CC13_PROFILE, THIN13_PROFILE } from './kinds.ts';
import { hasManifest, readManifest } from '../imscp/manifest.ts';
import { outlineCartridge, readCartridge, versionOf } from './read.ts';
import { planReversion } from './reversion.ts';
import { asVersion, type CcVersion } from './versions.ts';
import { FILE_BASE, planFromModel, planThin } from './write.ts';
import { relativeAddress } from '../leads.ts';

/** Between versions the words of the version are exchanged, and definitions stay as they are: see `reversion.ts`. */
function passthroughOf(version: CcVersion): NonNullable<Target['passthrough']> {
  return (origin) => {
    if (origin.format !== 'cc' || asVersion(origin.version) === null) return null;
    return origin.version === version ? 'everything' : 'definitions';
  };
}

/** A definition is named by its path, in other definitions behind the token by which a cartridge names its root. */
function itemAddress(from: string, to: string): string {
  const path = relativeAddress(from, to);
  return /\.x?html?$/i.test(from) ? path : FILE_BASE + path;
}

/** IMS Common Cartridge: reads 1.0 to 1.3, writes 1.1, 1.2 and 1.3. */
export const commonCartridge: Format = {
  id: 'cc',
  label: (version) => `Common Cartridge ${version}`,
  rank: 'particular',
  countsUnread: true,
  targets: [
    {
      id: 'cc11',
      label: 'Common Cartridge 1.1',
      version: '1.1',
      extension: 'imscc',
      passthrough: passthroughOf('1.1'),
      keepsPaths: hasManifest,
      itemAddress,
      profile: CC11_PROFILE,
    },
    {
      id: 'cc12',
      label: 'Common Cartridge 1.2',
      version: '1.2',
      extension: 'imscc',
      passthrough: passthroughOf('1.2'),
      keepsPaths: hasManifest,
      itemAddress,
      profile: CC12_PROFILE,
    },
    {
      id: 'cc13',
      label: 'Common Cartridge 1.3',
      version: '1.3',
      extension: 'imscc',
      passthrough: passthroughOf('1.3'),
      keepsPaths: hasManifest,
      itemAddress,
      profile: CC13_PROFILE,
    },
    { id: 'thin13', label: 'Thin Common Cartridge 1.3', version: '1.3', extension: 'imscc', profile: THIN13_PROFILE },
  ],
  async detect(pkg) {
    if (!hasManifest(pkg)) return null;
    return versionOf((await readManifest(pkg)).root);
  },
  read: readCartridge,
  outline: outlineCartridge,
  async plan(course, target, source) {
    const to = asVersion(target.version) as CcVersion;
    if (target.id === 'thin13') return planThin(course, to);
    const from = course.origin.format === 'cc' && course.origin.untouched ? asVersion(course.origin.version) : null;
    return from === null ? planFromModel(course, to) : planReversion(course, source, from, to);
  },
};
