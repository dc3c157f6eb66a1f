import type { KnownAddresses } from '@treenail/core';
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
  Part,
  PlatformKind,
  RemoteExport,
  RemoteState,
} from '../contract.ts';
import { PlatformClient } from '../http.ts';
import { weightOf } from '../parts.ts';

const Books = z.object({
  books: z.array(
    z.object({
      id: z.string(),
      code: z.string(),
      group: z.string(),
      year: z.string(),
      name: z.string(),
      author: z.string(),
      edited: z.iso.datetime(),
      size: z.number(),
      parts: z.number(),
    }),
  ),
});
const Told = z.object({ each: z.number() });
const named = { key: z.string(), name: z.string() };
const Lessons = z.object({
  halves: z.array(
    z.object({
      ...named,
      lessons: z.array(
        z.object({ ...named, parts: z.array(z.object({ ...named, sort: z.string(), weighs: z.number().default(0) })) }),
      ),
    }),
  ),
});
const Parcel = z.object({
  id: z.string(),
  state: z.enum(['wrapping', 'wrapped', 'torn', 'expired']),
  share: z.number(),
  size: z.number().nullable(),
  until: z.iso.datetime().nullable(),
  book: z.string().default(''),
  reference: z.string().default(''),
  begun: z.iso.datetime().nullable().default(null),
});
const Parcels = z.object({ parcels: z.array(Parcel) });

/** What Oxlea calls its parts, in the trade's words. */
const SORTS: Readonly<Record<string, string>> = {
  reading: 'page',
  handout: 'file',
  web: 'web link',
  talk: 'discussion',
  piece: 'assignment',
  test: 'quiz',
};

const FORMS: readonly ExportForm[] = [
  { id: 'standard', label: 'Common Cartridge 1.3', extension: 'imscc', lacks: ['tests', 'worth of pieces', 'dates'] },
  { id: 'archive', label: 'Oxlea parcel', extension: 'zip', lacks: [] },
];

/** Oxlea: no queue, a reference that is taken once, and parcels that are thrown away after a day. */
class OxleaConnector implements Connector, SourceSide {
  readonly source = this;
  readonly destination = null;
  readonly forms = FORMS;
  readonly exportsCount = false;
  private readonly client: PlatformClient;
  private readonly baseUrl: string;

  constructor(options: ConnectorOptions) {
    this.baseUrl = options.baseUrl;
    this.client = new PlatformClient({
      baseUrl: `${options.baseUrl}/v1`,
      headers: { Authorization: `Bearer ${options.credential}` },
    });
  }

  async about(): Promise<About> {
    const { each } = await this.client.json('/about', Told);
    return { queue: 0, each };
  }

  async listCourses(): Promise<ListedCourse[]> {
    const { books } = await this.client.json('/books', Books);
    return books.map((b) => ({
      remoteId: b.id,
      code: b.code,
      section: b.group,
      term: b.year,
      title: b.name,
      owner: b.author,
      size: b.size,
      changedAt: new Date(b.edited),
      parts: b.parts,
    }));
  }

  readonly sharedFile = null;

  async addresses(remoteId: string): Promise<KnownAddresses> {
    return { platform: [this.baseUrl], course: remoteId, items: [], courses: [], repository: [] };
  }

  async parts(remoteId: string): Promise<Part[]> {
    const { halves } = await this.client.json(`/books/${encodeURIComponent(remoteId)}/lessons`, Lessons);
    const folder = (ref: string, title: string, inside: Part[]): Part => {
      return { ref, title, kind: 'folder', bytes: inside.reduce((sum, p) => sum + p.bytes, 0), inside };
    };
    return halves.map((half) =>
      folder(
        half.key,
        half.name,
        half.lessons.map((lesson) =>
          folder(
            lesson.key,
            lesson.name,
            lesson.parts
              .filter((p) => p.sort !== 'line')
              .map((p) => ({ ref: p.key, title: p.name, kind: SORTS[p.sort] ?? p.sort, bytes: p.weighs, inside: [] })),
          ),
        ),
      ),
    );
  }

  /** Oxlea does not say what a parcel will weigh; its library's size, which it does say, is the most it can be. */
  async estimate(remoteId: string, options: ExportOptions): Promise<Estimate> {
    const [{ books }, { each }] = await Promise.all([
      this.client.json('/books', Books),
      this.client.json('/about', Told),
    ]);
    const book = books.find((b) => b.id === remoteId);
    if (options.parts === null)
      return { bytes: book?.size ?? null, items: book?.parts ?? null, ahead: 0, seconds: each };
    const { bytes, items } = weightOf(await this.parts(remoteId), options.parts);
    return { bytes, items, ahead: 0, seconds: each };
  }

  async startExport(remoteId: string, { form, parts, personal }: ExportOptions, key: string): Promise<string> {
    const parcel = await this.client.json(`/books/${encodeURIComponent(remoteId)}/parcels`, Parcel, {
      method: 'POST',
      json: {
        as: form === 'archive' ? 'parcel' : 'cartridge',
        reference: key,
        lessons: parts === null ? null : await this.lessonsOf(remoteId, parts),
        readers: personal,
      },
    });
    return parcel.id;
  }

  async exportState(exportId: string): Promise<RemoteState> {
    const parcel = await this.client.json(`/parcels/${encodeURIComponent(exportId)}`, Parcel);
    switch (parcel.state) {
      case 'wrapping':
        return { state: 'working', done: Math.round(parcel.share * 100), total: 100, unit: '%' };
      case 'wrapped':
        return { state: 'ready', size: parcel.size, expiresAt: parcel.until === null ? null : new Date(parcel.until) };
      case 'expired':
        return { state: 'gone' };
      case 'torn':
        return { state: 'failed', why: 'Oxlea could not wrap the parcel.' };
    }
  }

  async download(exportId: string, offset: number, signal: AbortSignal): Promise<AsyncIterable<Uint8Array>> {
    return this.client.bytes(`/parcels/${encodeURIComponent(exportId)}/parcel`, offset, signal);
  }

  async removeExport(exportId: string): Promise<void> {
    await this.client.remove(`/parcels/${encodeURIComponent(exportId)}`);
  }

  async exports(): Promise<RemoteExport[]> {
    const { parcels } = await this.client.json('/parcels', Parcels);
    return parcels
      .filter((p) => p.state !== 'expired')
      .map(({ id, book, size, state, begun, reference }) => ({
        id,
        remoteId: book,
        bytes: size,
        ready: state === 'wrapped',
        madeAt: begun === null ? null : new Date(begun),
        note: reference,
      }));
  }

  /** A half stands for its lessons. */
  private async lessonsOf(remoteId: string, parts: readonly string[]): Promise<string[]> {
    const halves = await this.parts(remoteId);
    return parts.flatMap((ref) => halves.find((h) => h.ref === ref)?.inside.map((l) => l.ref) ?? [ref]);
  }
}

export const oxlea: PlatformKind = {
  id: 'oxlea',
  connected: true,
  label: 'Oxlea',
  connect: (options) => new OxleaConnector(options),
};
