import { openAny, type ByteSource, type OpenAnyOptions, type Package, type Unpacker } from '../container/index.ts';
import { Refusal, problem } from '../model/index.ts';
import { type DescribedFormat } from './described/index.ts';
import { commonCartridge } from './cc/index.ts';
import { MANIFEST, readManifest } from './imscp/manifest.ts';
import { contentPackage } from './imscp/index.ts';
import { scorm } from './scorm/index.ts';
import { oxleaArchive } from './oxlea/index.ts';
import { oxleaUnpacker } from './oxlea/unpack.ts';
import { quernholdArchive } from './quernhold/index.ts';
import { quernholdUnpacker } from './quernhold/unpack.ts';
import { site } from './site/index.ts';
import { tarnhallArchive } from './tarnhall/index.ts';
import { tarnhallUnpacker } from './tarnhall/unpack.ts';
import { qti } from './qti/index.ts';
import type { Format, ReadResult, Target } from './format.ts';

export * from './format.ts';
export { planPackage } from './leads.ts';
export * from './described/index.ts';

/** In the order in which they are tried: the most particular first, a plain folder last. */
export const FORMATS: readonly Format[] = [
  commonCartridge,
  qti,
  scorm,
  contentPackage,
  quernholdArchive,
  oxleaArchive,
  tarnhallArchive,
  site,
];

/** What makes packages of archives that are none. */
export const UNPACKERS: readonly Unpacker[] = [quernholdUnpacker, oxleaUnpacker, tarnhallUnpacker];

export interface OpenCourseOptions extends Omit<OpenAnyOptions, 'unpackers'> {
  /** Formats that are known by a description; tried after those that are coded. */
  described?: readonly DescribedFormat[];
}

/** Opens a file of any format that is read. @throws Refusal as `openAny` */
export function openCourse(
  source: ByteSource,
  { described = [], ...options }: OpenCourseOptions = {},
): Promise<Package> {
  return openAny(source, { ...options, unpackers: [...UNPACKERS, ...described.map((d) => d.unpacker)] });
}

export const TARGETS: readonly Target[] = FORMATS.flatMap((format) => format.targets);

/** Finds the target and its format. @throws Refusal `unknown-target` */
export function targetById(id: string): { format: Format; target: Target } {
  for (const format of FORMATS) {
    const target = format.targets.find((t) => t.id === id);
    if (target) return { format, target };
  }
  throw new Refusal(
    problem('unknown-target', `There is no format ${id}.`, `Choose one of ${TARGETS.map((t) => t.id).join(', ')}.`),
  );
}

const LABELS: Record<string, string> = {
  cc: 'Common Cartridge',
  qti: 'QTI',
  imscp: 'Content Packaging',
  scorm12: 'SCORM',
  scorm2004: 'SCORM',
  quernhold: 'Quernhold archive',
  oxlea: 'Oxlea parcel',
  tarnhall: 'Tarnhall crate',
};

/** Format and version of a course's origin, as a person says them. */
export function labelOf(format: string, version: string): string {
  // What a described archive is called is part of its description.
  if (format === 'described') return version;
  return format === 'site' ? 'Folder of pages' : `${LABELS[format] ?? format} ${version}`;
}

/**
 * Reads a package of any known format, coded or described.
 * @throws Refusal `no-manifest`, `not-a-package` and whatever the format's reader refuses
 */
export async function readCourse(pkg: Package, described: readonly DescribedFormat[] = []): Promise<ReadResult> {
  // A folder of pages is what nothing else is.
  const formats = [...FORMATS.slice(0, -1), ...described.map((d) => d.format), ...FORMATS.slice(-1)];
  for (const format of formats) {
    if ((await format.detect(pkg)) !== null) return format.read(pkg);
  }
  // Says whether a manifest is missing, unreadable or of another standard.
  const { root } = await readManifest(pkg);
  throw new Refusal(
    problem(
      'not-a-package',
      `The manifest (${root.ns || 'no namespace'}) is of no standard that is read.`,
      'Export the course as a Common Cartridge.',
      { file: MANIFEST, line: root.line },
    ),
  );
}
