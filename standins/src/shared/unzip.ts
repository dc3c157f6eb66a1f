import yauzl from 'yauzl';

/** A package that was sent in, by its entries. */
export interface Unzipped {
  names: string[];
  bytes(name: string): Promise<Buffer | null>;
  size(name: string): number;
  close(): void;
}

/** @throws Error where it is no zip */
export async function unzip(path: string): Promise<Unzipped> {
  const zip = await yauzl.openPromise(path, { lazyEntries: true, autoClose: false });
  const entries = new Map<string, yauzl.Entry>();
  for await (const entry of zip.eachEntry()) if (!entry.fileName.endsWith('/')) entries.set(entry.fileName, entry);
  return {
    names: [...entries.keys()],
    size: (name) => entries.get(name)?.uncompressedSize ?? 0,
    async bytes(name) {
      const entry = entries.get(name);
      if (!entry) return null;
      const stream = await zip.openReadStreamPromise(entry);
      const parts: Buffer[] = [];
      for await (const part of stream) parts.push(part as Buffer);
      return Buffer.concat(parts);
    },
    close: () => zip.close(),
  };
}
