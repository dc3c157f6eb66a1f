import { openAny, type ByteSource, type OpenAnyOptions, type Package } from '../container/index.ts';
import { Refusal, problem } from '../model/index.ts';
import { commonCartridge } from './cc/index.ts';
import { MANIFEST, readManifest } from './imscp/manifest.ts';
import { contentPackage } from './imscp/index.ts';
import { scorm } from './scorm/index.ts';
import { oxleaArchive } from './oxlea/index.ts';
import { quernholdArchive } from './quernhold/index.ts';
import { site } from './site/index.ts';
import { tarnhallArchive } from './tarnhall/index.ts';
import { qti } from './qti/index.ts';
import { RANKS, type Format, type Outlined, type ReadResult, type Target } from './format.ts';

export * from './format.ts';
export { planPackage } from './leads.ts';
export * from './described/index.ts';

/** One line a format; in which order they are tried says their rank. */
export const FORMATS: readonly Format[] = inOrder([
  commonCartridge,
  qti,
  scorm,
  contentPackage,
  quernholdArchive,
  oxleaArchive,
  tarnhallArchive,
  site,
]);

function inOrder(formats: readonly Format[]): Format[] {
  return RANKS.flatMap((rank) => formats.filter((f) => f.rank === rank));
}

export interface OpenCourseOptions extends Omit<OpenAnyOptions, 'unpackers'> {
  /** Formats that are known by a description. */
  described?: readonly Format[];
}

/** Opens a file of any format that is read. @throws Refusal as `openAny` */
export function openCourse(
  source: ByteSource,
  { described = [], ...options }: OpenCourseOptions = {},
): Promise<Package> {
  const unpackers = inOrder([...FORMATS, ...described]).flatMap((f) => f.unpacker ?? []);
  return openAny(source, { ...options, unpackers });
}

export const TARGETS: readonly Target[] = FORMATS.flatMap((format) => format.targets);

/** Finds the target and its format. @throws Refusal `unknown-target` */
export function targetById(id: string): { format: Format; target: Target } {
  for (const format of FORMATS) {
    const target = format.targets.find((t) => t.id === id);
    if (target) return { format, target };
  }
  throw new Refusal(
    problem('unknown-target', `There is no format ${id}.`, {}, `Choose one of ${TARGETS.map((t) => t.id).join(', ')}.`),
  );
}

/** Format and version of a course's origin, as a person says them. */
export function labelOf(format: string, version: string): string {
  const known = FORMATS.find((f) => f.id === format);
  return known ? known.label(version) : version;
}

/**
 * Reads a package of any known format, coded or described.
 * @throws Refusal `no-manifest`, `not-a-package` and whatever the format's reader refuses
 */
export async function readCourse(pkg: Package, described: readonly Format[] = []): Promise<ReadResult> {
  return (await formatOf(pkg, described)).read(pkg);
}

/**
 * The outline of a package of any known format, as soon as it can be told: from its definitions only where there is no
 * other way.
 * @throws Refusal as `readCourse`
 */
export async function outlineCourse(
  pkg: Package,
  described: readonly Format[] = [],
): Promise<{ outlined: Outlined; read: ReadResult | null }> {
  const format = await formatOf(pkg, described);
  if (format.outline) return { outlined: await format.outline(pkg), read: null };
  const read = await format.read(pkg);
  return { outlined: { ...read.course, notes: read.notes }, read };
}

async function formatOf(pkg: Package, described: readonly Format[]): Promise<Format> {
  for (const format of inOrder([...FORMATS, ...described])) {
    if ((await format.detect(pkg)) !== null) return format;
  }
  // Says whether a manifest is missing, unreadable or of another standard.
  const { root } = await readManifest(pkg);
  throw new Refusal(
    problem('not-a-package', `The manifest (${root.ns || 'no namespace'}) is of no standard that is read.`, {
      file: MANIFEST,
      line: root.line,
    }),
  );
}
