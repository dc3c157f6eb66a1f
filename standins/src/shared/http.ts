import type { Server } from 'node:http';
import type { ErrorRequestHandler, Express } from 'express';

export function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}

/** Starts listening on loopback only, and stops cleanly when the process is told to. */
export function serve(app: Express, port: number, name: string): Promise<Server> {
  return new Promise((resolve, reject) => {
    const server = app.listen(port, '127.0.0.1', (error?: Error) => {
      if (error) reject(error);
      else {
        console.log(`${name} on http://127.0.0.1:${(server.address() as { port: number }).port}`);
        resolve(server);
      }
    });
    for (const signal of ['SIGINT', 'SIGTERM'] as const) {
      process.once(signal, () => {
        server.closeAllConnections();
        server.close(() => process.exit(0));
      });
    }
  });
}

export const answerErrors: ErrorRequestHandler = (error: unknown, _req, res, next) => {
  if (res.headersSent) {
    next(error);
    return;
  }
  const status = typeof error === 'object' && error !== null && 'status' in error ? Number(error.status) : 500;
  const message = error instanceof Error ? error.message : String(error);
  if (status >= 500) console.error(error);
  res.status(status).json({ trouble: message });
};

export class HttpTrouble extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}
