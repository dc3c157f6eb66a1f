import {
  bytesSource,
  joinBytes,
  openPackage,
  documentOf,
  ZipWriter,
  type Engine,
  type Limits,
  type Package,
  type Unpacker,
} from '../../container/index.ts';
import { Refusal, problem } from '../../model/index.ts';
import { pageOf } from '../archive/parts.ts';
import { fitsTo } from './fits.ts';
import type { Description } from './language.ts';
import { filesOf, readDescribed } from './read.ts';
import { Records } from './records.ts';

/** Makes a package of a described archive: files under the names people know them by, pages of the texts in records. */
export function unpackerOf(description: Description): Unpacker {
  const { container, fits } = description;
  return {
    id: description.id,
    ofPackage: {
      fits: (pkg) => container === 'files' && new Records(pkg, description, [], null).files(fits.file).length > 0,
      unpack: (pkg, writer) => unpack(pkg, description, writer),
    },
    ...(container === 'files'
      ? {}
      : {
          ofBytes: {
            fits: (head) => new TextDecoder('latin1').decode(head).includes(container.begins),
            async unpack(chunks, writer, _notes, limits) {
              await unpack(await packageOfDocument(chunks, container.document, limits), description, writer);
            },
          },
        }),
  };
}

/** A package of one document, for what is no package. @throws Refusal `text-too-long` */
export async function packageOfDocument(
  chunks: AsyncIterable<Uint8Array>,
  name: string,
  limits: Limits,
  engine?: Engine,
): Promise<Package> {
  const bytes = await documentOf(chunks, limits);
  const zipped: Uint8Array[] = [];
  const writer = new ZipWriter({ write: async (bytes) => void zipped.push(bytes.slice()) }, engine);
  await writer.add(name, bytes);
  await writer.finish();
  return openPackage(bytesSource(joinBytes(zipped)), { limits, ...(engine ? { engine } : {}) });
}

async function unpack(pkg: Package, description: Description, writer: ZipWriter): Promise<void> {
  // Its name alone does not make a file the one that is described: what is of another kind stays as it is.
  if (!(await fitsTo(pkg, description))) {
    await writer.copyAll(pkg, [...pkg.entries.values()]);
    return;
  }
  const records = new Records(pkg, description, [], null);
  await records.prepare();
  const { held, base64 } = await filesOf(records);
  const { pages } = await readDescribed(pkg, description);
  const written = new Set<string>();
  for (const entry of pkg.entries.values()) {
    const path = held.get(entry.path) ?? entry.path;
    if (written.has(path)) continue;
    written.add(path);
    await writer.copy(path, pkg, entry);
  }
  for (const [path, text] of base64) {
    if (written.has(path)) continue;
    written.add(path);
    await writer.add(path, bytesOf(text));
  }
  for (const { path, title, body } of pages) {
    if (written.has(path)) continue;
    written.add(path);
    await writer.add(path, new TextEncoder().encode(pageOf(title, body)));
  }
}

/** @throws Refusal `archive-damaged` */
function bytesOf(text: string): Uint8Array {
  try {
    return Uint8Array.from(atob(text.replace(/\s+/g, '')), (c) => c.charCodeAt(0));
  } catch (error) {
    throw new Refusal(problem('archive-damaged', 'A file inside a document is not Base64 (RFC 4648).'), {
      cause: error,
    });
  }
}
