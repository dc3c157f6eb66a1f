import { Refusal, count, problem, readChunks, subjects, type ByteSource, type Subject } from '@treenail/core';
import { Op } from 'sequelize';
import * as z from 'zod';
import { JobStep, deliveryOf } from '../db/models/index.ts';
import type { DestinationSide } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { writeDocument } from '../services/documents.ts';
import { keepSent } from '../services/further.ts';
import { refreshRegister } from '../services/register.ts';
import { courseToSend } from '../services/working.ts';
import type { InputOf } from '../jobs/definitions.ts';
import type { Handler, JobContext } from '../jobs/worker.ts';
import { noteStep } from '../services/move-rows.ts';
import { cannot, ofMove } from './of-move.ts';

const Shell = z.object({ id: z.string(), url: z.string() });

/** Makes a new shell, uploads the package, and waits until the platform has unpacked it. */
export const deliverCourse = (services: Services): Handler<'deliver'> => ({
  run: (context, input) => deliverInto(services, context, input),
  calledOff: (context) => stopImport(services, context),
});

/** An import that is not over is stopped, where the platform can. The shell stays: a person may have put something in. */
async function stopImport(services: Services, context: JobContext): Promise<void> {
  const { to, destination } = await ofMove(services, context.job);
  const [begun] = await JobStep.findAll({
    where: { jobId: context.job.id, name: { [Op.like]: 'import-%' } },
    order: [['finishedAt', 'DESC']],
  });
  if (!begun) return;
  const destinationSide = to.destination;
  if (!destinationSide?.stopImport) {
    throw new Refusal(problem('import-not-stopped', `${destination.name} can not stop an import that has begun.`));
  }
  await destinationSide.stopImport(z.string().parse(begun.result));
}

async function deliverInto(
  services: Services,
  context: JobContext,
  { round, shell: asked, into }: InputOf<'deliver'>,
): Promise<void> {
  const { move, to, destination } = await ofMove(services, context.job);
  const destinationSide = to.destination;
  if (!destinationSide) throw cannot('take courses', destination);
  const { delivery, built } = deliveryOf(move) ?? { delivery: null, built: null };
  if (!delivery || !built)
    throw new Refusal(problem('not-yet', 'No package is built yet.', {}, 'Build the package first.'));
  const key = `treenail ${context.job.requestKey}`;
  const shell = into ?? (await context.step('shell', Shell, () => destinationSide.createShell(asked, key)));
  await delivery.update({ shell: into ?? { ...shell, title: asked.title } });
  const uploadId = await context.step(`upload-${round}`, z.string(), async () => {
    const source = await services.store.open(built.sha256);
    try {
      return await upload(context, destinationSide, source, `${key} ${built.sha256}`, destination.name);
    } finally {
      await source.close();
    }
  });
  const importId = await context.step(`import-${round}`, z.string(), () =>
    destinationSide.startImport(shell.id, uploadId, `${key} ${round}`),
  );
  await keepLog(move.id, destinationSide, importId);
  await waitForImport(services, context, destinationSide, importId, destination.name);
  const lines = await keepLog(move.id, destinationSide, importId);
  await keepSent(move);
  await delivery.update({ deliveredAt: delivery.deliveredAt ?? new Date() });
  await move.update({ openKey: null });
  const where = into ? 'into what went before' : 'into a new shell';
  await noteStep(move.id, 'deliver', 'done', `${where}, ${count(lines, 'line')} of log`, delivery.askedBy);
  await refreshRegister(1000);
  await context.report({ words: `delivered to ${destination.name}`, ahead: null });
}

async function upload(
  context: JobContext,
  destinationSide: DestinationSide,
  source: ByteSource,
  key: string,
  name: string,
): Promise<string> {
  const { uploadId, got } = await destinationSide.startUpload(source.size, key);
  if (got === source.size) return uploadId;
  let done = got;
  async function* counted(): AsyncGenerator<Uint8Array> {
    for await (const part of readChunks(source, got, source.size - got, 1 << 18)) {
      done += part.length;
      await context.report({ words: `uploading to ${name}`, ahead: null, done, total: source.size, unit: 'bytes' });
      yield part;
    }
  }
  await destinationSide.upload(uploadId, got, counted(), context.signal);
  return uploadId;
}

async function waitForImport(
  services: Services,
  context: JobContext,
  destinationSide: DestinationSide,
  importId: string,
  name: string,
): Promise<void> {
  const state = await destinationSide.importState(importId);
  switch (state.state) {
    case 'waiting':
      await context.report({ words: `waiting at ${name}`, ahead: state.ahead, done: 0, total: 0, unit: '' });
      return context.later(services.config.pollMs);
    case 'working':
      await context.report({
        words: `unpacking at ${name}`,
        ahead: null,
        done: state.done,
        total: state.total,
        unit: state.unit,
      });
      return context.later(services.config.pollMs);
    case 'failed':
      throw new Refusal(problem('import-failed', state.why));
    case 'ready':
      return;
  }
}

/** The platform's own log, in plain words and tied to the items it means. */
async function keepLog(moveId: number, destinationSide: DestinationSide, importId: string): Promise<number> {
  const course = await courseToSend(moveId);
  const byId = new Map<string, Subject>();
  for (const subject of subjects(course)) {
    if (subject.item) byId.set(subject.item.id, subject);
    if (subject.placed) byId.set(subject.placed.node.id, subject);
  }
  const log = (await destinationSide.importLog(importId)).map(({ line, words, item }) => ({
    line,
    words,
    item: item === null ? null : (byId.get(item)?.title ?? item),
    key: byId.get(item ?? '')?.key ?? null,
  }));
  await writeDocument(moveId, 'log', { log });
  return log.length;
}
