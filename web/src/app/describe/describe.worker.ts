/// <reference lib="webworker" />
import {
  Refusal,
  decodeText,
  linesOf,
  openArchive,
  portableEngine,
  problem,
  readDescription,
  starter,
  tryDescription,
  type OpenArchive,
} from '@treenail/core';
import type { Answered } from '../data/worker-line';
import { blobOf, bytesOf, inBlob, refusalOf } from '../bench/source-bytes';
import type { Source } from '../bench/messages';
import type { ArchiveOpened, Peeked, ToWorker, Tried } from './messages';

/** Reads an archive by a description while it is being written. */
let archive: OpenArchive | null = null;

addEventListener('message', (event: MessageEvent<ToWorker>) => {
  const request = event.data;
  const work: Promise<unknown> =
    request.ask === 'open' ? open(request.source) : request.ask === 'try' ? attempt(request.text) : peek(request.path);
  work.then(
    (answer) => say({ id: request.id, answer }),
    (error: unknown) => say({ id: request.id, refusal: refusalOf(error) }),
  );
});

function say(message: Answered): void {
  postMessage(message);
}

async function open(source: Source): Promise<ArchiveOpened> {
  archive = null;
  const options = { engine: portableEngine, scratch: inBlob };
  const opened = await openArchive(bytesOf(source, await blobOf(source)), options);
  archive = opened;
  const files = [...opened.pkg.entries.values()].map(({ path, size }) => ({ path, size }));
  return { files, starter: await starter(opened, source.name) };
}

async function attempt(text: string): Promise<Tried> {
  const { description, problems = [] } = readDescription(text);
  if (!description || !archive) return { problems, trial: null };
  try {
    const trial = await tryDescription(archive.pkg, description);
    const rules = trial.rules.map((r) => r.rule);
    return { problems, trial, lines: linesOf(text, rules) };
  } catch (error) {
    return { problems: [refusalOf(error)], trial: null };
  }
}

const PEEK = 64 * 1024;

async function peek(path: string): Promise<Peeked> {
  if (!archive) throw new Refusal(problem('nothing-open', 'No archive is open.', {}, 'Drop one first.'));
  const parts: number[] = [];
  for await (const chunk of archive.pkg.stream(path)) {
    for (const byte of chunk.subarray(0, PEEK + 1 - parts.length)) parts.push(byte);
    if (parts.length > PEEK) break;
  }
  const bytes = new Uint8Array(parts.slice(0, PEEK));
  const text = bytes.includes(0) ? 'This file is no text.' : decodeText(bytes);
  return { text, cut: parts.length > PEEK };
}
