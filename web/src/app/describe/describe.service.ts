import { Injectable, type OnDestroy } from '@angular/core';
import type { Source } from '../bench/messages';
import { WorkerLine } from '../data/worker-line';
import type { ArchiveOpened, Peeked, Tried } from './messages';

/** Speaks to the worker that reads an archive by the description that is being written. */
@Injectable()
export class DescribeService implements OnDestroy {
  private readonly line = new WorkerLine<never>(
    new Worker(new URL('./describe.worker', import.meta.url), { type: 'module' }),
  );

  ngOnDestroy(): void {
    this.line.end();
  }

  open(source: Source): Promise<ArchiveOpened> {
    return this.line.ask<ArchiveOpened>({ ask: 'open', source });
  }

  attempt(text: string): Promise<Tried> {
    return this.line.ask<Tried>({ ask: 'try', text });
  }

  peek(path: string): Promise<Peeked> {
    return this.line.ask<Peeked>({ ask: 'peek', path });
  }
}
