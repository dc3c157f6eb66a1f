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
    worker.say({ id: worker.asked[0]?.id, refusal: problem('not-a-zip', 'It is no zip.', {}, 'Choose another.') });
    await expectAsync(asked).toBeRejectedWithError(Refusal, 'It is no zip.');
    line.end();
    expect(worker.ended).toBeTrue();
  });

  it('says to all who wait that the worker stumbled, and goes on with it', async () => {
    const waiting = [line.ask({ ask: 'a' }), line.ask({ ask: 'b' })];
    worker.dispatchEvent(new ErrorEvent('error', { message: 'out of memory' }));
    for (const asked of waiting) await expectAsync(asked).toBeRejectedWithError(Refusal, /stumbled.*out of memory/);
    const next = line.ask<string>({ ask: 'c' });
    worker.say({ id: worker.asked.at(-1)?.id, answer: 'there' });
    expect(await next).toBe('there');
  });

  it('says at once to all who ask that the worker could not be loaded', async () => {
    const waiting = line.ask({ ask: 'a' });
    worker.dispatchEvent(new Event('error'));
    await expectAsync(waiting).toBeRejectedWithError(Refusal, /could not be loaded/);
    await expectAsync(line.ask({ ask: 'b' })).toBeRejectedWithError(Refusal, /could not be loaded/);
    expect(worker.asked.length).toBe(1);
  });
});
