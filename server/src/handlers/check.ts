import {
  besideThose,
  compare,
  count,
  decided,
  kindsFound,
  missingOf,
  openFindings,
  someOf,
  transferReport,
  type Beside,
  type Comparison,
  type Course,
} from '@treenail/core';
import type { DeliverAnswer } from '../contract/index.ts';
import { Copy, deliveryOf } from '../db/models/index.ts';
import type { Services } from '../services/context.ts';
import { documentIfAny, readDocument, writeDocument, type DocumentOf } from '../services/documents.ts';
import { allSent } from '../services/further.ts';
import { factsOf } from '../services/strongroom.ts';
import { decisionsOf } from '../services/decided.ts';

import type { Handler } from '../jobs/worker.ts';
import { toldLog } from '../services/log-words.ts';
import { noteStep } from '../services/move-rows.ts';
import { cannot, ofMove } from './of-move.ts';

/** What the platform itself said of an item that is not whole is the best reason there is. */
function withLog(comparison: Comparison, log: DeliverAnswer['log']): Comparison {
  const logWords = new Map(log.map((entry) => [entry.key, entry.words]));
  const lines = comparison.lines.map((line) => {
    const words = line.source === null || line.outcome === 'whole' ? null : (logWords.get(line.source) ?? null);
    return words === null ? line : { ...line, reasons: [...line.reasons, `its log says: ${words.replace(/\.$/, '')}`] };
  });
  return { ...comparison, lines };
}

/** Characters of arrived pages that are kept to be shown beside the sent ones. */
const PAGES_KEPT = 8 << 20;

/** As many as there is room for, in their order. */
function shortOf(pages: Readonly<Record<string, string>>): Record<string, string> {
  let left = PAGES_KEPT;
  return Object.fromEntries(Object.entries(pages).filter(([, text]) => (left -= text.length) >= 0));
}

/** What of the course was not sent, and why: a sentence each. */
function leftAway(whole: Course, sent: Course, settled: DocumentOf<'settled'> | null): string[] {
  const { calls = {}, leftOut = [] } = settled?.settled ?? {};
  const went = new Set(sent.items.map((i) => i.id));
  const titles = (of: (id: string) => boolean) =>
    whole.items.filter(({ id }) => !went.has(calls[id] ?? id) && of(id)).map((i) => i.title);
  const stays = new Set(leftOut);
  const [unsent, away] = [titles((id) => stays.has(id)), titles((id) => !stays.has(id))];
  return [
    ...(unsent.length > 0
      ? [`${count(unsent.length, 'item')} not sent, since what was there stays: ${someOf(unsent)}.`]
      : []),
    ...(away.length > 0 ? [`${count(away.length, 'item')} left out before it was sent: ${someOf(away)}.`] : []),
  ];
}

function withoutThose(course: Course, taken: ReadonlySet<string>): Course {
  return { ...course, items: course.items.filter((i) => !taken.has(i.id)) };
}

/** What became of what stood there before. */
function theirsWords({ stayed, changed, gone }: Beside, settled: DocumentOf<'settled'> | null): string {
  const { replaced, unsent } = settled ?? { replaced: [], unsent: [] };
  const said = [
    `Of what stood there before, ${count(stayed, 'item')} stayed as ${stayed === 1 ? 'it was' : 'they were'}`,
    ...(changed.length > 0 ? [`${changed.length} changed: ${someOf(changed)}`] : []),
    ...(gone.length > 0 ? [`${gone.length} not there any more: ${someOf(gone)}`] : []),
    ...(replaced.length > 0 ? [`ours took the place of ${replaced.length}: ${someOf(replaced)}`] : []),
    ...(unsent.length > 0 ? [`ours was not sent of ${unsent.length}: ${someOf(unsent)}`] : []),
  ];
  return `${said.join('; ')}.`;
}

/** Reads the course back from the destination and compares it with what was sent. */
export const check = (services: Services): Handler<'check'> => ({
  run: async (context) => {
    const { move, course: row, source, destination, to } = await ofMove(services, context.job);
    const destinationSide = to.destination;
    const { delivery, built } = deliveryOf(move) ?? { delivery: null, built: null };
    if (!destinationSide || !delivery?.shell || !built) throw cannot('be read back', destination);
    await context.report({ words: `reading back from ${destination.name}` });
    const { course: there, pages } = await destinationSide.readBack(delivery.shell.id, context.signal);
    const { course, forecast: foretold } = await allSent(move.id);
    // A further part goes where the others went, and so beside what they went beside.
    const beside = move.deliveries.some((d) => d.takenBackAt === null && (d.way === 'beside' || d.way === 'into'));
    const into = beside ? await documentIfAny(move.id, 'into') : null;
    const settled = await documentIfAny(move.id, 'settled');
    const stood = into && withoutThose(into.course, new Set(settled?.taken));
    const apart = stood && besideThose(there, stood, course);
    const arrived = apart?.ours ?? there;
    const theirs = apart ? theirsWords(apart, settled) : '';
    await writeDocument(move.id, 'theirs', { says: theirs });
    const { log } = await toldLog(move.id);
    const comparison = withLog(compare(course, arrived, foretold), log);
    const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
    const { findings } = await readDocument(move.id, 'findings');
    const { course: whole } = await readDocument(move.id, 'look');
    await writeDocument(move.id, 'arrived', arrived);
    await writeDocument(move.id, 'pages', { pages: shortOf(pages) });
    await writeDocument(move.id, 'comparison', comparison);
    const report = transferReport(
      {
        course: { code: row.code, section: row.section, term: row.term, title: row.title },
        source: `${source.name}`,
        destination: destination.name,
        place: delivery.shell.url,
        sentAt: (delivery.deliveredAt ?? new Date()).toISOString(),
        checkedAt: new Date().toISOString(),
        packageFile: built.fileName,
        packageSha256: built.sha256,
        copyFile: copy.fileName,
        copySha256: copy.sha256,
        missing: [...missingOf(factsOf(copy)), ...leftAway(whole, course, settled)],
        open: openFindings(findings, decided(findings, await decisionsOf(move.id)), kindsFound(findings, null)),
      },
      comparison,
      new Map(course.items.map((item) => [item.id, item.title])),
    );
    await writeDocument(move.id, 'report', report);
    const { totals } = comparison;
    await noteStep(
      move.id,
      'check',
      'done',
      `${totals.whole ?? 0} whole, ${totals.reworked ?? 0} reworked, ${totals['left behind'] ?? 0} left behind, ${totals.extra ?? 0} extra${apart && apart.changed.length + apart.gone.length > 0 ? '; what stood there did not all stay as it was' : ''}`,
    );
    await noteStep(
      move.id,
      'hand-over',
      'ahead',
      `report ready, ${count(comparison.otherwise, 'line')} otherwise than foretold`,
    );
    await context.report({ words: `checked at ${destination.name}` });
  },
});
