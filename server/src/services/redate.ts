import {
  DATE_IN_WORDS,
  NO_REDATING,
  checkPlan,
  count,
  termsOfDates,
  walkOutline,
  type RedatePlan,
  type RedateSums,
} from '@treenail/core';
import type { Person, RedateAnswer } from '../contract/index.ts';
import { MoveDocument, isCurrent, type WholeMove } from '../db/models/index.ts';
import type { Services } from './context.ts';
import { asPlanned, knownDates, redatePlanOf } from './dates.ts';
import { documentIfAny, writeDocument } from './documents.ts';
import { courseOf, moveById, noteStep } from './move-rows.ts';
import { isOpen, mustBeOpen } from './move-steps.ts';
import { audit, mustBe } from './people.ts';
import { closedDays, terms, zone } from './settings.ts';
import { decidedAnew } from './tidy.ts';

export async function redateOf(services: Services, moveId: number): Promise<RedateAnswer> {
  const move = await moveById(moveId);
  const [known, plan, list, closed, clock, { term }, working] = await Promise.all([
    knownDates(moveId),
    redatePlanOf(moveId),
    terms(),
    closedDays(),
    zone(services),
    courseOf(move),
    documentIfAny(moveId, 'working'),
  ]);
  const today = new Date().toISOString().slice(0, 10);
  const [from, to] = termsOfDates(known.dates, { terms: list, zone: clock }, term);
  const folders = [...walkOutline(known.course.outline)].flatMap(({ node }) =>
    node.children.length > 0 ? [{ id: node.id, title: node.title }] : [],
  );
  return {
    dates: known.dates,
    written: known.written,
    folders,
    plan,
    terms: list,
    closed,
    zone: clock,
    today,
    from,
    to,
    searched: known.searched,
    notes: known.notes,
    failed: (working?.failed ?? []).filter(({ key }) => key.startsWith(`${DATE_IN_WORDS}|`)),
    current: isCurrent(move),
    open: isOpen(move),
  };
}

/** How the dates of a move stand, where somebody should look at them; '' elsewhere. */
export async function openDates(moveId: number): Promise<string> {
  const { steps } = await moveById(moveId);
  const row = steps.find((s) => s.step === 're-date');
  return row?.state === 'open' ? row.result : '';
}

/** Decides where the dates go. What is decided counts at once; the working copy follows in a job. */
export async function setRedate(person: Person, moveId: number, plan: RedatePlan): Promise<void> {
  mustBe(person, 'administrator');
  checkPlan(plan);
  const move = await moveById(moveId);
  mustBeOpen(move);
  await writeDocument(moveId, 'redate', plan);
  await audit(person, 'dates decided', `move ${moveId}`, {
    rule: plan.rule,
    others: plan.others.length,
    byHand: Object.keys(plan.byHand).length,
    texts: plan.allTexts ? 'all' : Object.keys(plan.texts).length,
  });
  await noteDecided(moveId, person.id);
  await decidedAnew(move);
}

export async function undoRedate(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustBeOpen(move);
  const gone = await MoveDocument.destroy({ where: { moveId, kind: 'redate' } });
  // Pressed twice, it is undone once.
  if (gone === 0) return;
  await audit(person, 'dates left as they are', `move ${moveId}`);
  await noteDecided(moveId, null);
  await decidedAnew(move);
}

async function noteDecided(moveId: number, by: number | null): Promise<void> {
  await noteStep(moveId, 're-date', 'open', 'being put into the working copy', by);
}

/** Writes down how the dates of a move stand: one line for the spine. */
export async function noteRedate(services: Services, move: WholeMove): Promise<void> {
  const [plan, known] = await Promise.all([redatePlanOf(move.id), knownDates(move.id)]);
  const { sums } = await asPlanned(services, known, plan ?? NO_REDATING);
  const by = (await moveById(move.id)).steps.find((s) => s.step === 're-date')?.decidedBy ?? null;
  const none = sums.dates + sums.texts.all === 0;
  // Of what was not looked through nobody knows that there is no date in it.
  const unread = !known.searched || known.notes.length > 0;
  const done = !unread && (none || (plan !== null && sums.look === 0));
  const words = redateWords(sums, plan) + (unread ? '; not all was looked through' : '');
  await noteStep(move.id, 're-date', done ? 'done' : 'open', words, plan === null ? null : by);
}

/** One line for the spine. */
export function redateWords({ dates, look, texts, moved, away }: RedateSums, plan: RedatePlan | null): string {
  if (dates + texts.all === 0) return 'no dates';
  const said = dates === 0 ? `${count(texts.all, 'date')} in texts` : count(dates, 'date');
  if (plan === null) return `${said}, as they were`;
  const { rule } = plan;
  const where =
    rule.is === 'term' || rule.is === 'stretch'
      ? ` into ${rule.to.name}`
      : rule.is === 'days'
        ? `, ${moved} moved`
        : rule.is === 'away'
          ? `, ${away} taken away`
          : ', kept';
  return `${said}${where}${look === 0 ? '' : `, ${look} to look at`}`;
}
