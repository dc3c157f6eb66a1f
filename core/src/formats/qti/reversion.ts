import type { Package } from '../../container/index.ts';
import { child, declaredUtf8, decodeText, elements, openTagsWith, splice, type Splice } from '../../markup/index.ts';
import { Refusal } from '../../model/index.ts';
import type { PlannedEntry } from '../format.ts';
import { MANIFEST, readManifest } from '../imscp/manifest.ts';
import type { QtiVersion } from '../qti2/names.ts';
import { exchanged } from './exchange.ts';

/** What each version's manifest says of itself (Content Packaging profiles of QTI 2.1, 2.2 and 3.0). */
export const MANIFESTS: Record<QtiVersion, { schema: string; version: string; namespace: string }> = {
  '2.1': { schema: 'QTIv2.1 Package', version: '1.0.0', namespace: 'http://www.imsglobal.org/xsd/imscp_v1p1' },
  '2.2': { schema: 'QTIv2.2 Package', version: '1.0.0', namespace: 'http://www.imsglobal.org/xsd/imscp_v1p1' },
  '3.0': {
    schema: 'QTI Package',
    version: '3.0.0',
    namespace: 'http://www.imsglobal.org/xsd/qti/qtiv3p0/imscp_v1p1',
  },
};

/**
 * A package of QTI 2.1, 2.2 or 3.0 as one of another of them, for courses that nothing has reshaped: definitions are
 * exchanged in place, and every other file passes through untouched, under the path that it has.
 */
export async function planReversion(source: Package, to: QtiVersion): Promise<PlannedEntry[]> {
  const { text } = await readManifest(source);
  const entries: PlannedEntry[] = [{ path: MANIFEST, text: await manifestAs(source, text, to) }];
  for (const path of source.entries.keys()) {
    if (path === MANIFEST) continue;
    const text = /\.xml$/i.test(path) ? await exchangedFile(source, path, to) : null;
    entries.push(text === null ? { path, copy: path } : { path, text });
  }
  return entries;
}

/** `null` for what is none of QTI, and for what can't be parsed: nothing was read of it either. */
async function exchangedFile(source: Package, path: string, to: QtiVersion): Promise<string | null> {
  try {
    const text = decodeText(await source.bytes(path));
    const now = exchanged(text, path, to, source.limits.xmlDepth);
    return now === text ? null : declaredUtf8(now);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return null;
  }
}

async function manifestAs(source: Package, given: string, to: QtiVersion): Promise<string> {
  const { root } = await readManifest(source);
  const { schema, version, namespace } = MANIFESTS[to];
  const splices: Splice[] = [];
  for (const [name, words] of [
    ['schema', schema],
    ['schemaversion', version],
  ] as const) {
    for (const element of elements(child(root, 'metadata'), name)) {
      splices.push({ start: element.openEnd, end: element.closeStart, text: words });
    }
  }
  const [major, minor] = to.split('.');
  const spelled = `v${major}p${minor}`;
  for (const { start, tag } of openTagsWith(given, /imsqti_|imscp_v1p1/g)) {
    const changed = tag
      .replace(/(imsqti_\w*?xml)v\dp\d/g, `$1${spelled}`)
      .replace(/(imsqti_metadata_)v\dp\d/g, `$1${spelled}`)
      .replace(/(xmlns(?::\w+)?\s*=\s*["'])[^"']*imscp_v1p1(["'])/g, `$1${namespace}$2`)
      .replace(/http:\/\/www\.imsglobal\.org\/xsd\/(?:qti\/qtiv3p0\/)?imscp_v1p1(?=\s)/g, namespace);
    if (changed !== tag) splices.push({ start, end: start + tag.length, text: changed });
  }
  return declaredUtf8(splice(given, splices));
}
