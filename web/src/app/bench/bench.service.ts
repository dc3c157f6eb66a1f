import { Injectable, signal, type OnDestroy } from '@angular/core';
import type { Item, Preview } from '@treenail/core';
import { Observable } from 'rxjs';
import { WorkerLine } from '../data/worker-line';
import type { Converted, FromWorker, Glance, Opened, Source } from './messages';

/** Speaks to the worker that runs the core over a dropped file. */
@Injectable()
export class BenchService implements OnDestroy {
  /** What was found once every file of the open package was read. */
  readonly surveyed = signal<Opened | null>(null);
  readonly progress = signal<{ done: number; total: number } | null>(null);

  /** Texts of the descriptions by which archives without a reader are read. */
  described: readonly string[] = [];
  private readonly line = new WorkerLine<FromWorker>(
    new Worker(new URL('./bench.worker', import.meta.url), { type: 'module' }),
    (said) => {
      if ('surveyed' in said) {
        this.progress.set(null);
        this.surveyed.set(said.surveyed);
      } else if ('progress' in said) this.progress.set({ done: said.progress, total: said.total });
      // While files are still being read their progress goes on.
      else if (this.surveyed() || 'refusal' in said) this.progress.set(null);
    },
  );

  ngOnDestroy(): void {
    this.line.end();
  }

  /** A first look at one of many, beside whatever is open. */
  glance(source: Source): Promise<Glance> {
    return this.line.ask<Glance>({ ask: 'glance', source, described: this.described });
  }

  open(source: Source): Promise<Opened> {
    this.surveyed.set(null);
    return this.line.ask<Opened>({ ask: 'open', source, described: this.described });
  }

  convert(target: string): Promise<Converted> {
    return this.line.ask<Converted>({ ask: 'convert', target });
  }

  readonly preview = (item: Item): Observable<Preview> =>
    new Observable((subscriber) => {
      this.line.ask<Preview>({ ask: 'preview', item: item.id }).then(
        (answer) => {
          subscriber.next(answer);
          subscriber.complete();
        },
        (error: unknown) => subscriber.error(error),
      );
    });
}
