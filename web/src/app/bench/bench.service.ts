import { Injectable, signal, type OnDestroy } from '@angular/core';
import { Refusal, type Item, type Preview } from '@treenail/core';
import { Observable } from 'rxjs';
import type { Converted, FromWorker, Glance, Opened, Source, ToWorker } from './messages';

/** Speaks to the worker that runs the core over a dropped file. */
@Injectable()
export class BenchService implements OnDestroy {
  private readonly worker = new Worker(new URL('./bench.worker', import.meta.url), { type: 'module' });
  private readonly waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>();
  private next = 1;
  /** What was found once every file of the open package was read. */
  readonly surveyed = signal<Opened | null>(null);
  readonly progress = signal<{ done: number; total: number } | null>(null);

  constructor() {
    this.worker.addEventListener('message', (event: MessageEvent<FromWorker>) => {
      const said = event.data;
      if ('surveyed' in said) {
        this.progress.set(null);
        this.surveyed.set(said.surveyed);
        return;
      }
      if ('progress' in said) {
        this.progress.set({ done: said.progress, total: said.total });
        return;
      }
      const asked = this.waiting.get(said.id);
      this.waiting.delete(said.id);
      // While files are still being read their progress goes on.
      if (this.surveyed() || 'refusal' in said) this.progress.set(null);
      if ('refusal' in said) asked?.reject(new Refusal(said.refusal));
      else asked?.resolve(said.answer as never);
    });
  }

  ngOnDestroy(): void {
    this.worker.terminate();
  }

  /** A first look at one of many, beside whatever is open. */
  glance(source: Source): Promise<Glance> {
    return this.ask<Glance>({ ask: 'glance', id: this.next++, source });
  }

  open(source: Source): Promise<Opened> {
    this.surveyed.set(null);
    return this.ask<Opened>({ ask: 'open', id: this.next++, source });
  }

  convert(target: string): Promise<Converted> {
    return this.ask<Converted>({ ask: 'convert', id: this.next++, target });
  }

  readonly preview = (item: Item): Observable<Preview> =>
    new Observable((subscriber) => {
      this.ask<Preview>({ ask: 'preview', id: this.next++, item: item.id }).then(
        (answer) => {
          subscriber.next(answer);
          subscriber.complete();
        },
        (error: unknown) => subscriber.error(error),
      );
    });

  private ask<T>(message: ToWorker): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      this.waiting.set(message.id, { resolve: resolve, reject });
      this.worker.postMessage(message);
    });
  }
}
