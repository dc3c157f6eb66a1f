import { join } from 'node:path';
import express from 'express';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import * as z from 'zod';
import { HttpTrouble, answerErrors, escapeHtml as esc, serve } from '../shared/http.ts';
import { settingsFromEnvironment } from '../shared/settings.ts';
import { JsonStore } from '../shared/store.ts';

/** A mailbox that takes every mail, whoever it is for, and has a page to read them. Nothing leaves this machine. */
const Mail = z.object({
  id: z.number(),
  to: z.string(),
  subject: z.string(),
  text: z.string(),
  at: z.string(),
});
const State = z.object({ mails: z.array(Mail), next: z.number() });

const settings = settingsFromEnvironment();
const store = new JsonStore(join(settings.folder, 'state.json'), State, () => ({ mails: [], next: 1 }));

const smtp = new SMTPServer({
  authOptional: true,
  disabledCommands: ['STARTTLS', 'AUTH'],
  onData(stream, session, done) {
    simpleParser(stream).then(
      ({ subject = '', text = '' }) => {
        store.state.mails.unshift({
          id: store.state.next++,
          to: session.envelope.rcptTo.map((r) => r.address).join(', '),
          subject,
          text: text.trim(),
          at: new Date().toISOString(),
        });
        store.state.mails.length = Math.min(store.state.mails.length, 500);
        store.save();
        done();
      },
      (error: unknown) => done(error instanceof Error ? error : new Error(String(error))),
    );
  },
});
const smtpPort = Number(process.env['STANDIN_SMTP_PORT']);
smtp.listen(smtpPort, '127.0.0.1');

const linked = (text: string) => esc(text).replace(/https?:\/\/[^\s<]+/g, (url) => `<a href="${url}">${url}</a>`);
const page = (title: string, body: string) =>
  `<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><link rel="icon" href="data:,"><title>${esc(title)}</title><style>body{font:16px/1.5 sans-serif;max-width:50em;margin:1em auto;padding:0 1em}li{margin:.3em 0}pre{font:inherit;white-space:pre-wrap}small{color:#555}</style></head><body><p><small>The mailbox of Marrowick (a stand-in)</small></p><h1>${esc(title)}</h1>${body}</body></html>`;

const app = express();
app.get('/', (_req, res) => {
  const lines = store.state.mails.map(
    (m) => `<li><a href="/mail/${m.id}">${esc(m.subject)}</a> <small>to ${esc(m.to)}, ${esc(m.at)}</small></li>`,
  );
  res.send(page('Mail', lines.length === 0 ? '<p>No mail yet.</p>' : `<ul>${lines.join('')}</ul>`));
});
app.get('/mail/:id', (req, res) => {
  const mail = store.state.mails.find((m) => m.id === Number(req.params.id));
  if (!mail) throw new HttpTrouble(404, 'no such mail');
  res.send(page(mail.subject, `<p><small>to ${esc(mail.to)}</small></p><pre>${linked(mail.text)}</pre>`));
});
app.get('/mails', (_req, res) => void res.json({ mails: store.state.mails }));
app.use(answerErrors);
await serve(app, settings.port, 'The mailbox');
