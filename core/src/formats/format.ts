import type { Package, Sink } from '../container/index.ts';
import { ZipWriter, type Engine, type Entry } from '../container/index.ts';
import type { Course, Note, Profile } from '../model/index.ts';

/** A version of a format that Treenail writes. */
export interface Target {
  /** Stable word for the API and the command line: `cc13`. */
  readonly id: string;
  readonly label: string;
  readonly version: string;
  readonly extension: string;
  /** What the format can hold; the losses of writing to it are the forecast against this. */
  readonly profile: Profile;
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

/** An entry of a package to be: new text, or an entry of the source package, copied as compressed bytes. */
export type PlannedEntry =
  | { path: string; text: string }
  | { path: string; copy: string }
  /** Made when its turn comes, so that not every text is held at once. */
  | { path: string; make: () => Promise<string> };

/** What every format gives. A format is added by adding its folder and one line to the list in `formats/index.ts`. */
export interface Format {
  readonly id: string;
  readonly targets: readonly Target[];
  /** The version if the package is of this format, else `null`. Reads no more than it needs to tell. */
  detect(pkg: Package): Promise<string | null>;
  read(pkg: Package): Promise<ReadResult>;
  /** Entries in the order they are written. Bodies come from `source` by the paths that the course's files have. */
  plan(course: Course, target: Target, source: Package): Promise<PlannedEntry[]>;
}

export interface WriteProgress {
  done: number;
  total: number;
}

/** Writes planned entries as a package of the target. */
export function writePackage(
  target: Target,
  plan: readonly PlannedEntry[],
  source: Package,
  sink: Sink,
  options: WriteOptions = {},
): Promise<{ size: number; entries: number }> {
  return (target.pack ?? asZip)(plan, source, sink, options);
}

/** Referenced entries pass through as they are. */
async function asZip(
  plan: readonly PlannedEntry[],
  source: Package,
  sink: Sink,
  options: WriteOptions,
): Promise<{ size: number; entries: number }> {
  const writer = new ZipWriter(sink, options.engine);
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
    options.onProgress?.({ done: i, total: plan.length });
  }
  return writer.finish();
}
