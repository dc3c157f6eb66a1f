import { rm } from 'node:fs/promises';
import { inventory, openPackage, readCourse, survey, targetById, writePackage, type Package } from '@treenail/core';
import { fileSink, fileSource, nodeEngine } from '@treenail/core/node';

/** What is measured, each run in a process of its own: `tasks.ts NAME FILE …`. */
const TASKS: Record<string, (...args: string[]) => Promise<void>> = {
  async inventory(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      console.log(JSON.stringify(inventory(course).kinds));
    });
  },
  async convert(file = '', target = 'cc13', out = '') {
    await rm(out, { force: true });
    const to = targetById(target);
    const sink = await fileSink(out);
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      await writePackage(await to.format.plan(course, to.target, pkg), pkg, sink, { engine: nodeEngine });
    });
    console.log((await sink.close()).sha256);
  },
  async survey(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      const { links } = await survey(pkg, course, { engine: nodeEngine });
      console.log(links.length);
    });
  },
};

async function withPackage(file: string, work: (pkg: Package) => Promise<void>): Promise<void> {
  const source = await fileSource(file);
  try {
    await work(await openPackage(source, { engine: nodeEngine }));
  } finally {
    await source.close();
  }
}

const [name = '', ...args] = process.argv.slice(2);
const run = TASKS[name];
if (!run) throw new Error(`no task ${name}; there are ${Object.keys(TASKS).join(', ')}`);
await run(...args);
