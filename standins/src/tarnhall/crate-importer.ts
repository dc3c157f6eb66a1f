import { createHash } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import * as z from 'zod';
import type { Unzipped } from '../shared/unzip.ts';
import type { ImportProgress } from './importer.ts';
import { TEntry, TQuestion, type TSpace, type TUnit } from './model.ts';
import { putEntry } from './space.ts';

const CrateFile = z.object({ id: z.string(), path: z.string(), blob: z.string(), media: z.string().optional() });
const Crate = z.object({
  title: z.string(),
  about: z.record(z.string(), z.unknown()).nullable().default(null),
  units: z.array(z.string()),
  pools: z.array(z.string()),
  files: z.array(CrateFile),
  /** What the crate speaks of and does not hold: it stands in the space already. */
  there: z
    .object({
      entries: z.array(z.object({ id: z.string(), origin: z.string() })),
      files: z.array(z.object({ id: z.string(), sha256: z.string() })),
    })
    .default({ entries: [], files: [] }),
});
const Unit = z.object({
  title: z.string(),
  origin: z.string().nullable(),
  loose: z.boolean().default(false),
  hidden: z.boolean().default(false),
  entries: z.array(z.string()),
});
const Entry = TEntry.omit({ questions: true }).extend({ asks: z.array(z.string()).default([]) });
/** Crates that others packed may say nothing of a question's marks. */
const Ask = TQuestion.extend({
  marks: z
    .number()
    .nullable()
    .transform((marks) => marks ?? 1),
});
const Pool = z.object({ title: z.string(), origin: z.string().nullable(), asks: z.array(z.string()) });

/** Unpacks Tarnhall's own archive into a space, exactly: units, entries, tests, pools and files as they were. */
export async function unpackCrate(
  zip: Unzipped,
  space: TSpace,
  folder: string,
  newId: (kind: string) => string,
  progress: ImportProgress,
): Promise<void> {
  const read = async <S extends z.ZodType>(path: string, schema: S): Promise<z.infer<S>> => {
    const bytes = await zip.bytes(path);
    if (!bytes) throw new Error(`T-002 CRT ${path} nil`);
    const parsed = schema.safeParse(JSON.parse(bytes.toString('utf8')));
    if (!parsed.success) throw new Error(`T-003 CRT ${path} ?`);
    return parsed.data;
  };
  const asks = async (paths: readonly string[], ids: ReadonlyMap<string, string>): Promise<TQuestion[]> => {
    const list: TQuestion[] = [];
    for (const path of paths) list.push(renamed(await read(path, Ask), ids));
    return list;
  };
  const crate = await read('crate.json', Crate);
  const units = await Promise.all(crate.units.map((path) => read(path, Unit)));
  const total = units.reduce((n, u) => n + u.entries.length, 0) + crate.pools.length;
  progress.started(total);
  progress.log(`T-100 CRT ok u=${units.length} n=${total}`);
  space.about = crate.about;
  /** What things are called here, by what they were called in the crate. */
  const ids = new Map<string, string>();
  for (const file of crate.files) {
    const bytes = await zip.bytes(file.blob);
    if (!bytes) {
      progress.log(`T-320 FIL ${file.id} 0`);
      continue;
    }
    const id = newId('f');
    await mkdir(folder, { recursive: true });
    await writeFile(join(folder, id), bytes);
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    space.files.push({
      id,
      path: file.path,
      bytes: bytes.length,
      sha256,
      media: file.media ?? 'application/octet-stream',
    });
    ids.set(file.id, id);
  }
  for (const file of crate.there.files) {
    const here = space.files.find((f) => f.sha256 === file.sha256);
    if (here) ids.set(file.id, here.id);
    else progress.log(`T-325 FIL ${file.id} thr?`);
  }
  for (const entry of crate.there.entries) {
    const here = space.units.flatMap((u) => u.entries).find((e) => e.origin === entry.origin);
    if (here) ids.set(entry.id, here.id);
    else progress.log(`T-326 ENT ${entry.origin} thr?`);
  }
  const entries = await Promise.all(
    units.map((u) => Promise.all(u.entries.map(async (path) => ({ id: newId('e'), was: await read(path, Entry) })))),
  );
  // What is overwritten keeps its own name, and what speaks of it in the crate has to find it by that.
  const standing = new Map(
    space.units.flatMap((u) => u.entries.flatMap((e) => (e.origin === null ? [] : [[e.origin, e.id]]))),
  );
  for (const { id, was } of entries.flat()) ids.set(was.id, standing.get(was.origin ?? '') ?? id);
  for (const [i, unit] of units.entries()) {
    const into = unit.loose ? general(space, newId) : placed(space, unit, newId);
    for (const { id, was } of entries[i] ?? []) {
      const { asks: paths, ...rest } = was;
      putEntry(space, into, {
        ...rest,
        id,
        body: named(rest.body, ids),
        file: rest.file === null ? null : (ids.get(rest.file) ?? null),
        files: rest.files.flatMap((f) => ids.get(f) ?? []),
        questions: await asks(paths, ids),
      });
      space.changedAt = new Date().toISOString();
      await progress.step();
    }
  }
  for (const path of crate.pools) {
    const pool = await read(path, Pool);
    const { title, origin } = pool;
    const questions = await asks(pool.asks, ids);
    const before = origin === null ? undefined : space.pools.find((p) => p.origin === origin);
    if (before) Object.assign(before, { title, questions });
    else space.pools.push({ id: newId('p'), title, origin, questions });
    await progress.step();
  }
  progress.log(`T-900 END e=${space.units.reduce((n, u) => n + u.entries.length, 0)} f=${space.files.length}`);
}

function placed(
  space: TSpace,
  { title, origin, hidden }: z.infer<typeof Unit>,
  newId: (kind: string) => string,
): TUnit {
  const before = origin === null ? undefined : space.units.find((u) => u.origin === origin);
  if (before) {
    before.title = title;
    if (hidden) before.hidden = true;
    else delete before.hidden;
    return before;
  }
  const unit: TUnit = { id: newId('u'), title, origin, entries: [], ...(hidden ? { hidden } : {}) };
  space.units.push(unit);
  return unit;
}

/** What stands in no unit is put into one: a space has no other place for it. */
function general(space: TSpace, newId: (kind: string) => string): TUnit {
  const before = space.units.find((u) => u.title === 'General');
  if (before) return before;
  const unit: TUnit = { id: newId('u'), title: 'General', origin: null, entries: [] };
  space.units.push(unit);
  return unit;
}

function named(text: string, ids: ReadonlyMap<string, string>): string {
  return text.replace(/(held|entry):([fe]\d+)/g, (whole, kind: string, id: string) =>
    ids.has(id) ? `${kind}:${ids.get(id)}` : whole,
  );
}

function renamed(q: TQuestion, ids: ReadonlyMap<string, string>): TQuestion {
  const reply = (text: string | null) => (text === null ? null : named(text, ids));
  return {
    ...q,
    ask: named(q.ask, ids),
    options: q.options.map((o) => ({ ...o, text: named(o.text, ids), reply: reply(o.reply) })),
    replies: { any: reply(q.replies.any), right: reply(q.replies.right), wrong: reply(q.replies.wrong) },
  };
}
