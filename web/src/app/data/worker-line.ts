import { Refusal, type Problem } from '@treenail/core';

/** What a worker answers to a question, by the question's number. */
export type Answered = { id: number; answer: unknown } | { id: number; refusal: Problem };

/** A line to a worker: questions with answers, and what the worker says of itself in between. */
export class WorkerLine<Said extends object> {
  private readonly worker: Worker;
  private readonly waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  private next = 1;

  constructor(worker: Worker, heard: (said: Said | Answered) => void = () => undefined) {
    this.worker = worker;
    worker.addEventListener('message', (event: MessageEvent<Said | Answered>) => {
      const said = event.data;
      heard(said);
      if (!('id' in said)) return;
      const asked = this.waiting.get(said.id);
      this.waiting.delete(said.id);
      if ('refusal' in said) asked?.reject(new Refusal(said.refusal));
      else asked?.resolve(said.answer as never);
    });
  }

  /** @throws Refusal what the worker refuses */
  ask<T>(message: object): Promise<T> {
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
