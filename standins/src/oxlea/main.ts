import { join } from 'node:path';
import { fenwrightPlans } from '../demo/index.ts';
import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { oxlea } from './app.ts';
import { buildBook } from './build.ts';
import type { OBook } from './model.ts';

const settings = settingsFromEnvironment();
const app = await oxlea(settings, async (folder) => {
  const books: OBook[] = [];
  for (const [i, plan] of fenwrightPlans().entries()) {
    const id = `b${i + 1}`;
    books.push(await buildBook(plan, id, join(folder, id)));
  }
  return books;
});
await serve(app, settings.port, 'Oxlea');
