import {
  byStep,
  calendarDates,
  count,
  inventory,
  lookInto,
  readPackage,
  remark,
  type KnownAddresses,
  type Note,
} from '@treenail/core';
import { fileWorkersFor } from '@treenail/core/workers';
import { nodeEngine } from '@treenail/core/node';
import { Copy, planOf } from '../db/models/index.ts';
import type { SourceSide } from '../platforms/index.ts';
import { settle } from '../services/carrying.ts';
import type { Services } from '../services/context.ts';
import { writeDocument } from '../services/documents.ts';
import { findingSettings } from '../services/settings.ts';
import { indexItems } from '../services/kept-items.ts';
import { noteFurther } from '../services/further.ts';
import { useLinked } from '../services/linked.ts';
import { answersKept } from '../services/outside.ts';
import { withPackage } from '../services/packages.ts';
import { profileOf } from '../services/platforms.ts';
import { TextsWriter } from '../services/texts.ts';
import { noteRedate } from '../services/redate.ts';
import { noteTidy } from '../services/tidy.ts';
import type { Handler } from '../jobs/worker.ts';
import { noteStep } from '../services/move-rows.ts';
import { cannot, ofMove } from './of-move.ts';
import { putMendsIn } from './tidy.ts';

/** The script of a thread that reads files beside this one; only what is bundled has it. */
const FILE_WORKER = import.meta.url.endsWith('.ts') ? null : new URL('./file-worker.mjs', import.meta.url);

/** A platform that does not answer is no reason not to look: its addresses are then taken for outside ones, and noted. */
async function addressesOf(
  sourceSide: SourceSide | null | undefined,
  remoteId: string,
): Promise<{ known?: KnownAddresses; notes: Note[] }> {
  if (!sourceSide) return { notes: [] };
  try {
    return { known: await sourceSide.addresses(remoteId), notes: [] };
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    const note = remark(
      'addresses-untold',
      `The platform did not say which addresses are its own (${why}): links into it are taken for outside ones.`,
    );
    return { notes: [note] };
  }
}

/** Reads every file of the kept package, and forecasts what will become of the course at its destination. */
export const lookInside = (services: Services): Handler<'look'> => ({
  run: async (context) => {
    const { move, course: row, to, from, source, destination } = await ofMove(services, context.job);
    const destinationSide = to.destination;
    if (!destinationSide) throw cannot('take courses', destination);
    const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
    const [settings, { known, notes: untold }, profile, outside] = await Promise.all([
      findingSettings(),
      addressesOf(from.source, row.remoteId),
      destinationSide.profile ? profileOf(destination, destinationSide.profile) : null,
      answersKept(),
    ]);
    const looked = await withPackage(services, copy.sha256, async (pkg, described) => {
      const texts = await TextsWriter.into(services.config.scratch, `texts-${context.job.id}.gz`);
      const today = new Date().toISOString().slice(0, 10);
      const findings = { profile, settings, today, outside, ...(known ? { known } : {}) };
      const found = await lookInto(await readPackage(pkg, described), {
        engine: nodeEngine,
        findings,
        workersFor: (course) => fileWorkersFor(pkg, course, { findings }, FILE_WORKER),
        onText: texts.add,
        onProgress: ({ done, total, unit }) =>
          void context.report({ words: 'looking inside', done, total, unit }).catch(() => undefined),
      });
      const calendars = await calendarDates(pkg, found.course);
      const notes = [...untold, ...found.notes, ...calendars.notes];
      return { ...found, notes, calendars, texts: await texts.keep(services) };
    });
    context.signal.throwIfAborted();
    const { course, links, notes, languages, texts, calendars } = looked;
    const { tidy: findings, redate: written } = byStep(looked.findings);
    const counted = inventory(course, links, languages);
    await indexItems(copy, course);
    await writeDocument(move.id, 'links', { links });
    await writeDocument(move.id, 'findings', { findings });
    await writeDocument(move.id, 'dates', { written, calendars: calendars.dates, notes: calendars.notes });
    await writeDocument(move.id, 'texts', { sha256: texts });
    await writeDocument(move.id, 'look', { course, notes, inventory: counted });
    if (planOf(move).further) await noteFurther(move, course, destinationSide, context.signal);
    await settle(move, course, destination, destinationSide);
    const hashes = new Map(course.files.flatMap((f) => (f.sha256 === undefined ? [] : [[f.path, f.sha256]])));
    // A platform of the same kind has the repository too, and takes its archive as it is.
    const led = source.platform === destination.platform ? 0 : await useLinked(move, copy, { findings, links, hashes });
    await noteTidy(move, findings);
    await noteRedate(services, move);
    if (led > 0 || planOf(move).further) {
      await planOf(move).increment('tidyVersion');
      await planOf(move).reload();
      await putMendsIn(services, context, { move, destination, destinationSide });
    }
    // Last of all: by this the move stands at its fit.
    const quizzes = counted.kinds.find((k) => k.kind === 'quiz')?.items ?? 0;
    await noteStep(
      move.id,
      'look',
      'done',
      `${count(counted.items, 'item')}, ${count(counted.files, 'file')}, ${count(quizzes, 'quiz')}`,
    );
    await context.report({ words: 'looked inside; the fit waits for you' });
  },
});
