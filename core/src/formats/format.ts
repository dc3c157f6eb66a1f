import type { Package, Sink } from '../container/index.ts';
import { ZipWriter, type Engine, type Entry, type Unpacker } from '../container/index.ts';
import { mediaTypeOf, type Course, type Item, type Note, type Profile } from '../model/index.ts';

/** A version of a format that Treenail writes. */
export interface Target {
  /** Stable word for the API and the command line: `cc13`. */
  readonly id: string;
  readonly label: string;
  readonly version: string;
  readonly extension: string;
  /** What the format can hold; the losses of writing to it are the forecast against this. */
  readonly profile: Profile;
  /**
   * What of a package that nothing has reshaped goes on as it came, by what it is: everything, byte for byte; everything,
   * in the words of another version (`exchanged`); or the definitions of all that stays of its kind here. `null`, and where
   * not given: it is written from the model.
   */
  readonly passthrough?: (origin: Course['origin']) => 'everything' | 'exchanged' | 'definitions' | null;
  /** Whether the files of such a source are carried as they are, under the paths that they have. Never, where not given. */
  readonly keepsPaths?: (source: Package) => boolean;
  /**
   * How a text of the entry `from` names the item that is defined in the entry `to`. Not given where the format has no
   * address for items that are neither page nor file.
   */
  readonly itemAddress?: (from: string, to: string) => string;
  /** Where what is written is no zip: packs the planned entries itself. */
  readonly pack?: Pack;
}

export interface WriteOptions {
  engine?: Engine;
  onProgress?: (at: WriteProgress) => void;
}

export type Pack = (
  plan: readonly PlannedEntry[],
  source: Package,
  sink: Sink,
  options: WriteOptions,
) => Promise<{ size: number; entries: number }>;

export interface ReadResult {
  course: Course;
  notes: Note[];
}

/** What is known of a course before the definitions of its items are read. */
export interface Outlined extends Pick<Course, 'title' | 'origin' | 'metadata' | 'outline' | 'files'> {
  items: readonly Pick<Item, 'id' | 'kind' | 'title'>[];
  notes: Note[];
}

/** An entry of a package to be: new text, or an entry of the source package, copied as compressed bytes. */
export type PlannedEntry = {
  path: string;
  /** Identifier of the item that is defined or shown there. */
  item?: string;
} & (
  | { text: string }
  | { copy: string }
  /** Made when its turn comes, so that not every text is held at once. */
  | { make: () => Promise<string> }
);

export const RANKS = ['particular', 'built', 'plain', 'described', 'any'] as const;
export type Rank = (typeof RANKS)[number];

/** What every format gives. A format is added by adding its folder and one line to the list in `formats/index.ts`. */
export interface Format {
  /** Also the `format` of the origin of every course that was read from it. */
  readonly id: string;
  /** A package of it, of a version, as a person says it. */
  label(version: string): string;
  /**
   * When it is tried beside the others: `particular` formats first, those that are `built` on another format before that
   * one, `any` is what nothing else is.
   */
  readonly rank: Rank;
  readonly targets: readonly Target[];
  /** Whether all that it reads is counted by the ledger, so that what is not read is known. */
  readonly countsUnread?: true;
  /** What makes a package of its files, where they are none. */
  readonly unpacker?: Unpacker;
  /** Whether there is anything in a course that it writes; any course where not given. */
  accepts?(course: Course): boolean;
  /** The version if the package is of this format, else `null`. Reads no more than it needs to tell. */
  detect(pkg: Package): Promise<string | null>;
  read(pkg: Package): Promise<ReadResult>;
  /** The outline without reading any definition, where most of the time would go into those. */
  outline?(pkg: Package): Promise<Outlined>;
  /** Entries in the order they are written; asked for by `planPackage`. Bodies come from `source` by the paths that the course's files have. */
  plan(course: Course, target: Target, source: Package): Promise<PlannedEntry[]>;
}

/** Whether a course goes on as the package it came in, byte for byte. */
export function goesOnWhole({ origin }: Course, { passthrough }: Target): boolean {
  return origin.untouched && passthrough?.(origin) === 'everything';
}

/** Whether a course goes on as the package it came in, in the words of another version. */
export function goesOnExchanged({ origin }: Course, { passthrough }: Target): boolean {
  return origin.untouched && passthrough?.(origin) === 'exchanged';
}

/** For targets that copy packages of their own format and version. */
export function ofVersion(format: string, version: string): NonNullable<Target['passthrough']> {
  return (origin) => (origin.format === format && origin.version === version ? 'everything' : null);
}

/** For targets that copy packages of their own format, which has one version. */
export function ofFormat(format: string): NonNullable<Target['passthrough']> {
  return (origin) => (origin.format === format ? 'everything' : null);
}

export interface WriteProgress {
  done: number;
  total: number;
}

/**
 * Writes planned entries as a package of the target. Where the plan is still being made, what it will most likely carry
 * is written meanwhile; if it does not, writing begins anew.
 */
export async function writePackage(
  target: Target,
  plan: readonly PlannedEntry[] | Promise<readonly PlannedEntry[]>,
  source: Package,
  sink: Sink,
  options: WriteOptions = {},
): Promise<{ size: number; entries: number }> {
  if (target.pack) return target.pack(await plan, source, sink, options);
  return asZip(plan, plan instanceof Promise ? carriedAhead(target, source, sink) : [], source, sink, options);
}

/** From which size on writing ahead is worth it, in all and of one file. */
const AHEAD = 16 << 20;
const LARGE = 1 << 15;

/** What is a medium by its name, where a thread of the sink's own can write it while the manifest is read. */
function carriedAhead(target: Target, source: Package, sink: Sink): Entry[] {
  if (!sink.copy || !sink.rewind || source.sourceFile === null || !target.keepsPaths?.(source)) return [];
  const media = [...source.entries.values()].filter(
    (e) => e.compressedSize >= LARGE && /^(image|audio|video)\//.test(mediaTypeOf(e.path)),
  );
  return media.reduce((sum, e) => sum + e.compressedSize, 0) < AHEAD ? [] : media;
}

/** Referenced entries pass through as they are. */
async function asZip(
  planned: readonly PlannedEntry[] | Promise<readonly PlannedEntry[]>,
  ahead: readonly Entry[],
  source: Package,
  sink: Sink,
  options: WriteOptions,
): Promise<{ size: number; entries: number }> {
  let writer = new ZipWriter(sink, options.engine);
  const [plan] = await Promise.all([planned, writer.copyAll(source, ahead)]);
  // What was planned with is as large as the course, and is wanted no more.
  source.release();
  const done = new Set(ahead.map((e) => e.path));
  const stay = plan.filter((p) => 'copy' in p && p.copy === p.path && done.has(p.path));
  if (stay.length < done.size) {
    await sink.rewind?.();
    writer = new ZipWriter(sink, options.engine);
    done.clear();
  }
  const rest = done.size === 0 ? plan : plan.filter((p) => !done.has(p.path));
  await writeEntries(writer, rest, source, (at) => options.onProgress?.({ done: done.size + at, total: plan.length }));
  return writer.finish();
}

async function writeEntries(
  writer: ZipWriter,
  plan: readonly PlannedEntry[],
  source: Package,
  onDone: (many: number) => void,
): Promise<void> {
  const encoder = new TextEncoder();
  for (let i = 0; i < plan.length;) {
    const planned = plan[i];
    if (!planned) break;
    if (!('copy' in planned)) {
      await writer.add(planned.path, encoder.encode('text' in planned ? planned.text : await planned.make()));
      i++;
    } else {
      // A share of the plan at a time, so that progress can be told.
      const kept: Entry[] = [];
      for (let next = planned; next && 'copy' in next && next.copy === next.path && kept.length < 1000;) {
        kept.push(source.entry(next.copy));
        next = plan[i + kept.length] as typeof planned;
      }
      if (kept.length > 0) await writer.copyAll(source, kept);
      else await writer.copy(planned.path, source, source.entry(planned.copy));
      i += Math.max(1, kept.length);
    }
    onDone(i);
  }
}
