import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { tarnhall } from './app.ts';
import { SEED } from './seed.ts';

const settings = settingsFromEnvironment();

/** Where nobody is to be in its courses, there is only the one that tells how to work in it. */
const seed = process.env['STANDIN_TRIALS'] === 'no' ? SEED.slice(0, 1) : SEED;

await serve(
  tarnhall(settings, () => structuredClone([...seed])),
  settings.port,
  'Tarnhall',
);
