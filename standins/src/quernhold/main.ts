import { join } from 'node:path';
import { buildCourse } from '../demo/build.ts';
import { BTB210, EST120, NAV101 } from '../demo/index.ts';
import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { quernhold } from './app.ts';

const settings = settingsFromEnvironment();
const app = await quernhold(settings, async (folder) => {
  const plans = [BTB210, EST120, NAV101];
  return Promise.all(plans.map((plan, i) => buildCourse(plan, `c${101 + i}`, join(folder, `c${101 + i}`))));
});
await serve(app, settings.port, 'Quernhold');
