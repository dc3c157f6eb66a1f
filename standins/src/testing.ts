import { mkdtempSync, rmSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Express } from 'express';
import yazl from 'yazl';
import type { Settings } from './shared/settings.ts';

/* What specs of the stand-ins have in common. */

export async function until<T>(look: () => Promise<T | null>): Promise<T> {
  for (const end = Date.now() + 60_000; Date.now() < end;) {
    const found = await look();
    if (found !== null) return found;
    await new Promise((done) => setTimeout(done, 10));
  }
  throw new Error('it did not come to that');
}

export async function zipOf(files: Record<string, string>): Promise<Buffer> {
  const zip = new yazl.ZipFile();
  for (const [path, body] of Object.entries(files)) zip.addBuffer(Buffer.from(body), path);
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  return Buffer.concat(parts);
}

/** A platform goes on working when nobody calls any more, so its folder may go only when the process does. */
const ROOT = mkdtempSync(join(tmpdir(), 'standins-'));
process.once('exit', () => rmSync(ROOT, { recursive: true, force: true }));

/** A question that they all know, and one that none of them does. */
export const QUESTIONS = {
  'imsmanifest.xml':
    '<manifest><organizations/><resources><resource identifier="r1" type="imsqti_item_xmlv2p1" href="q1.xml"><file href="q1.xml"/></resource><resource identifier="r2" type="imsqti_item_xmlv2p1" href="q2.xml"><file href="q2.xml"/></resource></resources></manifest>',
  'q1.xml':
    '<assessmentItem identifier="q1" title="One"><responseDeclaration identifier="R" cardinality="single"><correctResponse><value>b</value></correctResponse></responseDeclaration><itemBody><p>Which?</p><choiceInteraction responseIdentifier="R"><simpleChoice identifier="a">this</simpleChoice><simpleChoice identifier="b">that</simpleChoice></choiceInteraction></itemBody></assessmentItem>',
  'q2.xml':
    '<assessmentItem identifier="q2" title="Two"><itemBody><orderInteraction responseIdentifier="R"><simpleChoice identifier="a">x</simpleChoice></orderInteraction></itemBody></assessmentItem>',
};

/** A folder, settings and servers for each spec of a group; all of it goes with the spec. */
export function standIns() {
  const own = { folder: '' };
  const servers: Server[] = [];
  const settings = (more: Partial<Settings> = {}): Settings => ({
    port: 0,
    folder: own.folder,
    token: 'secret',
    name: 'Test',
    pace: 60,
    othersAhead: 2,
    expiryMs: 60_000,
    smtp: null,
    ...more,
  });
  const serve = async (app: Express): Promise<string> => {
    const server = await new Promise<Server>((done) => {
      const listening = app.listen(0, '127.0.0.1', () => done(listening));
    });
    servers.push(server);
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  };
  beforeEach(async () => {
    own.folder = await mkdtemp(join(ROOT, 'data-'));
  });
  afterEach(async () => {
    for (const server of servers.splice(0)) {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    }
  });
  return { own, settings, serve };
}
