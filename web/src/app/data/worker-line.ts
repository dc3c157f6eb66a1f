import { Refusal, problem, type Problem } from '@treenail/core';

/** What a worker answers to a question, by the question's number. */
export type Answered = { id: number; answer: unknown } | { id: number; refusal: Problem };

/** A line to a worker: questions with answers, and what the worker says of itself in between. */
export class WorkerLine<Said extends object> {
  private readonly worker: Worker;
  private readonly waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  private next = 1;
  /** Set once the worker will never answer. */
  private broken: Refusal | null = null;

  constructor(worker: Worker, heard: (said: Said | Answered) => void = () => undefined) {
    this.worker = worker;
    worker.addEventListener('message', (event: MessageEvent<Said | Answered>) => {
      const message = event.data;
      heard(message);
      if (!('id' in message)) return;
      const request = this.waiting.get(message.id);
      this.waiting.delete(message.id);
      if ('refusal' in message) request?.reject(new Refusal(message.refusal));
      else request?.resolve(message.answer as never);
    });
    worker.addEventListener('error', (event) => {
      // A script that could not be had says nothing of itself; one that stumbled goes on.
      const stumbled = event instanceof ErrorEvent && event.message !== '';
      const refusal = stumbled ? stumbledAt(event.message) : notLoaded();
      if (!stumbled) this.broken = refusal;
      for (const { reject } of this.waiting.values()) reject(refusal);
      this.waiting.clear();
    });
  }

  /** @throws Refusal what the worker refuses, `reader-stumbled` and `reader-not-loaded` */
  ask<T>(message: object): Promise<T> {
    if (this.broken) return Promise.reject(this.broken);
    const id = this.next++;
    return new Promise<T>((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      this.worker.postMessage({ ...message, id });
    });
  }

  end(): void {
    this.worker.terminate();
  }
}

function stumbledAt(what: string): Refusal {
  return new Refusal(problem('reader-stumbled', `What reads files here stumbled over this one (${what}).`));
}

function notLoaded(): Refusal {
  return new Refusal(
    problem(
      'reader-not-loaded',
      'What reads files here could not be loaded: Treenail does not answer, or was renewed meanwhile.',
    ),
  );
}
