import { createWriteStream } from 'node:fs';
import { mkdir, rename } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import type { TSpace } from './model.ts';

/**
 * Tarnhall's own archive: a zip of JSON documents that point at one another. `crate.json` names the units and pools,
 * each unit its entries, each entry its questions and files; files lie under their identifiers.
 */
export async function writeCrate(space: TSpace, folder: string, target: string): Promise<void> {
  const zip = new yazl.ZipFile();
  const put = (path: string, value: unknown): string => {
    zip.addBuffer(Buffer.from(JSON.stringify(value, null, 1)), path);
    return path;
  };
  const asks = (questions: TSpace['pools'][number]['questions'], at: string): string[] =>
    questions.map((q, i) => put(`${at}/asks/${i + 1}.json`, q));
  const units = space.units.map((unit) =>
    put(`units/${unit.id}.json`, {
      id: unit.id,
      title: unit.title,
      origin: unit.origin,
      hidden: unit.hidden ?? false,
      entries: unit.entries.map((entry) => {
        const { questions, ...rest } = entry;
        return put(`entries/${entry.id}.json`, { ...rest, asks: asks(questions, `entries/${entry.id}`) });
      }),
    }),
  );
  const pools = space.pools.map((pool) =>
    put(`pools/${pool.id}.json`, {
      id: pool.id,
      title: pool.title,
      origin: pool.origin,
      asks: asks(pool.questions, `pools/${pool.id}`),
    }),
  );
  const files = space.files.map((file) => {
    zip.addFile(join(folder, file.id), `blobs/${file.id}`);
    return { ...file, blob: `blobs/${file.id}` };
  });
  put('crate.json', {
    crate: 1,
    id: space.id,
    code: space.code,
    section: space.section,
    term: space.term,
    title: space.title,
    keeper: space.keeper,
    ...(space.about === null ? {} : { about: space.about }),
    units,
    pools,
    files,
  });
  zip.end();
  await mkdir(dirname(target), { recursive: true });
  await pipeline(zip.outputStream, createWriteStream(`${target}.part`));
  await rename(`${target}.part`, target);
}
