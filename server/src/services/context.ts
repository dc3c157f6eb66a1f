import type { Config } from '../config.ts';
import { setHome } from '../platforms/reach.ts';
import { DiskStore, type BlobStore } from '../store/blob-store.ts';

/** What services need beside the database. */
export interface Services {
  config: Config;
  store: BlobStore;
}

export function servicesOf(config: Config): Services {
  setHome(config.homeNets);
  return { config, store: new DiskStore(config.blobs) };
}
