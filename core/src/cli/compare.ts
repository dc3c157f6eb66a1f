import { compare } from '../compare/index.ts';
import type { Course } from '../model/index.ts';
import { explain } from '../report/index.ts';
import { look, readCall, withFile, type Say } from './call.ts';

export async function compareFiles(args: readonly string[], say: Say): Promise<void> {
  const { files, json, opening } = await readCall(args, 2);
  const courseOf = (path = '') =>
    withFile(path, opening, async (pkg): Promise<Course> => (await look(pkg, opening)).course);
  const [before, after] = [await courseOf(files[0]), await courseOf(files[1])];
  const comparison = compare(before, after);
  if (json) {
    say(JSON.stringify(comparison, null, 2));
    return;
  }
  say(
    Object.entries(comparison.totals)
      .map(([outcome, n]) => `${n} ${outcome}`)
      .join(', '),
  );
  for (const line of comparison.lines) {
    if (line.outcome !== 'whole') say(`  ${line.title} [${line.kind}]: ${line.outcome}. ${explain(line)}`);
  }
}
