import { joinBytes, documentOf, type Package, type Unpacker } from '../../container/index.ts';
import { decodeText, xml } from '../../markup/index.ts';
import { remark } from '../../model/index.ts';
import { MANIFEST } from '../imscp/manifest.ts';
import { encodePath } from '../references.ts';
import { DECLARATION, itemType, testType, type QtiVersion } from '../qti2/names.ts';

/** Questions that came without a package around them: one file, or a zip of files without a manifest. */

/** The first element of a file of questions, with its attributes. */
const ROOT =
  /^\s*(?:<\?[\s\S]*?\?>\s*|<!--[\s\S]*?-->\s*|<!DOCTYPE[^[>]*(?:\[[\s\S]*?\])?>\s*)*<(?:[\w.-]+:)?(questestinterop|(?:qti-)?assessment-?(item|test|section))\b([^>]*)/i;

/** The type of a resource that a text of questions is, or `null`. */
function typeOf(text: string): string | null {
  const [, name, what, attributes = ''] = ROOT.exec(text.replace(/^\ufeff/, '')) ?? [];
  if (name === undefined) return null;
  if (name === 'questestinterop') return 'imsqti_xmlv1p2';
  const version: QtiVersion =
    /v3p0/.test(attributes) || name.startsWith('qti-') ? '3.0' : /v2p2/.test(attributes) ? '2.2' : '2.1';
  switch (what?.toLowerCase()) {
    case 'item':
      return itemType(version);
    case 'section':
      return testType(version).replace('test', 'section');
    default:
      return testType(version);
  }
}

/** How much of a file is looked at to tell whether it holds questions. */
const LOOKED_AT = 4096;

async function typeAt(pkg: Package, path: string): Promise<string | null> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of pkg.stream(path)) {
    parts.push(part);
    size += part.length;
    if (size >= LOOKED_AT) break;
  }
  return typeOf(decodeText(joinBytes(parts).subarray(0, LOOKED_AT)));
}

const xmlIn = (pkg: Package) => [...pkg.entries.keys()].filter((path) => /\.xml$/i.test(path));

function manifest(resources: readonly { path: string; type: string }[]): Uint8Array {
  const text = xml(
    'manifest',
    { identifier: 'questions', xmlns: 'http://www.imsglobal.org/xsd/imscp_v1p1' },
    xml('organizations', {}),
    xml(
      'resources',
      {},
      ...resources.map(({ path, type }, i) =>
        xml(
          'resource',
          { identifier: `r_${i + 1}`, type, href: encodePath(path) },
          xml('file', { href: encodePath(path) }),
        ),
      ),
    ),
  );
  return new TextEncoder().encode(DECLARATION + text);
}

const MADE = remark(
  'manifest-made',
  'The questions came without a manifest: they are read by what each file is, in the order of their names.',
);

export const bareQuestions: Unpacker = {
  id: 'qti-bare',
  ofBytes: {
    fits: (head) => typeOf(decodeText(head)) !== null,
    async unpack(chunks, writer, notes, limits) {
      const bytes = await documentOf(chunks, limits);
      const path = 'questions.xml';
      await writer.add(path, bytes);
      await writer.add(MANIFEST, manifest([{ path, type: typeOf(decodeText(bytes)) ?? '' }]));
      notes.push(MADE);
    },
  },
  ofPackage: {
    async fits(pkg) {
      if (pkg.entries.has(MANIFEST)) return false;
      // What is a package of something else has few files of questions among the first of its own.
      for (const path of xmlIn(pkg).slice(0, 3)) if ((await typeAt(pkg, path)) !== null) return true;
      return false;
    },
    async unpack(pkg, writer, notes) {
      for (const entry of pkg.entries.values()) await writer.copy(entry.path, pkg, entry);
      const found: { path: string; type: string }[] = [];
      for (const path of xmlIn(pkg).sort()) {
        const type = await typeAt(pkg, path);
        if (type !== null) found.push({ path, type });
      }
      await writer.add(MANIFEST, manifest(found));
      notes.push(MADE);
    },
  },
};
