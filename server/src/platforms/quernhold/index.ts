import * as z from 'zod';
import type {
  About,
  Connector,
  ConnectorOptions,
  Estimate,
  ExportForm,
  ExportOptions,
  Giver,
  ListedCourse,
  Part,
  PlatformKind,
  RemoteState,
} from '../contract.ts';
import { PlatformClient } from '../http.ts';

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
});
const Bundles = z.object({ bundles: z.array(Bundle) });

const Told = z.object({ queue: z.number(), each: z.number() });
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

const FORMS: readonly ExportForm[] = [
  {
    id: 'standard',
    label: 'Common Cartridge 1.1',
    extension: 'imscc',
    lacks: ['due dates', 'conditions', 'checklists', 'automations', 'attendance', 'the gradebook', 'rubrics', 'groups'],
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

class QuernholdConnector implements Connector, Giver {
  readonly forms = FORMS;
  readonly exportsCount = true;
  readonly giver = this;
  readonly taker = null;
  private readonly client: PlatformClient;

  constructor(options: ConnectorOptions) {
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
    const { bundles } = await this.client.json('/bundles', Bundles, { query: { note: key } });
    const before = bundles.find((b) => b.course === remoteId);
    if (before) return before.bundle;
    const asked = await this.client.json(`/courses/${encodeURIComponent(remoteId)}/bundles`, Bundle, {
      method: 'POST',
      json: { ...askOf(options), note: key },
    });
    return asked.bundle;
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
    const headers: Record<string, string> = offset > 0 ? { Range: `bytes=${offset}-` } : {};
    const response = await this.client.send(`/bundles/${encodeURIComponent(exportId)}/file`, { headers }, signal);
    if (!response.body) throw new Error('an answer without a body');
    return response.body;
  }

  async removeExport(exportId: string): Promise<void> {
    await this.client.send(
      `/bundles/${encodeURIComponent(exportId)}`,
      { method: 'DELETE' },
      AbortSignal.timeout(20_000),
    );
  }
}

export const quernhold: PlatformKind = {
  id: 'quernhold',
  label: 'Quernhold',
  connect: (options) => new QuernholdConnector(options),
};
