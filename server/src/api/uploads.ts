import { mkdir, statfs } from 'node:fs/promises';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import type { Request, RequestHandler } from 'express';
import * as z from 'zod';
import { takeIn } from '../services/intake.ts';
import type { Config } from '../config.ts';
import { diskFull } from '../trouble.ts';
import { Intake } from '../contract/index.ts';
import { personIn } from './session.ts';

const KEPT_MS = 7 * 86_400_000;
export const UPLOADS = '/api/uploads';

/** Resumable uploads (tus 1.0): any part of a file that has arrived stays, and a later request goes on from there. */
export function uploads(config: Config): { handle: RequestHandler; sweep: () => Promise<number> } {
  const store = new FileStore({ directory: config.uploads, expirationPeriodInMilliseconds: KEPT_MS });
  const server = new Server({
    path: UPLOADS,
    datastore: store,
    maxSize: config.uploadBytes,
    relativeLocation: true,
    onUploadCreate: async (_req, upload) => {
      const intake = Intake.safeParse(asIntake(upload));
      // What tus takes for a refusal is this shape, not an error.
      // eslint-disable-next-line @typescript-eslint/only-throw-error
      if (!intake.success) throw refusal('invalid-request', z.prettifyError(intake.error), 'Fill in what is missing.');
      await mkdir(config.uploads, { recursive: true });
      const { bavail, bsize } = await statfs(config.uploads);
      // Stopped before the disk is full: the database and what is kept lie on it too.
      if (bavail * bsize < (upload.size ?? 0) + config.reserveBytes) {
        const { code, message, action } = diskFull();
        // eslint-disable-next-line @typescript-eslint/only-throw-error
        throw refusal(code, message, action, 507);
      }
      return {};
    },
    onUploadFinish: async (req, upload) => {
      const asking = req.runtime?.node?.req as unknown as Request;
      const job = await takeIn(personIn(asking), upload.id, Intake.parse(asIntake(upload)));
      return { headers: { 'Treenail-Job': String(job) } };
    },
  });
  return {
    handle: (req, res) => server.handle(req, res),
    /** Removes uploads that nobody went on with. Gives how many. */
    sweep: () => server.cleanUpExpiredUploads(),
  };
}

/** An empty value comes as none at all (tus 1.0, Upload-Metadata). */
function asIntake({ metadata = {} }: Upload): unknown {
  const given = Object.fromEntries(Object.entries(metadata).map(([key, value]) => [key, value ?? '']));
  return { code: '', section: '', term: '', title: '', ...given };
}

function refusal(code: string, detail: string, action: string, status = 400) {
  const body = { type: `urn:treenail:problem:${code}`, title: detail, status, code, detail, action };
  return { status_code: status, body: JSON.stringify(body) };
}
