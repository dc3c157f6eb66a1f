import { join } from 'node:path';
import { readLimits, type Limits } from '@treenail/core';
import * as z from 'zod';

const Environment = z.object({
  TREENAIL_PORT: z.coerce.number().int().default(4700),
  TREENAIL_DATA: z.string(),
  /** 32 bytes in hex: encrypts platform credentials. */
  TREENAIL_SECRET: z.string().regex(/^[0-9a-f]{64}$/),
  TREENAIL_WEB: z.string().optional(),
  TREENAIL_POLL_MS: z.coerce.number().int().default(1000),
  /** Limits of packages, as `name=number,…`. */
  TREENAIL_LIMITS: z.string().default(''),
  TREENAIL_UPLOAD_BYTES: z.coerce
    .number()
    .int()
    .default(20 * 2 ** 30),
  /** What stays free on the disk, whatever arrives: the database and what is kept lie on it too. */
  TREENAIL_RESERVE_BYTES: z.coerce
    .number()
    .int()
    .default(256 * 2 ** 20),
  /** How long an export may stand still at a platform before it is asked for anew. */
  TREENAIL_HANG_MS: z.coerce
    .number()
    .int()
    .default(20 * 60_000),
  /** Where mail goes: `smtp://host:port`; none where it is not set. */
  TREENAIL_SMTP: z.url({ protocol: /^smtps?$/ }).optional(),
  /**
   * Where addresses of hosts that end in `.example` are asked instead, as `/host/path`: such hosts exist nowhere (RFC
   * 2606), and the demo's links lead to them. Off where it is not set.
   */
  TREENAIL_EXAMPLES_AT: z.url().optional(),
  /** Whether outside addresses may be asked at all. */
  TREENAIL_ASK_OUTSIDE: z.enum(['yes', 'no']).default('yes'),
  /** Where people reach Treenail: links in mails begin with it. */
  TREENAIL_ADDRESS: z.url().optional(),
  /** Where learning objects are played: a host that Treenail's cookies are not sent to. None are played on port 0. */
  TREENAIL_PLAY_PORT: z.coerce.number().int().default(0),
  TREENAIL_PLAY_ADDRESS: z.url().optional(),
  /** A job that took longer is told of by mail. */
  TREENAIL_MAIL_AFTER_MS: z.coerce.number().int().default(60_000),
  TREENAIL_LEASE_MS: z.coerce.number().int().default(15_000),
  /** How long one turn of a job may take before it is ended; waiting at a platform is no turn. */
  TREENAIL_JOB_MS: z.coerce
    .number()
    .int()
    .default(2 * 3_600_000),
  /**
   * Hosts and nets at home that instances may be at, as `10.0.0.0/8 lms.college.example`; anywhere else only public
   * addresses are spoken to.
   */
  TREENAIL_HOME_NETS: z.string().default(''),
  /** The time zone of the house, until a person sets another; that of the machine where none is given. */
  TREENAIL_ZONE: z.string().default(() => new Intl.DateTimeFormat().resolvedOptions().timeZone),
  DB_HOST: z.string().default('127.0.0.1'),
  DB_PORT: z.coerce.number().int().default(3306),
  DB_NAME: z.string().default('treenail'),
  DB_USER: z.string().default('treenail'),
  DB_PASSWORD: z.string().default(''),
  TREENAIL_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('info'),
});

export interface Config {
  port: number;
  /** Where blobs and unfinished downloads are. */
  blobs: string;
  scratch: string;
  /** Where files arrive, and how long one may be, bytes. */
  uploads: string;
  uploadBytes: number;
  /** What stays free on the disk when files arrive, bytes. */
  reserveBytes: number;
  limits: Partial<Limits>;
  secret: Buffer;
  /** The built web application, if this process serves it. */
  web: string | null;
  /** How often a platform's queue is looked at. */
  pollMs: number;
  leaseMs: number;
  smtp: string | null;
  address: string;
  playPort: number;
  playAddress: string;
  examplesAt: string | null;
  askOutside: boolean;
  mailAfterMs: number;
  hangMs: number;
  jobMs: number;
  homeNets: string;
  /** IANA name. */
  zone: string;
  log: string;
  db: { host: string; port: number; name: string; user: string; password: string };
}

export function configFromEnvironment(environment: NodeJS.ProcessEnv = process.env): Config {
  const read = Environment.parse(environment);
  return {
    port: read.TREENAIL_PORT,
    blobs: join(read.TREENAIL_DATA, 'blobs'),
    scratch: join(read.TREENAIL_DATA, 'scratch'),
    uploads: join(read.TREENAIL_DATA, 'uploads'),
    uploadBytes: read.TREENAIL_UPLOAD_BYTES,
    reserveBytes: read.TREENAIL_RESERVE_BYTES,
    limits: readLimits(read.TREENAIL_LIMITS),
    secret: Buffer.from(read.TREENAIL_SECRET, 'hex'),
    web: read.TREENAIL_WEB ?? null,
    pollMs: read.TREENAIL_POLL_MS,
    leaseMs: read.TREENAIL_LEASE_MS,
    smtp: read.TREENAIL_SMTP ?? null,
    address: read.TREENAIL_ADDRESS ?? `http://127.0.0.1:${read.TREENAIL_PORT}`,
    playPort: read.TREENAIL_PLAY_PORT,
    playAddress: read.TREENAIL_PLAY_ADDRESS ?? `http://localhost:${read.TREENAIL_PLAY_PORT}`,
    examplesAt: read.TREENAIL_EXAMPLES_AT ?? null,
    askOutside: read.TREENAIL_ASK_OUTSIDE === 'yes',
    mailAfterMs: read.TREENAIL_MAIL_AFTER_MS,
    hangMs: read.TREENAIL_HANG_MS,
    jobMs: read.TREENAIL_JOB_MS,
    homeNets: read.TREENAIL_HOME_NETS,
    zone: read.TREENAIL_ZONE,
    log: read.TREENAIL_LOG,
    db: { host: read.DB_HOST, port: read.DB_PORT, name: read.DB_NAME, user: read.DB_USER, password: read.DB_PASSWORD },
  };
}

/**
 * Whether learning objects may be played. Cookies do not tell ports apart: on the host that people reach Treenail by, a
 * learning object's scripts would have theirs.
 */
export function playsApart({ address, playAddress }: Pick<Config, 'address' | 'playAddress'>): boolean {
  return new URL(playAddress).hostname !== new URL(address).hostname;
}
