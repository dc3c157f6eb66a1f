import type { Package, Sink } from '../container/index.ts';
import { nodeEngine } from '../container/node.ts';
import { asksForTexts, declaredLosses, profileOn, type Line } from '../fit/index.ts';
import { planPackage, targetById, writePackage, type Target } from '../formats/index.ts';
import type { Looked } from '../inspect/index.ts';
import { Refusal, count, problem, readableSize, type Course, type Note } from '../model/index.ts';
import { explain } from '../report/index.ts';
import { workingCopy, type WorkingCopy } from '../reshape/index.ts';
import { look, lookFor, readCall, standing, usage, withFile, type Call, type Say } from './call.ts';
import { writing } from './writing.ts';

export async function convert(args: readonly string[], say: Say): Promise<void> {
  const call = await readCall(args, 1);
  const { files, json, to, out, opening } = call;
  if (to === '' || out === '') throw usage('--to and --out are needed.');
  const { target } = targetById(to);
  if ((await standing(out)) !== null)
    throw new Refusal(problem('file-there', `${out} is there already.`, { file: out }));
  await withFile(files[0] ?? '', opening, async (pkg) => {
    const { made, ...written } = await writing(out, (sink) => converted(pkg, call, sink));
    const { losses, notes, notLookedAt } = made;
    const summary = { format: target.id, label: target.label, ...written, losses, notes, notLookedAt };
    if (json) {
      say(JSON.stringify(summary, null, 2));
      return;
    }
    say(`${out}: ${target.label}, ${readableSize(written.size)}, SHA-256 ${written.sha256}`);
    say(losses.length === 0 ? 'Nothing is lost.' : `${count(losses.length, 'item')} not whole:`);
    for (const loss of losses) say(`  ${loss.item} [${loss.kind}]: ${loss.outcome}. ${loss.why}`);
    if (notLookedAt.length > 0) say(`Not looked at: ${notLookedAt.join(', ')}.`);
  });
}

/** What is told of a loss. */
interface Loss {
  item: string;
  kind: string;
  outcome: string;
  as: string | null;
  why: string;
  settings: string[];
  /** What it is called for `--allow`. */
  names: string[];
}

/** Writes the package, and tells what is lost. */
async function converted(
  pkg: Package,
  { to, allowed, withoutDamaged, opening }: Call,
  sink: Sink,
): Promise<{ losses: Loss[]; notes: readonly Note[]; notLookedAt: readonly string[] }> {
  const { format, target } = targetById(to);
  const lossesOf = (course: Course) => {
    const lines = declaredLosses(course, profileOn(course, target));
    if (allowed) refuseLosses(lines, allowed, target);
    return lines.map((line): Loss => {
      const { title, kind, outcome, as, settings } = line;
      const lost = settings.filter((s) => s.outcome !== 'whole').map((s) => s.name);
      return { item: title, kind, outcome, as, why: explain(line), settings: lost, names: lossNames(line) };
    });
  };
  if (withoutDamaged) {
    const looked = await look(pkg, opening, { today: new Date().toISOString() });
    const { work, left } = await leavingDamaged(pkg, looked);
    if (allowed && left.length > 0 && !allowed.includes('damage')) throw notWhole(['damage'], target);
    const losses = [...left, ...lossesOf(work.course)];
    await writePackage(target, await planPackage(format, work.course, target, work.pkg), work.pkg, sink, {
      engine: nodeEngine,
    });
    return { losses, notes: looked.notes, notLookedAt: [] };
  }
  // Begun only now, so that somebody always waits for what it may refuse.
  const looked = lookFor(pkg, opening, (course) => (asksForTexts(course, target) ? 'unhashed' : 'checked')).then(
    (found) => ({ found, losses: lossesOf(found.course) }),
  );
  const plan = looked.then(({ found }) => planPackage(format, found.course, target, pkg));
  await writePackage(target, plan, pkg, sink, { engine: nodeEngine });
  const { found, losses } = await looked;
  // Where texts go on as they are, nobody looked where they lead.
  return { losses, notes: found.notes, notLookedAt: asksForTexts(found.course, target) ? [] : ['links of texts'] };
}

/** The course without what is damaged of it, and what that is. */
async function leavingDamaged(pkg: Package, looked: Looked): Promise<{ work: WorkingCopy; left: Loss[] }> {
  const kind = 'file-damaged';
  const decision = { id: kind, match: { kind, groupKey: null, key: null }, mend: 'leave-out', params: {}, reason: '' };
  const work = await workingCopy(pkg, looked, looked.findings, [decision], { engine: nodeEngine });
  const items = new Map(looked.course.items.map((i) => [i.id, i]));
  const left = looked.findings
    .filter((f) => f.kind === kind)
    .map(({ item, title, evidence }): Loss => {
      const own = items.get(item ?? '');
      return {
        item: own?.title ?? title,
        kind: own?.kind ?? 'file',
        outcome: 'left behind',
        as: null,
        why: evidence,
        settings: [],
        names: ['damage'],
      };
    });
  return { work, left };
}

/**
 * What is lost of an item, by the names that it can be allowed under: its kind, where it becomes another, stays behind, or
 * loses what has no name of its own (its title); the settings that it loses; `questions`.
 */
function lossNames({ kind, as, outcome, settings, parts, reasons }: Line): string[] {
  const isOther = outcome === 'left behind' || (as !== null && as !== kind);
  const names = [
    ...settings.filter((s) => s.outcome !== 'whole').map((s) => s.name),
    ...(parts.length > 0 ? ['questions'] : []),
  ];
  return isOther || reasons.length > 0 || names.length === 0 ? [kind, ...names] : names;
}

/** @throws Refusal `not-whole` where something is lost that nobody allowed */
function refuseLosses(losses: readonly Line[], allowed: readonly string[], target: Target): void {
  const left = new Map<string, string[]>();
  for (const line of losses) {
    for (const name of lossNames(line)) {
      if (!allowed.includes(name)) left.set(name, [...(left.get(name) ?? []), line.title]);
    }
  }
  if (left.size === 0) return;
  const words = [...left].map(([name, titles]) => `${name} (${titles.length === 1 ? titles[0] : titles.length})`);
  throw notWhole(words, target);
}

function notWhole(words: readonly string[], { label }: Target): Refusal {
  return new Refusal(problem('not-whole', `${label} does not hold all of it: ${words.join(', ')}.`));
}
