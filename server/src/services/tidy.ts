import {
  LEAVE,
  Refusal,
  Rule,
  beforeAfter,
  courseName,
  decided,
  kindsFound,
  matches,
  mendKind,
  problem,
  selectionOf,
  type Finding,
} from '@treenail/core';
import { Op } from 'sequelize';
import type {
  BeforeAfterAnswer,
  ChosenToGo,
  NewDecision,
  Person,
  RuleSummary,
  RuleUse,
  TidyAnswer,
} from '../contract/index.ts';
import {
  Copy,
  CourseRow,
  DecisionRow,
  Instance,
  MendRule,
  isCurrent,
  planOf,
  type WholeMove,
} from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import type { Services } from './context.ts';
import { documentIfAny, readDocument, writeDocument } from './documents.ts';
import { connectorOf } from './instances.ts';
import { isOpen, mustBeOpen } from './move-steps.ts';
import { courseOf, moveById, movesBy, noteStep } from './move-rows.ts';
import { withPackage } from './packages.ts';
import { audit, mustBe } from './people.ts';
import { profileOf } from './platforms.ts';
import { supply, supplyPath, takeGiven } from './supplies.ts';
import { decisionsOf, hiddenUntilOf, leftOutOf } from './decided.ts';
import { beforeIt, foundThere, hasWorkingCopy } from './working.ts';

/** One line for the spine. */
export function tidyWords(found: number, decided: number): string {
  if (found === 0) return 'nothing to look at';
  return decided === 0 ? `${found} to look at` : `${decided} of ${found} decided`;
}

/** Writes down how many findings of a move are decided on, and how many nobody has looked at. */
export async function noteTidy(move: WholeMove, findings: readonly Finding[]): Promise<void> {
  // What could not be done is not decided: a person has to look at it once more.
  const undone = (await hasWorkingCopy(move.id)) ? (await readDocument(move.id, 'working')).failed : [];
  const known = new Set(findings.map((f) => f.key));
  const before = (await decidedOf(move.id, findings)) - undone.filter((f) => known.has(f.key)).length;
  const state = findings.length > before ? 'open' : 'done';
  await noteStep(move.id, 'tidy', state, tidyWords(findings.length, before), await lastToDecide(move.id));
}

async function lastToDecide(moveId: number): Promise<number | null> {
  return (await DecisionRow.findOne({ where: { moveId }, order: [['id', 'DESC']] }))?.decidedBy ?? null;
}

/** How many findings have a decision. */
export async function decidedOf(moveId: number, findings: readonly Finding[]): Promise<number> {
  return decided(findings, await decisionsOf(moveId)).size;
}

/** How many findings of a move nobody has decided on. */
export async function openIn(moveId: number): Promise<number> {
  const { findings } = await readDocument(moveId, 'findings');
  return findings.length - (await decidedOf(moveId, findings));
}

/** Everything there is to decide of a course, and what was decided. */
export async function tidyOf(services: Services, moveId: number): Promise<TidyAnswer> {
  const move = await moveById(moveId);
  const [{ course }, { links }, { findings }, decisions, leftOut, hiddenUntil, before, further, rules] =
    await Promise.all([
      readDocument(moveId, 'look'),
      readDocument(moveId, 'links'),
      readDocument(moveId, 'findings'),
      decisionsOf(moveId),
      leftOutOf(moveId),
      hiddenUntilOf(moveId),
      beforeIt(services, move),
      documentIfAny(moveId, 'further'),
      listRules(),
    ]);
  const destination = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  const destinationSide = connectorOf(services.config.secret, destination).destination;
  const profile = destinationSide?.profile ? await profileOf(destination, destinationSide.profile) : null;
  return {
    findings,
    kinds: kindsFound(findings, profile),
    decisions,
    rules,
    failed: planOf(move).workedVersion > 0 ? (await readDocument(moveId, 'working')).failed : [],
    leftOut,
    ...selectionOf(course, new Set(leftOut), links, foundThere(before)),
    hiddenUntil,
    further: before && further,
    comesAgain: before?.more === 'instead',
    current: isCurrent(move),
    open: isOpen(move),
  };
}

/** What is decided counts at once; the working copy follows in a job. */
export async function decidedAnew(move: WholeMove): Promise<void> {
  await planOf(move).increment('tidyVersion');
  await planOf(move).reload();
  await enqueue({
    kind: 'tidy',
    key: `tidy:move-${move.id}-${planOf(move).tidyVersion}`,
    course: courseName(await courseOf(move)),
    moveId: move.id,
    input: { round: 0 },
  });
}

function checkMend(mend: string): void {
  if (mend === LEAVE || mendKind(mend)) return;
  throw new Refusal(problem('no-such-mend', `There is no mend ${mend}.`));
}

/** The same thing decided again takes the place of what was decided of it before. */
export async function decide(
  services: Services,
  person: Person,
  moveId: number,
  { match, mend, params, reason }: NewDecision,
): Promise<void> {
  mustBe(person, 'administrator');
  checkMend(mend);
  if (mend === LEAVE && reason.length < 3) {
    throw new Refusal(problem('reason-missing', 'Why it is left as it is was not said.'));
  }
  const move = await moveById(moveId);
  mustBeOpen(move);
  if (mendKind(mend)?.fetches) await supply(services, move, match);
  await DecisionRow.destroy({
    where: { moveId, matchKind: match.kind, matchGroupKey: match.groupKey, matchKey: match.key },
  });
  await DecisionRow.create({
    moveId,
    matchKind: match.kind,
    matchGroupKey: match.groupKey,
    matchKey: match.key,
    mend,
    params,
    reason,
    decidedBy: person.id,
    decidedAt: new Date(),
  });
  await audit(person, 'finding decided', `move ${moveId}`, { match, mend, params, reason });
  await decidedAnew(move);
}

export async function undo(person: Person, moveId: number, decisionId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustBeOpen(move);
  const gone = await DecisionRow.destroy({ where: { id: decisionId, moveId } });
  // Pressed twice, it is undone once.
  if (gone === 0) return;
  await audit(person, 'decision undone', `move ${moveId}`, { decisionId });
  await decidedAnew(move);
}

export async function choose(
  services: Services,
  person: Person,
  moveId: number,
  { leftOut, hiddenUntil }: ChosenToGo,
): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustBeOpen(move);
  const [{ course }, { links }] = await Promise.all([readDocument(moveId, 'look'), readDocument(moveId, 'links')]);
  const known = new Set(course.items.map((i) => i.id));
  const wanted = new Set(leftOut.filter((id) => known.has(id)));
  // What others need goes all the same; the answer says so.
  const there = foundThere(await beforeIt(services, move));
  for (const { item } of selectionOf(course, wanted, links, there).pulledIn) wanted.delete(item);
  await writeDocument(moveId, 'selection', { leftOut: [...wanted], hiddenUntil });
  await audit(person, 'selection set', `move ${moveId}`, { leftOut: [...wanted], hiddenUntil });
  await decidedAnew(move);
}

/** Takes a person's own file, so that a mend can put it in the place of another. */
export async function give(
  services: Services,
  person: Person,
  moveId: number,
  name: string,
  body: AsyncIterable<Uint8Array>,
): Promise<{ given: string }> {
  mustBe(person, 'administrator');
  mustBeOpen(await moveById(moveId));
  const given = await takeGiven(services, moveId, name, body);
  await audit(person, 'file given', `move ${moveId}`, { given });
  return { given };
}

/** What one mend would do, tried on what was fetched. */
export async function tryMend(
  services: Services,
  moveId: number,
  asked: { key: string; mend: string; params: Record<string, string> },
): Promise<BeforeAfterAnswer> {
  const move = await moveById(moveId);
  const [{ course }, { links }, { findings }] = await Promise.all([
    readDocument(moveId, 'look'),
    readDocument(moveId, 'links'),
    readDocument(moveId, 'findings'),
  ]);
  const finding = findings.find((f) => f.key === asked.key);
  if (!finding) throw new Refusal(problem('not-found', 'There is no such finding.', {}, 'Reload the page.'));
  const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
  return withPackage(services, copy.sha256, (pkg) =>
    beforeAfter(
      pkg,
      { course, links },
      finding,
      asked,
      new Map(
        (mendKind(asked.mend)?.fetches
          ? [finding.groupKey]
          : Object.values(asked.params).filter((p) => p.startsWith('given:'))
        ).map(
          // Only where it will lie is shown.
          (address) => [address, { path: supplyPath(address), bytes: new Uint8Array() }],
        ),
      ),
    ),
  );
}

export async function listRules(): Promise<RuleSummary[]> {
  const rows = await MendRule.findAll({ order: [['name', 'ASC']] });
  return rows.map((row) => ({ id: row.id, rule: Rule.parse(row.content) }));
}

/** Keeps a rule; one of the same name is replaced. */
export async function saveRule(person: Person, rule: Rule): Promise<RuleSummary[]> {
  mustBe(person, 'administrator');
  checkMend(rule.mend);
  const values = { name: rule.name, content: rule, madeBy: person.id, madeAt: new Date() };
  const before = await MendRule.findOne({ where: { name: rule.name } });
  if (before) await before.update(values);
  else await MendRule.create(values);
  await audit(person, 'rule kept', rule.name, rule);
  return listRules();
}

export async function removeRule(person: Person, id: number): Promise<RuleSummary[]> {
  mustBe(person, 'administrator');
  const row = await MendRule.findByPk(id);
  await row?.destroy();
  if (row) await audit(person, 'rule removed', row.name);
  return listRules();
}

/** Moves that still can be tidied and have findings that a rule fits. */
export async function usesOf(ruleId: number): Promise<RuleUse[]> {
  const rule = await ruleById(ruleId);
  const moves = await movesBy({ where: { calledOffAt: null, copyId: { [Op.not]: null } }, order: [['id', 'ASC']] });
  const uses: RuleUse[] = [];
  for (const move of moves.filter(isOpen)) {
    const [{ findings }, course] = await Promise.all([
      readDocument(move.id, 'findings'),
      CourseRow.findByPk(move.courseId),
    ]);
    const before = decided(findings, await decisionsOf(move.id));
    const found = findings.filter((f) => matches(rule.match, f) && !before.has(f.key)).length;
    if (found > 0 && course) {
      uses.push({ moveId: move.id, course: courseName(course), title: course.title, findings: found });
    }
  }
  return uses;
}

export async function applyRule(
  services: Services,
  person: Person,
  ruleId: number,
  moveIds: readonly number[],
): Promise<void> {
  mustBe(person, 'administrator');
  const { match, mend, params, reason, name } = await ruleById(ruleId);
  for (const moveId of moveIds) {
    await decide(services, person, moveId, { match, mend, params, reason: reason === '' ? `rule “${name}”` : reason });
  }
}

async function ruleById(id: number): Promise<Rule> {
  const row = await MendRule.findByPk(id);
  if (!row) throw new Refusal(problem('not-found', 'There is no such rule.', {}, 'Reload the page.'));
  return Rule.parse(row.content);
}
