import type { ByteSource } from './byte-source.ts';
import type { Sink } from './zip-writer.ts';

/** A place for what has to be written anew before it can be read by random access. */
export interface Scratch {
  sink: Sink;
  /** What was written, once it is. */
  source(): Promise<ByteSource>;
  /** Lets go of it unfinished; a thread that writes would else wait for more, and its process never end. */
  discard?(): Promise<void>;
}

export type MakeScratch = () => Promise<Scratch>;

/** What `work` writes, as a source of bytes; nothing is held of it where it fails. */
export async function scratched(make: MakeScratch, work: (sink: Sink) => Promise<void>): Promise<ByteSource> {
  const scratch = await make();
  try {
    await work(scratch.sink);
  } catch (error) {
    await scratch.discard?.();
    throw error;
  }
  return scratch.source();
}
