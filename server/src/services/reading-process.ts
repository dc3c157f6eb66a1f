import { fork, type ChildProcess } from 'node:child_process';
import { Problem, Refusal, problem } from '@treenail/core';
import type { Logger } from 'pino';
import * as z from 'zod';
import type { Answered, Asked, Read, Reading } from './readings.ts';

/** What the process that reads is asked, and what it says back. */
export const ToReader = z.object({ id: z.number(), name: z.string(), asked: z.array(z.unknown()) });
export type ToReader = z.infer<typeof ToReader>;
export const FromReader = z.discriminatedUnion('say', [
  z.object({ say: z.literal('answer'), id: z.number(), answer: z.unknown() }),
  z.object({ say: z.literal('refused'), id: z.number(), problem: Problem }),
  z.object({ say: z.literal('failed'), id: z.number(), why: z.string() }),
]);
export type FromReader = z.infer<typeof FromReader>;

export interface ReadingProcessOptions {
  /** The script of the process. */
  script: string | URL;
  log: Logger;
  /** How long one reading may take, in ms. */
  limitMs?: number;
  /** How much memory it may hold, in MB. */
  memoryMb?: number;
  execArgv?: string[];
}

const LIMIT_MS = 20_000;
const MEMORY_MB = 512;
const ACTION = 'Download the package to look at it, or leave the item out.';
/** What a process that has no memory left ends with, where a shell stands between. */
const ABORTED = 134;
const TOO_MUCH = problem('reading-too-much', 'It takes more memory to show than is given to one page.', {}, ACTION);
const ENDED = problem('reading-ended', 'The process that was to show it ended.');

/** Does readings in a process beside the server, one after another: what takes too long or too much ends that process only. */
export class ReadingProcess {
  private readonly options: ReadingProcessOptions;
  private child: ChildProcess | null = null;
  private last: Promise<unknown> = Promise.resolve();
  private next = 1;
  /** Readings that wait or are at work. */
  waiting = 0;

  constructor(options: ReadingProcessOptions) {
    this.options = options;
  }

  readonly read: Read = <K extends Reading>(name: K, ...asked: Asked<K>) => {
    this.waiting++;
    const turn = this.last.then(() => this.ask(name, asked));
    this.last = turn.catch(() => undefined).finally(() => this.waiting--);
    return turn as Answered<K>;
  };

  private ask(name: Reading, asked: readonly unknown[]): Promise<unknown> {
    const { log, limitMs = LIMIT_MS } = this.options;
    const child = this.ready();
    const id = this.next++;
    return new Promise((done, refuse) => {
      const over = () => {
        clearTimeout(limit);
        child.off('message', heard);
        child.off('exit', gone);
        child.off('error', neverThere);
      };
      const end = (why: Error) => {
        over();
        if (this.child === child) this.child = null;
        child.kill('SIGKILL');
        refuse(why);
      };
      const limit = setTimeout(() => {
        log.warn({ name }, 'a reading took too long');
        const seconds = Math.round(limitMs / 1000);
        end(
          new Refusal(
            problem('reading-too-long', `It was not ready after ${seconds} seconds and was given up.`, {}, ACTION),
          ),
        );
      }, limitMs);
      const gone = (code: number | null, by: string | null) => {
        log.warn({ name, code, by }, 'the process that reads ended');
        end(new Refusal(by === 'SIGABRT' || code === ABORTED ? TOO_MUCH : ENDED));
      };
      const neverThere = (why: Error) => end(why);
      const heard = (message: unknown) => {
        const parsed = FromReader.safeParse(message);
        if (!parsed.success || parsed.data.id !== id) return;
        over();
        if (parsed.data.say === 'answer') done(parsed.data.answer);
        else refuse(parsed.data.say === 'refused' ? new Refusal(parsed.data.problem) : new Error(parsed.data.why));
      };
      child.on('message', heard);
      child.once('exit', gone);
      child.once('error', neverThere);
      child.send({ id, name, asked: [...asked] } satisfies ToReader);
    });
  }

  close(): void {
    this.child?.kill('SIGKILL');
    this.child = null;
  }

  private ready(): ChildProcess {
    if (this.child?.connected === true) return this.child;
    const { script, memoryMb = MEMORY_MB, execArgv = process.execArgv, log } = this.options;
    const child = fork(script, [], {
      serialization: 'advanced',
      execArgv: [...execArgv, `--max-old-space-size=${memoryMb}`],
    });
    // Between readings nobody waits for it; without a listener its error would end the server.
    child.on('error', (why) => log.debug({ err: why }, 'the process that reads'));
    return (this.child = child);
  }
}

/** Several such processes: whoever has the least to do reads next. */
export function readBeside(processes: readonly [ReadingProcess, ...ReadingProcess[]]): Read {
  return (name, ...asked) => {
    const [first] = [...processes].sort((a, b) => a.waiting - b.waiting);
    return (first ?? processes[0]).read(name, ...asked);
  };
}
