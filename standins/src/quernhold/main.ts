import { randomBytes } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { buildCourse, makeFile } from '../demo/build.ts';
import { BTB210, EST120, NAV101, marrowickPlans, rehearsalPlans } from '../demo/index.ts';
import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { quernhold } from './app.ts';
import type { QCourse } from './model.ts';

/** The live installation holds the college's courses, the rehearsal a few that people try things on. */
const settings = settingsFromEnvironment();
const plans =
  process.env['STANDIN_COURSES'] === 'rehearsal' ? rehearsalPlans() : [BTB210, EST120, NAV101, ...marrowickPlans()];
/** Bytes of a film in every course, for measurements. */
const padding = Number(process.env['STANDIN_PADDING_BYTES'] ?? 0);

async function padded(course: QCourse, folder: string, bytes: number): Promise<QCourse> {
  const path = 'content/files/film.mp4';
  await writeFile(join(folder, path), randomBytes(bytes));
  return { ...course, nodes: [...course.nodes, { kind: 'file', ref: `${course.id}-film`, title: 'Film', path }] };
}

const safety = join(settings.folder, 'repository', 'safety');
await mkdir(safety, { recursive: true });
const shared = [
  { name: 'eye-protection.pdf', lines: ['Goggles at the wheel.', 'A visor at the forge.'] },
  { name: 'tool-book.pdf', lines: ['Sign before you take.', 'Sign when you bring it back.'] },
];
for (const { name, lines } of shared) await writeFile(join(safety, name), await makeFile({ make: 'pdf', name, lines }));

const app = await quernhold(settings, async (folder) => {
  const courses: QCourse[] = [];
  for (const [i, plan] of plans.entries()) {
    const id = `c${101 + i}`;
    const course = await buildCourse(plan, id, join(folder, id));
    courses.push(padding > 0 ? await padded(course, join(folder, id), padding) : course);
  }
  return courses;
});
await serve(app, settings.port, 'Quernhold');
