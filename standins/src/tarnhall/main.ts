import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { tarnhall } from './app.ts';
import { SEED } from './seed.ts';

const settings = settingsFromEnvironment();

await serve(
  tarnhall(settings, () => structuredClone([...SEED])),
  settings.port,
  'Tarnhall',
);
