import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { JobSummary } from '@treenail/server/contract';
import { Subject } from 'rxjs';
import { DetailedError, Upload, type HttpResponse, type PreviousUpload } from 'tus-js-client';
import { job } from '../testing/made';
import { JobsService } from './jobs';
import { KeepingService } from './keeping';

const ASKED = {
  fileName: 'loft.zip',
  code: 'BTB 210',
  section: '01',
  term: 'Autumn 2026',
  title: 'Wooden Boat Repair',
};
const FILE = new File(['a package'], 'loft.zip', { lastModified: 1000 });

const answer = (status: number, body = '', headers: Record<string, string> = {}): HttpResponse => ({
  getStatus: () => status,
  getBody: () => body,
  getHeader: (name) => headers[name],
  getUnderlyingObject: () => null,
});
const refused = (response: HttpResponse | null) =>
  Object.assign(new DetailedError('refused'), { originalResponse: response });

describe('Keeping a file', () => {
  let keeping: KeepingService;
  let sent: Upload[];
  let before: PreviousUpload[];
  let resumed: PreviousUpload[];
  const jobs = signal<JobSummary[]>([]);
  let changed: Subject<JobSummary>;
  const one = () => keeping.all().get('k');
  /** The upload that was begun last, once it was. */
  const upload = async () => {
    await Promise.resolve();
    await Promise.resolve();
    const last = sent.at(-1);
    if (!last) throw new Error('nothing is sent');
    return last;
  };
  const arrive = (it: Upload, id: number) =>
    it.options.onSuccess?.({ lastResponse: answer(200, '', { 'Treenail-Job': String(id) }) });
  const problem = () => {
    const it = one();
    if (it?.state !== 'refused') throw new Error(`not refused but ${it?.state ?? 'unknown'}`);
    return it.problem;
  };

  beforeEach(() => {
    sent = [];
    before = [];
    resumed = [];
    jobs.set([]);
    changed = new Subject();
    spyOn(Upload.prototype, 'start').and.callFake(function (this: Upload) {
      sent.push(this);
    });
    spyOn(Upload.prototype, 'findPreviousUploads').and.callFake(() => Promise.resolve(before));
    spyOn(Upload.prototype, 'resumeFromPreviousUpload').and.callFake((previous) => resumed.push(previous));
    TestBed.configureTestingModule({
      providers: [{ provide: JobsService, useValue: { jobs, changed$: changed } }],
    });
    keeping = TestBed.inject(KeepingService);
  });

  it('is told from the first byte until the copy is kept', async () => {
    keeping.keep('k', FILE, ASKED, true);
    expect(one()).toEqual({ state: 'sending', fileName: 'loft.zip', done: 0, total: 9 });
    const it = await upload();
    expect(it.options.metadata).toEqual(ASKED);
    it.options.onProgress?.(4, 9);
    expect(keeping.sending().map((k) => k.state === 'sending' && k.done)).toEqual([4]);
    arrive(it, 31);
    expect(one()).toEqual({ state: 'reading', fileName: 'loft.zip', job: 31 });
    changed.next(job(30, 'done'));
    changed.next(job(31, 'running'));
    expect(one()?.state).toBe('reading');
    changed.next(job(31, 'done'));
    expect(one()).toEqual({ state: 'kept', fileName: 'loft.zip', job: 31 });
    keeping.forget('k');
    expect(keeping.all().size).toBe(0);
  });

  it('says what the reader refused', async () => {
    const why = { code: 'not-a-zip', message: 'This is not a zip file.', action: 'Choose another.' };
    keeping.keep('k', FILE, ASKED, true);
    arrive(await upload(), 31);
    changed.next(job(31, 'failed', { problem: why }));
    expect(problem()).toEqual(why);
  });

  it('knows of a job that had ended before its number came', async () => {
    const why = { code: 'not-a-zip', message: 'This is not a zip file.', action: 'Choose another.' };
    jobs.set([job(31, 'done'), job(32, 'failed', { problem: why })]);
    keeping.keep('k', FILE, ASKED, true);
    arrive(await upload(), 31);
    expect(one()?.state).toBe('kept');
    keeping.forget('k');
    keeping.keep('k', FILE, ASKED, true);
    arrive(await upload(), 32);
    expect(problem()).toEqual(why);
  });

  it('is sent once, however often it is asked for, and again after it was refused', async () => {
    keeping.keep('k', FILE, ASKED, true);
    keeping.keep('k', FILE, ASKED, true);
    const it = await upload();
    expect(sent.length).toBe(1);
    it.options.onError?.(new Error('cut'));
    keeping.keep('k', FILE, ASKED, true);
    await upload();
    expect(sent.length).toBe(2);
  });

  it('goes on from what had arrived, where the file can be told again', async () => {
    const previous = { size: 9, metadata: {}, creationTime: '', urlStorageKey: 'u' } as PreviousUpload;
    before = [previous];
    keeping.keep('k', FILE, ASKED, true);
    const it = await upload();
    expect(resumed).toEqual([previous]);
    expect(it.options.storeFingerprintForResuming).toBeTrue();
    keeping.keep('packed', new Blob(['made here']), ASKED, false);
    const packed = await upload();
    expect(resumed.length).toBe(1);
    expect(packed.options.storeFingerprintForResuming).toBeFalse();
  });

  it('takes a file for another one when it was changed, or is to be kept for another course', async () => {
    const print = async (file: File, asked = ASKED) => {
      keeping.keep('k', file, asked, true);
      const it = await upload();
      keeping.forget('k');
      return it.options.fingerprint?.(file, it.options);
    };
    const prints = [
      await print(FILE),
      await print(new File(['a package'], 'loft.zip', { lastModified: 2000 })),
      await print(new File(['a package!'], 'loft.zip', { lastModified: 1000 })),
      await print(FILE, { ...ASKED, section: '02' }),
    ];
    expect(new Set(prints).size).toBe(4);
    expect(await print(new File(['a package'], 'loft.zip', { lastModified: 1000 }))).toBe(prints[0]);
  });

  it('says why it was not taken, in the server’s words where it has any', async () => {
    const cases: [Error, string][] = [
      [
        refused(
          answer(
            507,
            JSON.stringify({
              type: 'about:blank',
              title: 'No room',
              status: 507,
              code: 'no-room',
              detail: 'The disk is full.',
              action: 'Make room.',
            }),
          ),
        ),
        'no-room',
      ],
      [refused(answer(413)), 'upload-too-long'],
      [refused(answer(500, '<h1>Bad gateway</h1>')), 'upload-broken-off'],
      [refused(null), 'upload-broken-off'],
      [new Error('cut'), 'upload-broken-off'],
    ];
    for (const [error, code] of cases) {
      keeping.keep('k', FILE, ASKED, true);
      (await upload()).options.onError?.(error);
      expect(problem().code).toBe(code);
      expect(problem().action).not.toBe('');
    }
  });

  it('is tried again where that can help, and not where it was refused', async () => {
    keeping.keep('k', FILE, ASKED, true);
    const it = await upload();
    const again = (response: HttpResponse | null) =>
      it.options.onShouldRetry?.(refused(response), 0, it.options) ?? 'not asked';
    expect([null, answer(502), answer(423), answer(409)].map(again)).toEqual([true, true, true, true]);
    expect([answer(413), answer(400), answer(401)].map(again)).toEqual([false, false, false]);
  });
});
