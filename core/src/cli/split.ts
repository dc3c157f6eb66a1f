import { mkdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import * as z from 'zod';
import { nodeEngine } from '../container/node.ts';
import { planPackage, targetById, writePackage } from '../formats/index.ts';
import { Refusal, count, problem, type Course } from '../model/index.ts';
import { SplitPlan, partAsCourse, proposeSplits, splitOf, type Part, type Proposal } from '../reshape/index.ts';
import { lookFor, readCall, standing, usage, withFile, type Say } from './call.ts';
import { termOf } from './days.ts';
import { lossesOf, targetFor } from './target.ts';
import { writing } from './writing.ts';

const OPTIONS = {
  by: { type: 'string' },
  plan: { type: 'string' },
  term: { type: 'string', multiple: true },
} as const;
const Options = z.object({
  by: z.enum(['names', 'dates', 'halves']).optional(),
  plan: z.string().default(''),
  term: z.array(z.string()).default([]),
});

/** Tells how a course could be cut, or cuts it: each part is a package of its own in a folder. */
export async function split(args: readonly string[], say: Say): Promise<void> {
  const call = await readCall(args, 1, OPTIONS);
  const read = Options.safeParse(call.own);
  if (!read.success) throw usage('--by is names, dates or halves.');
  const { by, plan: given, term } = read.data;
  const { files, json, out, to, opening } = call;
  const terms = term.map(termOf);
  if (out !== '' && (await standing(out)) !== null)
    throw new Refusal(problem('file-there', `${out} is there already.`, { file: out }));
  await withFile(files[0] ?? '', opening, async (pkg) => {
    const looked = await lookFor(pkg, opening, () => 'unhashed');
    const { course, links } = looked;
    const proposals = proposeSplits(course, { terms, zone: 'UTC' });
    const plan = given === '' ? chosen(proposals, by) : await planIn(given);
    const parts = splitOf(course, links, plan);
    const made: { file: string; size: number; sha256: string; losses: ReturnType<typeof lossesOf> }[] = [];
    if (out !== '') {
      const target = targetFor(course, to);
      await mkdir(out, { recursive: true });
      // All parts are written, or none.
      const none = async (error: unknown) => {
        await rm(out, { recursive: true, force: true });
        throw error;
      };
      for (const [n, part] of parts.entries()) {
        const path = join(out, `${n + 1}.${target.extension}`);
        const { made: lost, ...written } = await writing(path, async (sink) => {
          const one = await partAsCourse(pkg, { course, links }, part, { engine: nodeEngine, unhashed: true });
          const entries = await planPackage(targetById(target.id).format, one.course, target, one.pkg);
          await writePackage(target, entries, one.pkg, sink, { engine: nodeEngine });
          return lossesOf(one.course, target);
        }).catch(none);
        made.push({ file: path, ...written, losses: lost });
      }
    }
    if (json) {
      const told = parts.map((part, n) => ({ ...toldOf(part, course), written: made[n] ?? null }));
      say(JSON.stringify({ plan, parts: told, notes: looked.notes }, null, 2));
      return;
    }
    parts.forEach((part, n) => {
      say(
        `${part.title}${part.term ? ` (${part.term.name})` : ''}: ${count(part.items.size, 'item')}, of which ${part.shared.length} shared; ${part.points} points`,
      );
      for (const { title, why } of part.shared) say(`  shared: ${title}, ${why}`);
      for (const { title, was, will } of part.weights) say(`  weight: ${title}, ${was} % before, ${will} % now`);
      for (const { item, words, becomes } of part.dangling)
        say(`  over the cut: ${titleOf(course, item)} ${words}: ${becomes}`);
      const file = made[n];
      if (!file) return;
      say(`  ${file.file}, SHA-256 ${file.sha256}`);
      for (const { item, kind, outcome, why } of file.losses) say(`    ${item} [${kind}]: ${outcome}. ${why}`);
    });
  });
}

function chosen(proposals: readonly Proposal[], by: Proposal['by'] | undefined): SplitPlan {
  const found = by === undefined ? proposals[0] : proposals.find((p) => p.by === by);
  if (found) return found.plan;
  throw new Refusal(
    problem('no-cut', by === undefined ? 'There is nothing here to cut between.' : `It can’t be cut by ${by}.`),
  );
}

async function planIn(path: string): Promise<SplitPlan> {
  if ((await standing(path)) !== 'file')
    throw new Refusal(problem('no-such-file', `There is no file ${path}.`, { file: path }));
  let json: unknown;
  try {
    json = JSON.parse(await readFile(path, 'utf8'));
  } catch (error) {
    throw usage(`${path} is no JSON: ${error instanceof Error ? error.message : String(error)}`);
  }
  const read = SplitPlan.safeParse(json);
  if (read.success) return read.data;
  throw usage(`${path} is no plan of a split: ${z.prettifyError(read.error)}`);
}

const titleOf = ({ items }: Course, id: string) => items.find((i) => i.id === id)?.title ?? id;

function toldOf({ title, term, items, shared, dangling, weights, points }: Part, course: Course) {
  const inOrder = course.items.filter((i) => items.has(i.id)).map((i) => ({ id: i.id, kind: i.kind, title: i.title }));
  return { title, term, items: inOrder, shared, dangling, weights, points };
}
