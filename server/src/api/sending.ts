import { Refusal, problem } from '@treenail/core';
import type { Request, Response } from 'express';
import type { Logger } from 'pino';
import { markDamaged } from '../services/strongroom.ts';
import { BlobDamaged, type BlobStore } from '../store/blob-store.ts';
import { refuse } from './problems.ts';

interface Blob {
  sha256: string;
  size: number;
  fileName: string;
}

interface Part {
  start: number;
  /** The last byte. */
  end: number;
}

/** The part of so many bytes that is asked for (RFC 9110, 14); `null` where there is none, and it was said so. */
export function askedPart(req: Request, res: Response, size: number): Part | null {
  const ranges = req.range(size);
  if (ranges === -1) {
    res.status(416).set('Content-Range', `bytes */${size}`).end();
    return null;
  }
  res.set('Accept-Ranges', 'bytes');
  const part = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : undefined;
  if (part) res.status(206).set('Content-Range', `bytes ${part.start}-${part.end}/${size}`);
  const { start, end } = part ?? { start: 0, end: size - 1 };
  res.set('Content-Length', String(end - start + 1));
  return { start, end };
}

/** Sends a part of what is read from its start: what is packed can't be read from its middle. */
export async function sendPart(res: Response, bytes: AsyncIterable<Uint8Array>, { start, end }: Part): Promise<void> {
  let at = 0;
  for await (const chunk of bytes) {
    const piece = chunk.subarray(Math.max(0, start - at), Math.max(0, end + 1 - at));
    at += chunk.length;
    if (piece.length > 0 && !res.write(piece)) {
      await new Promise((done) => res.once('drain', done).once('close', done));
    }
    if (at > end || res.destroyed) break;
  }
  res.end();
}

const DAMAGED = 'The kept bytes are not what they were: the disk has changed them.';

export type SendBlob = (req: Request, res: Response, blob: Blob) => void;

/** Sends a kept file, or the part of it that is asked for (RFC 9110, 14): packages are looked into without being taken whole. */
export function blobSender(store: BlobStore, log: Logger): SendBlob {
  return (req, res, { sha256, size, fileName }) => {
    const part = askedPart(req, res, size);
    if (part === null) return;
    // Packages are packed already; packed once more they could not be gone on with from where they broke off.
    res.attachment(fileName).type('application/octet-stream').set('Cache-Control', 'no-store, no-transform');
    // All of it is verified as it goes; of a part there is nothing to hold it against.
    const isWhole = part.start === 0 && part.end === size - 1;
    const stream = store.stream(sha256, isWhole ? undefined : part);
    stream.on('error', (error) => {
      // Cut off before its end: whoever takes it sees that it is not whole. Of a short one nothing is sent yet.
      if (res.headersSent || !(error instanceof BlobDamaged)) res.destroy(error);
      else refuse(res, new Refusal(problem('copy-damaged', DAMAGED)));
      log.error({ err: error, sha256 }, 'a kept file could not be sent to its end');
      if (!(error instanceof BlobDamaged)) return;
      markDamaged(error.sha256).catch((why: unknown) => {
        log.error({ err: why, sha256 }, 'that a kept file is damaged could not be written down');
      });
    });
    // Whoever goes away in the middle leaves no open file behind.
    res.once('close', () => stream.destroy());
    stream.pipe(res);
  };
}
