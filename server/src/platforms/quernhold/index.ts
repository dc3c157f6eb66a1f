import { setTimeout } from 'node:timers/promises';
import { Profile, type KnownAddresses } from '@treenail/core';
import * as z from 'zod';
import type {
  About,
  Connector,
  ConnectorOptions,
  Estimate,
  ExportForm,
  ExportOptions,
  SourceSide,
  ListedCourse,
  LogLine,
  Part,
  PlatformKind,
  ReadBack,
  RemoteExport,
  RemoteState,
  ShellRequest,
  DestinationSide,
  CourseThere,
} from '../contract.ts';
import { PlatformClient, PlatformTrouble } from '../http.ts';
import profile from './profile.json' with { type: 'json' };
import { readArchive } from './read-back.ts';

/** How often a bundle is asked after while a check waits for it. */
const POLL_MS = 1000;

const Courses = z.object({
  courses: z.array(
    z.object({
      id: z.string(),
      code: z.string(),
      section: z.string(),
      term: z.string(),
      title: z.string(),
      owner: z.string(),
      changed: z.iso.datetime(),
      bytes: z.number(),
      parts: z.number(),
    }),
  ),
});

const Bundle = z.object({
  bundle: z.string(),
  course: z.string().nullable(),
  state: z.enum(['waiting', 'building', 'ready', 'failed']),
  ahead: z.number(),
  percent: z.number(),
  bytes: z.number().nullable(),
  note: z.string().default(''),
  asked: z.iso.datetime().nullable().default(null),
});
const Bundles = z.object({ bundles: z.array(Bundle) });

const Told = z.object({ queue: z.number(), each: z.number(), home: z.url().optional() });
const Cost = z.object({ bytes: z.number(), parts: z.number(), ahead: z.number(), seconds: z.number() });
const QPart: z.ZodType<Part> = z.object({
  ref: z.string(),
  title: z.string(),
  kind: z.string(),
  bytes: z.number(),
  get inside() {
    return z.array(QPart);
  },
});
const Parts = z.object({ parts: z.array(QPart) });

export const QUERNHOLD_PROFILE: Profile = Profile.parse(profile);

const MadeCourse = z.object({ id: z.string() });
const Made = z.object({ courses: z.array(MadeCourse) });
const Arrival = z.object({ id: z.string(), bytes: z.number(), got: z.number() });
const Arrivals = z.object({ arrivals: z.array(Arrival) });
const Restore = z.object({
  id: z.string(),
  state: z.enum(['waiting', 'unpacking', 'restored', 'failed']),
  ahead: z.number(),
  percent: z.number(),
  log: z.array(z.string()),
});
const Restores = z.object({ restores: z.array(Restore) });

const Members = z.object({
  tutors: z.array(z.string()),
  learners: z.array(z.string()),
  work: z.array(z.string()),
  closed: z.boolean(),
  turn: z.number(),
  refs: z.array(z.string()),
  files: z.array(z.string()),
});

/** How files are told from all else among what a course holds: both are named by free words. */
const FILE = 'file ';

const FORMS: readonly ExportForm[] = [
  {
    id: 'standard',
    label: 'Common Cartridge 1.1',
    extension: 'imscc',
    lacks: [
      'due dates',
      'conditions',
      'checklists',
      'automations',
      'attendance',
      'the gradebook',
      'rubrics',
      'groups',
      'glossaries',
    ],
  },
  { id: 'archive', label: 'Quernhold archive', extension: 'quern', lacks: [] },
];

function askOf({ form, parts, copyLinked, personal }: ExportOptions) {
  return {
    form: form === 'archive' ? 'archive' : 'cartridge-1.1',
    parts,
    linked: copyLinked ? 'copy' : 'leave',
    people: personal,
  };
}

class QuernholdConnector implements Connector, SourceSide, DestinationSide {
  readonly forms = FORMS;
  readonly exportsCount = true;
  readonly source = this;
  readonly destination = this;
  readonly profile = QUERNHOLD_PROFILE;
  readonly takes: DestinationSide['takes'] = [
    { target: 'quernhold', own: true, more: 'instead' },
    { target: 'cc11', own: false, more: 'added' },
  ];
  private readonly client: PlatformClient;
  private readonly baseUrl: string;

  constructor(options: ConnectorOptions) {
    this.baseUrl = options.baseUrl;
    this.client = new PlatformClient({
      baseUrl: `${options.baseUrl}/api`,
      headers: { 'X-Quernhold-Token': options.credential },
    });
  }

  async listCourses(): Promise<ListedCourse[]> {
    const { courses } = await this.client.json('/courses', Courses);
    return courses.map(({ id, changed, bytes, ...rest }) => ({
      ...rest,
      remoteId: id,
      size: bytes,
      changedAt: new Date(changed),
    }));
  }

  async about(): Promise<About> {
    return this.client.json('/about', Told);
  }

  async addresses(remoteId: string): Promise<KnownAddresses> {
    const home = await this.home();
    return {
      platform: [home, this.baseUrl],
      course: remoteId,
      items: ['/course/(?<course>[^/?#]+)/item/(?<item>[^/?#]+)'],
      courses: ['/course/(?<course>[^/?#]+)'],
      repository: [`${home}/repository/`],
    };
  }

  readonly sharedFile = async (address: string, signal: AbortSignal): Promise<AsyncIterable<Uint8Array>> => {
    const below = `${await this.home()}/repository/`;
    // Only what lies in the repository is asked for, whatever a page says.
    const path = new URL(address).href;
    if (!path.startsWith(below)) throw new RangeError(`${address} is not in the repository`);
    return this.client.bytes(`/repository/${path.slice(below.length)}`, 0, signal);
  };

  /** What the platform calls itself in its pages. */
  private async home(): Promise<string> {
    const { home } = await this.client.json('/about', Told);
    return home ?? this.baseUrl;
  }

  async parts(remoteId: string): Promise<Part[]> {
    return (await this.client.json(`/courses/${encodeURIComponent(remoteId)}/parts`, Parts)).parts;
  }

  async estimate(remoteId: string, options: ExportOptions): Promise<Estimate> {
    const { bytes, parts, ahead, seconds } = await this.client.json(
      `/courses/${encodeURIComponent(remoteId)}/estimate`,
      Cost,
      { method: 'POST', json: askOf(options) },
    );
    return { bytes, items: parts, ahead, seconds };
  }

  /** Quernhold has no keys of its own, but repeats a free note: a bundle that bears ours was asked for before. */
  async startExport(remoteId: string, options: ExportOptions, key: string): Promise<string> {
    const json = { ...askOf(options), note: key };
    const { bundle } = await this.client.once(
      this.client.json('/bundles', Bundles, { query: { note: key } }).then(({ bundles }) => bundles),
      () => this.client.json(`/courses/${encodeURIComponent(remoteId)}/bundles`, Bundle, { method: 'POST', json }),
      ({ course }) => course === remoteId,
    );
    return bundle;
  }

  async exportState(exportId: string): Promise<RemoteState> {
    const bundle = await this.client.json(`/bundles/${encodeURIComponent(exportId)}`, Bundle);
    switch (bundle.state) {
      case 'waiting':
        return { state: 'waiting', ahead: bundle.ahead };
      case 'building':
        return { state: 'working', done: bundle.percent, total: 100, unit: '%' };
      case 'ready':
        return { state: 'ready', size: bundle.bytes };
      case 'failed':
        return { state: 'failed', why: 'Quernhold could not build the bundle.' };
    }
  }

  async download(exportId: string, offset: number, signal: AbortSignal): Promise<AsyncIterable<Uint8Array>> {
    return this.client.bytes(`/bundles/${encodeURIComponent(exportId)}/file`, offset, signal);
  }

  async removeExport(exportId: string): Promise<void> {
    await this.client.remove(`/bundles/${encodeURIComponent(exportId)}`);
  }

  async exports(): Promise<RemoteExport[]> {
    const { bundles } = await this.client.json('/bundles', Bundles);
    return bundles.flatMap(({ bundle, course, bytes, state, asked, note }) =>
      course === null
        ? []
        : {
            id: bundle,
            remoteId: course,
            bytes,
            ready: state === 'ready',
            madeAt: asked === null ? null : new Date(asked),
            note,
          },
    );
  }

  readonly there: CourseThere = {
    // What comes in a cartridge gets numbers of Quernhold's own.
    identifiers: 'doubled',
    address: (course) => `${this.baseUrl}/course/${course}`,
    standing: async (course) => {
      const there = await this.client.json(`/courses/${encodeURIComponent(course)}/members`, Members);
      return {
        tutors: there.tutors.length,
        learners: there.learners.length,
        work: there.work.length,
        workedIn: [...new Set(there.work)],
        shut: there.closed,
        mayChange: true,
        turn: String(there.turn),
        held: [...there.refs, ...there.files.map((path) => FILE + path)],
      };
    },
    clear: (course, key) => this.client.act(`/courses/${encodeURIComponent(course)}/emptied`, { note: key }),
    remove: (course, held) =>
      this.client.act(`/courses/${encodeURIComponent(course)}/removals`, {
        refs: held.filter((name) => !name.startsWith(FILE)),
        files: held.filter((name) => name.startsWith(FILE)).map((name) => name.slice(FILE.length)),
      }),
    removeCourse: (course) => this.client.remove(`/courses/${encodeURIComponent(course)}`),
  };

  readonly connectedTools = null;

  readonly stopImport = async (importId: string): Promise<void> => {
    await this.client.remove(`/restores/${encodeURIComponent(importId)}`);
  };

  async createShell(shell: ShellRequest, key: string): Promise<{ id: string; url: string }> {
    const made = await this.client.once(
      this.client.json('/courses', Made, { query: { note: key } }).then(({ courses }) => courses),
      () => this.client.json('/courses', MadeCourse, { method: 'POST', json: { ...shell, note: key } }),
    );
    return { id: made.id, url: `${this.baseUrl}/course/${made.id}` };
  }

  async startUpload(size: number, key: string): Promise<{ uploadId: string; got: number }> {
    const arrival = await this.client.once(
      this.client.json('/arrivals', Arrivals, { query: { note: key } }).then(({ arrivals }) => arrivals),
      () => this.client.json('/arrivals', Arrival, { method: 'POST', json: { bytes: size, note: key } }),
      ({ bytes }) => bytes === size,
    );
    return { uploadId: arrival.id, got: arrival.got };
  }

  async upload(uploadId: string, offset: number, body: AsyncIterable<Uint8Array>, signal: AbortSignal): Promise<void> {
    await this.client.put(`/arrivals/${encodeURIComponent(uploadId)}`, offset, body, signal);
  }

  async startImport(shellId: string, uploadId: string, key: string): Promise<string> {
    const json = { arrival: uploadId, note: key };
    const { id } = await this.client.once(
      this.client.json('/restores', Restores, { query: { note: key } }).then(({ restores }) => restores),
      () => this.client.json(`/courses/${encodeURIComponent(shellId)}/restores`, Restore, { method: 'POST', json }),
    );
    return id;
  }

  async importState(importId: string): Promise<RemoteState> {
    const restore = await this.restore(importId);
    switch (restore.state) {
      case 'waiting':
        return { state: 'waiting', ahead: restore.ahead };
      case 'unpacking':
        return { state: 'working', done: restore.percent, total: 100, unit: '%' };
      case 'restored':
        return { state: 'ready', size: null };
      case 'failed':
        return {
          state: 'failed',
          why: `Quernhold could not restore it: ${restore.log.at(-1) ?? 'it does not say why'}`,
        };
    }
  }

  async importLog(importId: string): Promise<LogLine[]> {
    return (await this.restore(importId)).log.map((line) => ({ line, words: wordsOf(line), item: null }));
  }

  /** Quernhold shows a course whole in its archive only: one is asked for, read, and removed again. */
  async readBack(shellId: string, signal: AbortSignal): Promise<ReadBack> {
    const key = `treenail check ${shellId} ${Date.now()}`;
    const whole: ExportOptions = { form: 'archive', parts: null, copyLinked: true, personal: false };
    const bundle = await this.startExport(shellId, whole, key);
    try {
      for (;;) {
        const { state } = await this.exportState(bundle);
        if (state === 'ready') break;
        if (state !== 'waiting' && state !== 'working')
          throw new PlatformTrouble('Quernhold could not build its archive');
        await setTimeout(POLL_MS, undefined, { signal });
      }
      return await readArchive(await this.download(bundle, 0, signal));
    } finally {
      await this.removeExport(bundle);
    }
  }

  private restore(id: string): Promise<z.infer<typeof Restore>> {
    return this.client.json(`/restores/${encodeURIComponent(id)}`, Restore);
  }
}

/** Its log is short, and plain already but for its beginnings. */
function wordsOf(line: string): string {
  const files = /^(\d+) files, names made lower case$/.exec(line);
  if (files) return `${files[1]} files were taken in, their names made lower case.`;
  const out = /^left out: (.*), a (\S+)$/.exec(line);
  if (out) return `“${out[1]}” was left out: Quernhold does not know its kind (${out[2]}).`;
  const found = /^restored: (\d+) at the top, (\d+) banks$/.exec(line);
  return found ? `It was taken in: ${found[1]} things at the top, ${found[2]} question banks.` : line;
}

export const quernhold: PlatformKind = {
  id: 'quernhold',
  connected: true,
  label: 'Quernhold',
  connect: (options) => new QuernholdConnector(options),
};
