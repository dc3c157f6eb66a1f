import { encode } from 'cborg';
import { portableEngine } from '../../container/index.ts';
import { titlesIn, type Course, type Item, type OutlineNode } from '../../model/index.ts';
import { asHtml } from '../../markup/index.ts';
import type { Pack, PlannedEntry } from '../format.ts';
import { asProfiled } from '../questions.ts';
import { movedTexts } from '../references.ts';
import { writeBy } from '../table.ts';
import { rules, type ItemRecord, type RecordContext } from './item-records.ts';
import { PLACED, QUERNHOLD_ARCHIVE_PROFILE, QUERNHOLD_KINDS } from './kinds.ts';
import { MAGIC, RECORDS } from './unpack.ts';

type ArchiveRecord = { k: string } & { [field: string]: unknown };
/** Bytes of a file in one record. */
const PIECE = 1 << 16;

/** Packs records and files as Quernhold does: a gzipped sequence of CBOR items (RFC 8742). */
export const packArchive: Pack = async (plan, source, sink, { engine = portableEngine, onProgress }) => {
  let size = 0;
  let entries = 0;
  async function* items(): AsyncGenerator<Uint8Array> {
    let count = 0;
    const item = (record: ArchiveRecord): Uint8Array => {
      count++;
      return encode(record);
    };
    for (const planned of plan) {
      if (planned.path === RECORDS) {
        const records = 'text' in planned ? planned.text : new TextDecoder().decode(await source.bytes(RECORDS));
        for (const record of JSON.parse(records) as ArchiveRecord[]) yield item(record);
      } else if ('copy' in planned) {
        yield item({ k: 'file', at: planned.path, size: source.entry(planned.copy).size });
        for await (const chunk of source.stream(planned.copy)) {
          for (let at = 0; at < chunk.length; at += PIECE) {
            yield item({ k: 'piece', d: new Uint8Array(chunk.subarray(at, at + PIECE)) });
          }
        }
      }
      entries++;
      onProgress?.({ done: entries, total: plan.length });
    }
    yield encode({ k: 'end', n: count });
  }
  for await (const bytes of engine.gzip(items())) {
    size += bytes.length;
    await sink.write(bytes);
  }
  return { size, entries };
};

/** Records and files of a course from the model alone. */
export function planArchive(course: Course): PlannedEntry[] {
  const files = course.files.filter((f) => f.role === 'content');
  return [
    { path: RECORDS, text: JSON.stringify([...recordsOf(course)]) },
    ...files.map(({ path }) => ({ path, copy: path })),
  ];
}

function* recordsOf(course: Course): Generator<ArchiveRecord> {
  const { metadata } = course;
  yield {
    k: MAGIC,
    code: metadata.catalogEntry ?? '',
    sec: '',
    term: '',
    ttl: course.title,
    own: '',
    abt: metadata.description ?? '',
    kw: metadata.keywords,
    quota: 2 ** 30,
    ...(metadata.rights === undefined ? {} : { rights: metadata.rights }),
    ...(metadata.language === undefined ? {} : { lang: metadata.language }),
  };
  const context: RecordContext = {
    titleOf: titlesIn(course),
    moved: (item, text) => movedTexts(course, item)('')(asHtml(text)),
    held: (item) => item.questions.flatMap((q) => asProfiled(q, QUERNHOLD_ARCHIVE_PROFILE) ?? []),
  };
  const written = new Map<Item, ItemRecord>();
  for (const item of course.items) {
    const record = writeBy(QUERNHOLD_KINDS, item, context);
    if (record) written.set(item, record);
  }
  yield* treeOf(course, written);
  const ledger = { categories: [] as object[], columns: [] as object[] };
  for (const record of written.values()) {
    if ('ledger' in record) ledger[record.ledger].push(record.line);
    else if ('k' in record) yield record;
  }
  for (const item of course.items) {
    const ruled = PLACED.includes(item.kind) ? rules(item) : null;
    if (ruled) yield ruled as ArchiveRecord;
  }
  yield { k: 'ledger', has: { letters: {}, ...ledger } };
  yield { k: 'linked', has: linked(course) };
}

/** Folders and what stands in them; what stands nowhere follows. */
function* treeOf(course: Course, written: ReadonlyMap<Item, ItemRecord>): Generator<ArchiveRecord> {
  const items = new Map(course.items.map((i) => [i.id, i]));
  const placed = new Set<string>();
  let folders = 0;
  const leaf = function* (item: Item, ttl: string, up: string | null, place: number): Generator<ArchiveRecord> {
    const record = written.get(item);
    if (record && 'sort' in record) yield { k: 'node', up, place, ref: item.id, ttl, ...record };
  };
  const walk = function* (nodes: readonly OutlineNode[], up: string | null): Generator<ArchiveRecord> {
    for (const [place, node] of flat(nodes, items).entries()) {
      const item = node.item === undefined ? undefined : items.get(node.item);
      if (!item) {
        let ref = `folder-${++folders}`;
        while (items.has(ref)) ref += '-';
        const { description: abt } = node.settings ?? {};
        yield { k: 'node', up, place, ref, sort: 'folder', ttl: node.title, was: node.id, ...(abt ? { abt } : {}) };
        const ruled = rules({ id: ref, settings: node.settings ?? {} });
        if (ruled) yield ruled as ArchiveRecord;
        yield* walk(node.children, ref);
      } else if (!placed.has(item.id)) {
        placed.add(item.id);
        yield* leaf(item, node.title, up, place);
      }
    }
  };
  yield* walk(course.outline, null);
  const rest = course.items.filter((i) => !placed.has(i.id));
  for (const [i, item] of rest.entries()) yield* leaf(item, item.title, null, course.outline.length + i);
}

/** Where in the shared repository files lie, by their path. */
function linked(course: Course): { [path: string]: string } {
  return Object.fromEntries(
    course.items.flatMap((i): [string, string][] => {
      const { repository } = i.settings;
      return i.kind === 'file' && repository !== undefined ? [[i.file, repository]] : [];
    }),
  );
}

/** Nodes of a level; what hangs in an item follows it, since only folders hold anything. */
function flat(nodes: readonly OutlineNode[], items: ReadonlyMap<string, Item>): OutlineNode[] {
  return nodes.flatMap((node) =>
    node.item !== undefined && items.has(node.item)
      ? [{ ...node, children: [] }, ...flat(node.children, items)]
      : [node],
  );
}
