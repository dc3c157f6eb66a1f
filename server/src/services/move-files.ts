import {
  isStreamable,
  mediaTypeOf,
  previewApart,
  previewItem,
  type Item,
  type Package,
  type PreviewView,
} from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import type { PreviewAnswer } from '../contract/index.ts';
import { Copy } from '../db/models/index.ts';
import type { Services } from './context.ts';
import { documentIfAny, readDocument } from './documents.ts';
import { withPackage } from './packages.ts';
import { withWorkingCopy } from './working.ts';
import { missing, moveById } from './move-rows.ts';

/** What is in the course of a move, shown and handed out. */

export interface AskedView extends Pick<PreviewView, 'learner' | 'words'> {
  /** As the working copy has it, with the mends in it. */
  mended?: boolean;
}

/** A preview of one item of what was fetched, or of the working copy. */
export async function previewOfItem(
  services: Services,
  moveId: number,
  itemId: string,
  view: AskedView = {},
): Promise<PreviewAnswer> {
  const { course } = await readDocument(moveId, 'look');
  const item = course.items.find((i) => i.id === itemId);
  if (!item) throw missing('item');
  if (view.mended !== true) return previewFrom(services, moveId, item, { ...view, course });
  return withWorkingCopy(services, await moveById(moveId), async ({ pkg, course: mended }) => {
    const there = mended.items.find((i) => i.id === itemId);
    if (!there) return { form: 'none', why: 'it is left out' };
    return previewItem(pkg, there, nodeEngine, { ...view, course: mended });
  });
}

/** A preview of an item that went, as it was in the copy that it went from. */
export async function previewOfSent(
  services: Services,
  moveId: number,
  sentId: string,
  learner: boolean,
): Promise<PreviewAnswer> {
  const { source, from } = await readDocument(moveId, 'sent');
  const settled = await documentIfAny(moveId, 'settled');
  const calls = Object.entries(settled?.settled.calls ?? {});
  const itemId = calls.find(([, is]) => is === sentId)?.[0] ?? sentId;
  const item = source.items.find((i) => i.id === itemId);
  if (!item) throw missing('item');
  const copy = await Copy.findByPk(from[itemId] ?? 0);
  if (!copy || copy.removedAt !== null) return { form: 'none', why: 'the copy that it went from is kept no more' };
  return withPackage(services, copy.sha256, (pkg) => previewItem(pkg, item, nodeEngine, { learner, course: source }));
}

/** A preview of one item of what arrived: its pages are kept as texts, its files stay at the destination. */
export async function previewOfArrived(moveId: number, itemId: string, learner: boolean): Promise<PreviewAnswer> {
  const course = await readDocument(moveId, 'arrived');
  const item = course.items.find((i) => i.id === itemId);
  if (!item) throw missing('item');
  const kept = await documentIfAny(moveId, 'pages');
  const page = kept?.pages[itemId] ?? null;
  if (item.kind === 'page' && page === null) {
    const why = kept
      ? 'there was no room to keep its text'
      : 'it was checked before texts were kept; check it again to see it';
    return { form: 'none', why };
  }
  return previewApart(item, page, { learner, course });
}

/** One film, sound or picture of what was fetched or of the working copy, to be read part by part. */
export async function withFile(
  services: Services,
  moveId: number,
  path: string,
  mended: boolean,
  work: (file: { size: number; mediaType: string; bytes: () => AsyncIterable<Uint8Array> }) => Promise<void>,
): Promise<void> {
  const give = async (pkg: Package) => {
    const mediaType = mediaTypeOf(path);
    if (!pkg.entries.has(path) || !isStreamable(mediaType)) throw missing('file');
    await work({ size: pkg.entry(path).size, mediaType, bytes: () => pkg.stream(path) });
  };
  const move = await moveById(moveId);
  if (mended) return withWorkingCopy(services, move, ({ pkg }) => give(pkg));
  const copy = move.copyId === null ? null : await Copy.findByPk(move.copyId);
  if (!copy) throw missing('kept copy');
  return withPackage(services, copy.sha256, give);
}

/** A preview of one file of what was fetched. */
export async function previewOfFile(services: Services, moveId: number, path: string): Promise<PreviewAnswer> {
  const item = { kind: 'file' as const, id: path, title: path, definitionPath: path, settings: {}, file: path };
  return previewFrom(services, moveId, item, {});
}

async function previewFrom(services: Services, moveId: number, item: Item, view: PreviewView): Promise<PreviewAnswer> {
  const move = await moveById(moveId);
  const copy = move.copyId === null ? null : await Copy.findByPk(move.copyId);
  if (!copy) throw missing('kept copy');
  return withPackage(services, copy.sha256, (pkg) => previewItem(pkg, item, nodeEngine, view));
}
