import { Refusal, problem } from '@treenail/core';
import { WorkerLine } from './worker-line';

/** A worker that is told what to say. */
class Told extends EventTarget {
  readonly asked: { id: number; ask?: string }[] = [];
  ended = false;

  postMessage(message: { id: number }): void {
    this.asked.push(message);
  }

  terminate(): void {
    this.ended = true;
  }

  say(data: object): void {
    this.dispatchEvent(new MessageEvent('message', { data }));
  }
}

describe('A line to a worker', () => {
  let worker: Told;
  let heard: object[];
  let line: WorkerLine<{ progress: number }>;
  beforeEach(() => {
    worker = new Told();
    heard = [];
    line = new WorkerLine<{ progress: number }>(worker as unknown as Worker, (said) => void heard.push(said));
  });

  it('gives each question its own answer, in whatever order they come', async () => {
    const [first, second] = [line.ask<string>({ ask: 'a' }), line.ask<string>({ ask: 'b' })];
    const [a, b] = worker.asked;
    worker.say({ id: b?.id, answer: 'second' });
    worker.say({ progress: 3 });
    worker.say({ id: a?.id, answer: 'first' });
    expect([await first, await second]).toEqual(['first', 'second']);
    expect(heard).toContain({ progress: 3 });
  });

  it('throws what the worker refuses, as what a person is told', async () => {
    const asked = line.ask({ ask: 'a' });
    worker.say({ id: worker.asked[0]?.id, refusal: problem('not-a-zip', 'It is no zip.', 'Choose another.') });
    await expectAsync(asked).toBeRejectedWithError(Refusal, 'It is no zip.');
    line.end();
    expect(worker.ended).toBeTrue();
  });
});
