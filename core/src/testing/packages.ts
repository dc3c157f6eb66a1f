import yazl from 'yazl';
import { bytesSource, collect, openPackage, ZipWriter, type OpenOptions, type Package } from '../container/index.ts';

/** Packages made in memory for tests. */
export type Files = Record<string, string | Uint8Array>;

export function memorySink(): { write(bytes: Uint8Array): Promise<void>; bytes(): Uint8Array } {
  const parts: Uint8Array[] = [];
  return {
    async write(bytes) {
      parts.push(bytes.slice());
    },
    bytes: () => new Uint8Array(Buffer.concat(parts)),
  };
}

/** By Treenail's own writer. */
export async function zipOf(files: Files): Promise<Uint8Array> {
  const sink = memorySink();
  const writer = new ZipWriter(sink);
  for (const [path, body] of Object.entries(files)) {
    await writer.add(path, typeof body === 'string' ? new TextEncoder().encode(body) : body);
  }
  await writer.finish();
  return sink.bytes();
}

/** By another hand: yazl writes data descriptors and its own flags. */
export async function foreignZipOf(files: Files, compress = true): Promise<Uint8Array> {
  const zip = new yazl.ZipFile();
  for (const [path, body] of Object.entries(files)) zip.addBuffer(Buffer.from(body), path, { compress });
  zip.end();
  return collect(zip.outputStream as AsyncIterable<Uint8Array>);
}

export async function packageOf(files: Files, options: OpenOptions = {}): Promise<Package> {
  return openPackage(bytesSource(await zipOf(files)), options);
}

/** A small cartridge 1.1 whose manifest can be spoiled. */
export function cartridge(more: { resources?: string; items?: string; files?: Files; version?: string } = {}): Files {
  const version = more.version ?? '1.1';
  const v = `v${version.replace('.', 'p')}`;
  return {
    'imsmanifest.xml': `<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscc${v}/imscp_v1p1">
<metadata><schema>IMS Common Cartridge</schema><schemaversion>${version}.0</schemaversion></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="root">
<item identifier="i1" identifierref="r1"><title>First page</title></item>${more.items ?? ''}
</item></organization></organizations>
<resources><resource identifier="r1" type="webcontent" href="a.html"><file href="a.html"/></resource>${more.resources ?? ''}</resources>
</manifest>`,
    'a.html': '<html><body><h1>First</h1><p>Text</p></body></html>',
    ...more.files,
  };
}
