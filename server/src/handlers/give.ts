import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  courseName,
  declaredLosses,
  explain,
  lookInto,
  nameByRule,
  planPackage,
  profileOn,
  readPackage,
  selectionOf,
  targetById,
  workingCopy,
  writePackage,
  type Course,
  type CourseLink,
  type Target,
} from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import * as z from 'zod';
import { Copy, GivenFile } from '../db/models/index.ts';
import type { Handler } from '../jobs/worker.ts';
import type { Services } from '../services/context.ts';
import { leftOutBy } from '../services/errands.ts';
import { withPackage } from '../services/packages.ts';
import { keptOf } from '../services/packing.ts';
import { Built } from './sending.ts';

const Made = z.object({ built: Built, losses: z.array(z.string()) });

/** Makes a file of things of a kept copy, with what these need. The copy stays as it is. */
export const give = (services: Services): Handler<'give'> => ({
  run: async (context, { givenId, round }) => {
    const row = await GivenFile.findByPk(givenId, { rejectOnEmpty: true });
    const copy = await Copy.findByPk(row.copyId, { rejectOnEmpty: true });
    const { format, target } = targetById(row.target);
    const told = (words: string) => (at: { done: number; total: number }) =>
      void context.report({ words, unit: 'files', ...at }).catch(() => undefined);
    const scratch = join(services.config.scratch, `given-${randomUUID()}.zip`);
    await mkdir(services.config.scratch, { recursive: true });
    const made = await context.step(`given-${round}`, Made, () =>
      withPackage(services, copy.sha256, async (pkg, described) => {
        const looked = await lookInto(await readPackage(pkg, described), {
          engine: nodeEngine,
          onProgress: told('looking inside'),
        });
        const leftOut = leftOutBy(looked.course, looked.links, row.items);
        const options = {
          engine: nodeEngine,
          scratch: scratchFile(scratch),
          withoutEmpty: true,
          withoutPeople: true,
          leftOut,
        };
        const worked = await workingCopy(pkg, looked, [], [], options);
        try {
          const given = called(worked.course, row.items, `From ${courseName(copy)} ${copy.title}.`);
          const plan = await planPackage(format, given, target, worked.pkg);
          const kept = await keptOf(services, `given-${context.job.id}`, async (sink) => {
            await writePackage(target, plan, worked.pkg, sink, {
              engine: nodeEngine,
              onProgress: told('making the file'),
            });
          });
          const fileName = nameByRule({ ...copy.get(), title: given.title }, new Date(), target.extension);
          return {
            built: { ...kept, format: target.label, fileName },
            losses: [...lossesOf(given, target), ...leadsNowhere(looked, leftOut)],
          };
        } finally {
          if (worked.pkg !== pkg) await worked.pkg.close();
        }
      }).finally(() => rm(scratch, { force: true })),
    );
    await row.update(made);
    await context.report({ words: `${courseName(copy)}: the file to give is ready` });
  },
});

/** It says where it is from; one thing goes under its own name. */
function called(course: Course, asked: readonly string[], from: string): Course {
  const [only] = asked.length === 1 ? course.items.filter((i) => i.id === asked[0]) : [];
  const { description } = course.metadata;
  const metadata = { ...course.metadata, description: description === undefined ? from : `${from} ${description}` };
  const origin = { ...course.origin, untouched: false };
  return { ...course, ...(only ? { title: only.title } : {}), metadata, origin };
}

/** References of what is given to what is not: a sentence each. */
function leadsNowhere(
  { course, links }: { course: Course; links: readonly CourseLink[] },
  leftOut: readonly string[],
): string[] {
  const titles = new Map(course.items.map((i) => [i.id, i.title]));
  return selectionOf(course, new Set(leftOut), links).dangling.map(
    ({ item, words }) => `“${titles.get(item) ?? item}” ${words}, which is not given with it`,
  );
}

/** What the format does not hold of it: a sentence each. */
function lossesOf(course: Course, target: Target): string[] {
  return declaredLosses(course, profileOn(course, target)).map((line) => {
    const lost = line.settings.filter((s) => s.outcome !== 'whole').map((s) => s.name);
    const why = explain(line);
    return `“${line.title}”: ${line.outcome}${why ? `, ${why}` : ''}${lost.length > 0 ? ` (${lost.join(', ')})` : ''}`;
  });
}
