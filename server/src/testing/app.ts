import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pino from 'pino';
import { createApp } from '../api/app.ts';
import type { Services } from '../services/context.ts';
import { signIn } from '../services/people.ts';

export interface TestApp {
  /** Address of the API, without a slash at its end. */
  base: string;
  close(): Promise<void>;
}

/** The API on a port of its own on loopback. */
export async function testApp(services: Services): Promise<TestApp> {
  const { app, events } = createApp(services, pino({ level: 'silent' }));
  const server: Server = app.listen(0, '127.0.0.1');
  await new Promise((done) => server.once('listening', done));
  return {
    base: `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`,
    async close() {
      events.close();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    },
  };
}

/** The cookie of somebody who signed in with the password `right`. */
export async function cookieOf(email: string): Promise<string> {
  return `treenail_session=${(await signIn(email, 'right')).token}`;
}
