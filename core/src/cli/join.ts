import * as z from 'zod';
import { nodeEngine } from '../container/node.ts';
import { planPackage, targetById, writePackage } from '../formats/index.ts';
import { Refusal, count, problem } from '../model/index.ts';
import { KeepOf, doublesOf, joined, type JoinPlan } from '../reshape/index.ts';
import { look, readCall, standing, usage, withFile, type Say } from './call.ts';
import { lossesOf, targetFor } from './target.ts';
import { writing } from './writing.ts';

const OPTIONS = {
  title: { type: 'string' },
  doubles: { type: 'string' },
  apart: { type: 'boolean' },
} as const;
const Options = z.object({
  title: z.string().default(''),
  doubles: KeepOf.default('first'),
  apart: z.boolean().default(false),
});

/** Tells what two courses have in common, or joins them. */
export async function join(args: readonly string[], say: Say): Promise<void> {
  const call = await readCall(args, 2, OPTIONS);
  const read = Options.safeParse(call.own);
  if (!read.success) throw usage('--doubles is first, second or both.');
  const { title, doubles: keep, apart } = read.data;
  const { files, json, out, to, opening } = call;
  if (out !== '' && (await standing(out)) !== null)
    throw new Refusal(problem('file-there', `${out} is there already.`, { file: out }));
  const [one = '', other = ''] = files;
  await withFile(one, opening, (firstPkg) =>
    withFile(other, opening, async (secondPkg) => {
      const first = await look(firstPkg, opening);
      const second = await look(secondPkg, opening);
      const doubles = doublesOf(first.course, second.course);
      const notes = [...first.notes, ...second.notes];
      const plan: JoinPlan = {
        title: title || first.course.title,
        doubles: keep,
        of: {},
        folders: apart ? 'apart' : 'joined',
      };
      const { made = null, ...written } =
        out === ''
          ? {}
          : await writing(out, async (sink) => {
              const target = targetFor(first.course, to);
              const whole = await joined(first, second, plan, { engine: nodeEngine });
              const entries = await planPackage(targetById(target.id).format, whole.course, target, whole.pkg);
              await writePackage(target, entries, whole.pkg, sink, { engine: nodeEngine });
              return {
                items: whole.course.items.length,
                weights: whole.weights,
                losses: lossesOf(whole.course, target),
                notTaken: whole.notTaken,
              };
            });
      if (json) {
        say(JSON.stringify({ doubles, notes, written: made && { file: out, ...written, ...made } }, null, 2));
        return;
      }
      say(`${count(doubles.length, 'item')} in both:`);
      for (const { title: name, kind, by, same } of doubles)
        say(`  ${name} [${kind}], by ${by}${same ? '' : ', not the same'}`);
      if (!made) return;
      say(`${out}: ${count(made.items, 'item')}`);
      for (const { title: name, was, will } of made.weights) say(`  weight: ${name}, ${was} % before, ${will} % now`);
      for (const words of made.notTaken) say(`  not taken of the second: ${words}`);
      say(made.losses.length === 0 ? 'Nothing more is lost.' : `${count(made.losses.length, 'item')} not whole:`);
      for (const { item, kind, outcome, why } of made.losses) say(`  ${item} [${kind}]: ${outcome}. ${why}`);
    }),
  );
}
