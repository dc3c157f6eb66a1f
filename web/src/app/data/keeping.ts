import { Injectable, computed, inject, signal } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import type { Problem } from '@treenail/core';
import { ProblemDocument, type Intake } from '@treenail/server/contract';
import { filter, map, takeWhile, type Observable } from 'rxjs';
import { DetailedError, Upload } from 'tus-js-client';
import { JobsService } from './jobs';

/** How far the keeping of a file is. */
export type Keeping =
  | { state: 'sending'; fileName: string; done: number; total: number }
  | { state: 'reading'; fileName: string; job: number }
  | { state: 'kept'; fileName: string; job: number }
  | { state: 'refused'; fileName: string; problem: Problem };

const ENDPOINT = '/api/uploads';

/**
 * Sends files to be kept. An upload goes on while the person is elsewhere in Treenail; one that was broken off, by a
 * reload as by a lost line, goes on from what had arrived when the same file is kept again.
 */
@Injectable({ providedIn: 'root' })
export class KeepingService {
  private readonly jobs = inject(JobsService);
  private readonly byKey = signal<ReadonlyMap<string, Keeping>>(new Map());
  readonly all = this.byKey.asReadonly();
  private readonly all$ = toObservable(this.byKey);
  readonly sending = computed(() => [...this.byKey().values()].filter((k) => k.state === 'sending'));
  readonly sending$ = toObservable(this.sending);

  constructor() {
    this.jobs.changed$.subscribe((job) => {
      for (const [key, keeping] of this.byKey()) {
        if (keeping.state !== 'reading' || keeping.job !== job.id) continue;
        const { fileName } = keeping;
        if (job.state === 'done') this.put(key, { state: 'kept', fileName, job: job.id });
        if (job.state === 'failed' && job.problem) {
          this.put(key, { state: 'refused', fileName, problem: job.problem });
        }
      }
    });
  }

  /** `resumable` is for bytes that can be told by their file's name and date; those packed here can not. */
  keep(key: string, blob: Blob, asked: Intake, resumable: boolean): void {
    const running = this.byKey().get(key);
    if (running && running.state !== 'refused') return;
    const { fileName } = asked;
    this.put(key, { state: 'sending', fileName, done: 0, total: blob.size });
    const upload = new Upload(blob as File, {
      endpoint: ENDPOINT,
      metadata: metadataOf(asked),
      retryDelays: [500, 2000, 5000, 10_000, 20_000],
      removeFingerprintOnSuccess: true,
      storeFingerprintForResuming: resumable,
      fingerprint: () => Promise.resolve(resumable ? fingerprintOf(blob, asked) : ''),
      onProgress: (done, total) => this.put(key, { state: 'sending', fileName, done, total }),
      onSuccess: ({ lastResponse }) => this.sent(key, fileName, Number(lastResponse.getHeader('Treenail-Job'))),
      onError: (error) => this.put(key, { state: 'refused', fileName, problem: problemOf(error) }),
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        return status === 0 || status >= 500 || status === 409 || status === 423;
      },
    });
    void this.start(upload, resumable);
  }

  /** How the keeping under this key goes, until it is kept or refused. */
  settled(key: string): Observable<Keeping> {
    return this.all$.pipe(
      map((all) => all.get(key)),
      filter((keeping) => keeping !== undefined),
      takeWhile((keeping) => keeping.state !== 'kept' && keeping.state !== 'refused', true),
    );
  }

  /** Lets go of what is settled under this key. */
  forget(key: string): void {
    this.byKey.update((all) => {
      const left = new Map(all);
      left.delete(key);
      return left;
    });
  }

  private async start(upload: Upload, resumable: boolean): Promise<void> {
    const [before] = resumable ? await upload.findPreviousUploads() : [];
    if (before) upload.resumeFromPreviousUpload(before);
    upload.start();
  }

  private sent(key: string, fileName: string, job: number): void {
    // The job may have ended before the answer came.
    const known = this.jobs.jobs().find((j) => j.id === job);
    if (known?.state === 'done') this.put(key, { state: 'kept', fileName, job });
    else if (known?.state === 'failed' && known.problem)
      this.put(key, { state: 'refused', fileName, problem: known.problem });
    else this.put(key, { state: 'reading', fileName, job });
  }

  private put(key: string, keeping: Keeping): void {
    this.byKey.update((all) => new Map(all).set(key, keeping));
  }
}

/** Metadata of an upload is text (tus 1.0). */
function metadataOf({ courseId, ...asked }: Intake): Record<string, string> {
  return courseId === undefined ? asked : { ...asked, courseId: String(courseId) };
}

function fingerprintOf(blob: Blob, asked: Intake): string {
  const changed = blob instanceof File ? blob.lastModified : 0;
  return [
    'treenail',
    asked.fileName,
    blob.size,
    changed,
    asked.code,
    asked.section,
    asked.term,
    asked.title,
    asked.courseId,
  ].join('|');
}

function problemOf(error: Error | DetailedError): Problem {
  const answer = error instanceof DetailedError ? error.originalResponse : null;
  const document = ProblemDocument.safeParse(parsed(answer?.getBody() ?? ''));
  if (document.success) {
    const { code, detail, action } = document.data;
    return { code, message: detail, action };
  }
  if (answer?.getStatus() === 413) {
    return {
      code: 'upload-too-long',
      message: 'The file is longer than this Treenail takes in.',
      action: 'Ask whoever runs Treenail to raise the limit, or work on the file here on the Bench.',
    };
  }
  return {
    code: 'upload-broken-off',
    message: 'The upload broke off.',
    action: 'Keep the file again: it goes on from what had arrived.',
  };
}

function parsed(body: string): unknown {
  try {
    return JSON.parse(body);
  } catch {
    return null;
  }
}
