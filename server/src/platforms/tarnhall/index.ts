import { Profile, type KnownAddresses } from '@treenail/core';
import * as z from 'zod';
import type {
  About,
  Connector,
  ConnectorOptions,
  ConnectedTool,
  CourseThere,
  Estimate,
  ExportForm,
  ExportOptions,
  SourceSide,
  ListedCourse,
  LogLine,
  Part,
  PlatformKind,
  RemoteExport,
  RemoteState,
  ShellRequest,
  DestinationSide,
} from '../contract.ts';
import { PlatformClient } from '../http.ts';
import { weightOf } from '../parts.ts';
import { explainLog } from './log.ts';
import profile from './profile.json' with { type: 'json' };
import { Contents, spaceAsItStands } from './read-back.ts';

const Space = z.object({
  id: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  keeper: z.string(),
  changedAt: z.iso.datetime(),
  bytes: z.number(),
});
const Spaces = z.object({ spaces: z.array(Space) });
const Drop = z.object({ id: z.string(), bytes: z.number(), got: z.number() });
const Drops = z.object({ drops: z.array(Drop) });
const Run = z.object({
  run: z.string(),
  state: z.enum(['standing', 'unpacking', 'ended', 'broken']),
  ahead: z.number(),
  done: z.number(),
  total: z.number(),
  log: z.array(z.string()),
});
const Runs = z.object({ runs: z.array(Run) });

export const TARNHALL_PROFILE: Profile = Profile.parse(profile);

const PeopleThere = z.object({
  people: z.array(z.object({ part: z.enum(['tutor', 'learner']) })),
  work: z.array(z.object({ entry: z.string() })),
  shut: z.boolean(),
  turn: z.number(),
  /** Older ones say nothing of it, and let their key do all. */
  may: z.enum(['change', 'read']).default('change'),
});

const Told = z.object({ standing: z.number(), each: z.number() });

const CrateState = z.object({
  crate: z.string(),
  state: z.enum(['packing', 'packed', 'broken']),
  percent: z.number(),
  bytes: z.number().nullable(),
  space: z.string().default(''),
  remark: z.string().default(''),
  begun: z.iso.datetime().nullable().default(null),
});
const Crates = z.object({ crates: z.array(CrateState) });

/** What Tarnhall calls its entries, in the trade's words. */
const SORTS: Readonly<Record<string, string>> = {
  text: 'page',
  pointer: 'web link',
  talk: 'discussion',
  task: 'assignment',
  test: 'quiz',
  launcher: 'external tool',
};

const FORMS: readonly ExportForm[] = [
  {
    id: 'standard',
    label: 'Common Cartridge 1.2',
    extension: 'imscc',
    lacks: ['names of pools', 'tasks (they become pages)', 'time limits', 'replies to single answers'],
  },
  { id: 'archive', label: 'Tarnhall crate', extension: 'zip', lacks: [] },
];

const Tools = z.object({ tools: z.array(z.object({ name: z.string(), address: z.url() })) });

class TarnhallConnector implements Connector, SourceSide, DestinationSide {
  readonly source = this;
  readonly forms = FORMS;
  readonly exportsCount = false;
  readonly destination = this;
  readonly profile = TARNHALL_PROFILE;
  readonly takes: DestinationSide['takes'] = [
    { target: 'cc13', own: false, more: 'added' },
    { target: 'tarnhall', own: true, more: 'named' },
  ];
  private readonly client: PlatformClient;
  private readonly baseUrl: string;

  constructor(options: ConnectorOptions) {
    this.baseUrl = options.baseUrl;
    this.client = new PlatformClient({
      baseUrl: `${options.baseUrl}/api`,
      headers: { Authorization: `Key ${options.credential}` },
    });
  }

  async about(): Promise<About> {
    const { standing, each } = await this.client.json('/about', Told);
    return { queue: standing, each };
  }

  async listCourses(): Promise<ListedCourse[]> {
    const { spaces } = await this.client.json('/spaces', Spaces);
    return spaces.map((s) => ({
      remoteId: s.id,
      code: s.code,
      section: s.section,
      term: s.term,
      title: s.title,
      owner: s.keeper,
      size: s.bytes,
      changedAt: new Date(s.changedAt),
      parts: null,
    }));
  }

  readonly sharedFile = null;

  async addresses(remoteId: string): Promise<KnownAddresses> {
    return { platform: [this.baseUrl], course: remoteId, items: [], courses: [], repository: [] };
  }

  async parts(remoteId: string): Promise<Part[]> {
    const { units, pools, files } = await this.client.json(
      `/spaces/${encodeURIComponent(remoteId)}/contents`,
      Contents,
    );
    const sizes = new Map(files.map((f) => [f.id, f.bytes]));
    const part = (ref: string, title: string, kind: string, bytes: number, inside: Part[] = []): Part => ({
      ref,
      title,
      kind,
      bytes,
      inside,
    });
    return [
      ...units.map((u) => {
        const inside = u.entries
          .filter((e) => e.sort !== 'heading')
          .map((e) => {
            const held = [...(e.file === null ? [] : [e.file]), ...e.files];
            const bytes = held.reduce((sum, id) => sum + (sizes.get(id) ?? 0), e.body.length);
            return part(e.id, e.title, SORTS[e.sort] ?? e.sort, bytes);
          });
        return part(
          u.id,
          u.title,
          'folder',
          inside.reduce((sum, p) => sum + p.bytes, 0),
          inside,
        );
      }),
      ...pools.map((p) => part(p.id, p.title, 'bank', 0)),
    ];
  }

  async estimate(remoteId: string, { parts }: ExportOptions): Promise<Estimate> {
    const [spaces, { each }] = await Promise.all([this.listCourses(), this.about()]);
    const whole = { bytes: spaces.find((s) => s.remoteId === remoteId)?.size ?? null, items: null };
    const cost = parts === null ? whole : weightOf(await this.parts(remoteId), parts);
    return { ...cost, ahead: 0, seconds: each };
  }

  async startExport(remoteId: string, { form, parts }: ExportOptions, key: string): Promise<string> {
    const found = this.client.json('/crates', Crates, { query: { remark: key } });
    const json = { remark: key, as: form === 'archive' ? 'crate' : 'cartridge', parts };
    const { crate } = await this.client.once(
      found.then(({ crates }) => crates),
      () => this.client.json(`/spaces/${encodeURIComponent(remoteId)}/crates`, CrateState, { method: 'POST', json }),
    );
    return crate;
  }

  async exportState(exportId: string): Promise<RemoteState> {
    const crate = await this.client.json(`/crates/${encodeURIComponent(exportId)}`, CrateState);
    if (crate.state === 'packed') return { state: 'ready', size: crate.bytes };
    if (crate.state === 'broken') return { state: 'failed', why: 'Tarnhall could not pack the crate.' };
    return { state: 'working', done: crate.percent, total: 100, unit: '%' };
  }

  async download(exportId: string, offset: number, signal: AbortSignal): Promise<AsyncIterable<Uint8Array>> {
    return this.client.bytes(`/crates/${encodeURIComponent(exportId)}/crate`, offset, signal);
  }

  async removeExport(exportId: string): Promise<void> {
    await this.client.remove(`/crates/${encodeURIComponent(exportId)}`);
  }

  async exports(): Promise<RemoteExport[]> {
    const { crates } = await this.client.json('/crates', Crates);
    return crates.map(({ crate, space, bytes, state, begun, remark }) => ({
      id: crate,
      remoteId: space,
      bytes,
      ready: state === 'packed',
      madeAt: begun === null ? null : new Date(begun),
      note: remark,
    }));
  }

  readonly there: CourseThere = {
    identifiers: 'overwritten',
    address: (space) => `${this.baseUrl}/space/${space}`,
    standing: async (space) => {
      const at = `/spaces/${encodeURIComponent(space)}`;
      // Who is in it is asked last: what changes between the two is seen as a change then.
      const { units, pools, files } = await this.client.json(`${at}/contents`, Contents);
      const { people, work, shut, turn, may } = await this.client.json(`${at}/people`, PeopleThere);
      const parts = [...units, ...units.flatMap((u) => u.entries), ...pools, ...files];
      const inPart = (part: string) => people.filter((p) => p.part === part).length;
      return {
        tutors: inPart('tutor'),
        learners: inPart('learner'),
        work: work.length,
        workedIn: [...new Set(work.map((w) => w.entry))],
        shut,
        mayChange: may === 'change',
        turn: String(turn),
        held: parts.map((p) => p.id),
      };
    },
    clear: (space, key) => this.client.act(`/spaces/${encodeURIComponent(space)}/clear`, { remark: key }),
    remove: (space, parts) => this.client.act(`/spaces/${encodeURIComponent(space)}/without`, { parts }),
    removeCourse: (space) => this.client.remove(`/spaces/${encodeURIComponent(space)}`),
  };

  readonly connectedTools = async (): Promise<ConnectedTool[]> => (await this.client.json('/tools', Tools)).tools;

  readonly stopImport = async (importId: string): Promise<void> => {
    await this.client.remove(`/runs/${encodeURIComponent(importId)}`);
  };

  async createShell(shell: ShellRequest, key: string): Promise<{ id: string; url: string }> {
    const space = await this.client.once(
      this.client.json('/spaces', Spaces, { query: { remark: key } }).then(({ spaces }) => spaces),
      () => this.client.json('/spaces', Space, { method: 'POST', json: { ...shell, remark: key } }),
    );
    return { id: space.id, url: `${this.baseUrl}/space/${space.id}` };
  }

  async startUpload(size: number, key: string): Promise<{ uploadId: string; got: number }> {
    const drop = await this.client.once(
      this.client.json('/drops', Drops, { query: { remark: key } }).then(({ drops }) => drops),
      () => this.client.json('/drops', Drop, { method: 'POST', json: { bytes: size, remark: key } }),
      ({ bytes }) => bytes === size,
    );
    return { uploadId: drop.id, got: drop.got };
  }

  async upload(uploadId: string, offset: number, body: AsyncIterable<Uint8Array>, signal: AbortSignal): Promise<void> {
    await this.client.put(`/drops/${encodeURIComponent(uploadId)}`, offset, body, signal);
  }

  async startImport(shellId: string, uploadId: string, key: string): Promise<string> {
    const json = { drop: uploadId, mode: 'beside', remark: key };
    const { run } = await this.client.once(
      this.client.json('/runs', Runs, { query: { remark: key } }).then(({ runs }) => runs),
      () => this.client.json(`/spaces/${encodeURIComponent(shellId)}/runs`, Run, { method: 'POST', json }),
    );
    return run;
  }

  async importState(importId: string): Promise<RemoteState> {
    const run = await this.run(importId);
    switch (run.state) {
      case 'standing':
        return { state: 'waiting', ahead: run.ahead };
      case 'unpacking':
        return { state: 'working', done: run.done, total: run.total, unit: 'items' };
      case 'ended':
        return { state: 'ready', size: null };
      case 'broken':
        return { state: 'failed', why: `Tarnhall stopped unpacking: ${run.log.at(-1) ?? 'it does not say why'}` };
    }
  }

  async importLog(importId: string): Promise<LogLine[]> {
    return (await this.run(importId)).log.map(explainLog);
  }

  async readBack(shellId: string) {
    const [contents, { spaces }] = await Promise.all([
      this.client.json(`/spaces/${encodeURIComponent(shellId)}/contents`, Contents),
      this.client.json('/spaces', Spaces),
    ]);
    return spaceAsItStands(spaces.find((s) => s.id === shellId)?.title ?? '', contents);
  }

  private run(id: string): Promise<z.infer<typeof Run>> {
    return this.client.json(`/runs/${encodeURIComponent(id)}`, Run);
  }
}

export const tarnhall: PlatformKind = {
  id: 'tarnhall',
  connected: true,
  label: 'Tarnhall',
  connect: (options) => new TarnhallConnector(options),
};
