import * as z from 'zod';
import type { Connector, ConnectorOptions, Giver, ListedCourse, PlatformKind, RemoteState } from '../contract.ts';
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

class QuernholdConnector implements Connector, Giver {
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

  /** Quernhold has no keys of its own, but repeats a free note: a bundle that bears ours was asked for before. */
  async startExport(remoteId: string, key: string): Promise<string> {
    const { bundles } = await this.client.json('/bundles', Bundles, { query: { note: key } });
    const before = bundles.find((b) => b.course === remoteId);
    if (before) return before.bundle;
    const asked = await this.client.json(`/courses/${encodeURIComponent(remoteId)}/bundles`, Bundle, {
      method: 'POST',
      json: { form: 'cartridge-1.1', note: key },
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
