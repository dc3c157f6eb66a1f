import type { Package } from '../../container/index.ts';
import { findAll, openDocument } from './documents.ts';
import type { Description } from './language.ts';
import { Records } from './records.ts';

/** Whether an archive is of the kind that is described. @throws Refusal what its documents refuse */
export async function fitsTo(pkg: Package, description: Description): Promise<boolean> {
  const { file, has } = description.fits;
  for (const path of new Records(pkg, description, [], null).files(file)) {
    if (has === undefined) return true;
    const doc = await openDocument(pkg, path);
    if (has.startsWith('$') === (doc.form === 'json') && findAll(doc, doc.root, has).length > 0) return true;
  }
  return false;
}
