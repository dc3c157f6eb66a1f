import express from 'express';
import { serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';

/** The world outside, as far as the demo's links lead: each host is a folder of this one. What is not listed is there. */
const GONE = ['chandler.example/bronze-2019.html', 'tables.marrowick.example/galvanic'];
const MOVED: Record<string, string> = {
  'films.marrowick.example/long-splice': 'https://films.marrowick.example/ropework/long-splice',
};

const app = express();
app.disable('x-powered-by');
app.use((req, res) => {
  const place = req.path.slice(1);
  const to = MOVED[place];
  if (to !== undefined) res.redirect(301, to);
  else if (GONE.includes(place)) res.status(404).type('text').send('There is no such page.');
  else res.type('text').send(`A page of ${place.split('/')[0] ?? 'nobody'}.`);
});
await serve(app, settingsFromEnvironment().port, 'the outside');
