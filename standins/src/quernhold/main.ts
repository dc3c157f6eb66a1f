import { join } from 'node:path';
import { buildCourse } from '../demo/build.ts';
import { BTB210, EST120, NAV101, marrowickPlans, rehearsalPlans } from '../demo/index.ts';
import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { quernhold } from './app.ts';
import type { QCourse } from './model.ts';

/** The live installation holds the college's courses, the rehearsal a few that people try things on. */
const settings = settingsFromEnvironment();
const plans =
  process.env['STANDIN_COURSES'] === 'rehearsal' ? rehearsalPlans() : [BTB210, EST120, NAV101, ...marrowickPlans()];
const app = await quernhold(settings, async (folder) => {
  const courses: QCourse[] = [];
  for (const [i, plan] of plans.entries()) {
    const id = `c${101 + i}`;
    courses.push(await buildCourse(plan, id, join(folder, id)));
  }
  return courses;
});
await serve(app, settings.port, 'Quernhold');
