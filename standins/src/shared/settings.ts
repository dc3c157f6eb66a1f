/** Settings of a stand-in process, from its environment. */
export interface Settings {
  port: number;
  folder: string;
  token: string;
  /** What its people call this installation. */
  name: string;
  /** Milliseconds that one job of somebody else takes in a queue; everything slow is a multiple of it. */
  pace: number;
  /** Other people's jobs that stand ahead when the queue was empty. */
  othersAhead: number;
  /** How long a finished export is kept, where the platform throws exports away. */
  expiryMs: number;
  /** Where mail is handed in; none is sent where there is no such place. */
  smtp: string | null;
}

export function settingsFromEnvironment(): Settings {
  const read = (name: string): string => {
    const value = process.env[name];
    if (value === undefined || value === '') throw new Error(`${name} is not set`);
    return value;
  };
  return {
    port: Number(read('STANDIN_PORT')),
    folder: read('STANDIN_FOLDER'),
    token: read('STANDIN_TOKEN'),
    name: process.env['STANDIN_NAME'] ?? 'a stand-in',
    pace: Number(process.env['STANDIN_PACE_MS'] ?? 5000),
    othersAhead: Number(process.env['STANDIN_OTHERS_AHEAD'] ?? 2),
    expiryMs: Number(process.env['STANDIN_EXPIRY_MS'] ?? 86_400_000),
    smtp: process.env['STANDIN_SMTP'] ?? null,
  };
}
