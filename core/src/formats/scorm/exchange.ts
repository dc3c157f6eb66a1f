import type { Package } from '../../container/index.ts';
import { child, declaredUtf8, descendants, splice, textOf, type Splice } from '../../markup/index.ts';
import type { PlannedEntry } from '../format.ts';
import { MANIFEST, readManifest } from '../imscp/manifest.ts';

/**
 * Editions of SCORM 2004 have their words in common (4th Edition CAM, appendix of changes): what the 4th says of a package
 * otherwise is its version, and how much of an object makes it complete. All else of a package stays as it is, its sequencing too.
 */
export async function planExchange(source: Package, schemaVersion: string): Promise<PlannedEntry[]> {
  const { text, root } = await readManifest(source);
  const splices: Splice[] = [];
  const version = child(root, 'metadata', 'schemaversion');
  if (version) splices.push({ start: version.openEnd, end: version.closeStart, text: schemaVersion });
  for (const e of descendants(root)) {
    const threshold = e.name === 'completionThreshold' ? textOf(e).trim() : '';
    if (threshold === '') continue;
    // It was a number by itself, and is an attribute beside the one that says it counts (4th Edition CAM 3.4.1.9.3).
    const opened = text.slice(e.start, e.openEnd - 1);
    const attributes = ` completedByMeasure="true" minProgressMeasure="${threshold}"`;
    splices.push({ start: e.start, end: e.end, text: `${opened}${attributes}/>` });
  }
  const manifest = declaredUtf8(splice(text, splices));
  return [...source.entries.keys()].map((path) =>
    path === MANIFEST ? { path, text: manifest } : { path, copy: path },
  );
}
