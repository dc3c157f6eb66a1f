import { Injectable, inject, signal, type OnDestroy } from '@angular/core';
import {
  FINDING_SETTINGS,
  type Decision,
  type FindingSettings,
  type JoinPlan,
  type Preview,
  type Profile,
  type RedatePlan,
  type SplitPlan,
} from '@treenail/core';
import type { BeforeAfterAnswer, RelationsAnswer, TextSearchAnswer, TidyAnswer } from '@treenail/server/contract';
import { Observable, defer, firstValueFrom, from, map, of, tap } from 'rxjs';
import { Api } from '../data/api';
import { WorkerLine } from '../data/worker-line';
import type { InsideSource } from '../inside/source';
import type { TidySource } from '../tidy/source';
import type { RedateData } from '../redate/redate-view';
import type {
  Common,
  Compared,
  Converted,
  Cuts,
  Decided,
  FromWorker,
  Glance,
  HouseCalendar,
  Opened,
  PartAnswer,
  Source,
  ToWorker,
} from './messages';

const NOTHING: Decided = { decisions: [], leftOut: [], hiddenUntil: null, redate: null };

/** A request to the worker without its number. */
type Asked = ToWorker extends infer T ? (T extends { id: number } ? Omit<T, 'id'> : never) : never;

/** Speaks to the worker that runs the core over a dropped file. What is decided here is forgotten with the page. */
@Injectable()
export class BenchService implements OnDestroy {
  private readonly api = inject(Api);
  /** What was found in the files of the open package. */
  readonly surveyed = signal<Opened | null>(null);
  /** Whether every file of it was read to its end. */
  private whole = false;
  readonly progress = signal<{ done: number; total: number } | null>(null);
  readonly tidied = signal<TidyAnswer | null>(null);

  /** Texts of the descriptions by which archives without a reader are read. */
  described: readonly string[] = [];
  /** What an institution looks for. */
  settings: FindingSettings = FINDING_SETTINGS;
  private decided = NOTHING;
  private decisions = 0;
  private source: Source | null = null;
  private readonly line = new WorkerLine<FromWorker>(
    new Worker(new URL('./bench.worker', import.meta.url), { type: 'module' }),
    (said) => {
      if ('surveyed' in said) {
        this.whole = said.whole;
        if (said.whole) this.progress.set(null);
        this.surveyed.set(said.surveyed);
      } else if ('progress' in said) this.progress.set({ done: said.progress, total: said.total });
      // While files are still being read their progress goes on.
      else if (this.whole || 'refusal' in said) this.progress.set(null);
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
    this.whole = false;
    this.tidied.set(null);
    this.decided = NOTHING;
    this.source = source;
    return this.line.ask<Opened>({ ask: 'open', source, described: this.described, settings: this.settings });
  }

  compare(source: Source): Promise<Compared> {
    return this.line.ask<Compared>({ ask: 'compare', source, described: this.described });
  }

  convert(target: string): Promise<Converted> {
    return this.line.ask<Converted>({ ask: 'convert', target, decided: this.decided });
  }

  /** Looks once for everything there is to decide. */
  async tidy(): Promise<void> {
    if (!this.tidied()) await firstValueFrom(this.retidy({ ...NOTHING, redate: this.decided.redate }));
  }

  /** Looks at the open package as a destination would have it, or as none in particular. */
  destine(profile: Profile | null): Observable<TidyAnswer> {
    const { decided } = this;
    this.whole = false;
    return this.ask<TidyAnswer>({ ask: 'destine', profile, decided }).pipe(tap((answer) => this.tidied.set(answer)));
  }

  /** An item of the open package as it came, or of the one that it was compared with. */
  previewOf(which: 'open' | 'beside', item: string, learner: boolean): Observable<Preview> {
    return which === 'open'
      ? this.ask<Preview>({ ask: 'preview', item, learner, question: '', decided: NOTHING })
      : this.ask<Preview>({ ask: 'preview-beside', item, learner });
  }

  /** How the open package is looked into. */
  readonly inside: InsideSource = {
    preview: (item, { learner, question, mended }) =>
      this.ask<Preview>({
        ask: 'preview',
        item: item.id,
        learner,
        question,
        decided: mended ? this.decided : NOTHING,
      }),
    mendable: () =>
      this.decided.redate !== null ||
      this.decided.hiddenUntil !== null ||
      (this.tidied() !== null && this.decided.decisions.length + this.decided.leftOut.length > 0),
    addressOf: (path, mended) =>
      this.ask<Blob>({ ask: 'file', path, decided: mended ? this.decided : NOTHING }).pipe(
        map((blob) => {
          const url = URL.createObjectURL(blob);
          return { url, release: () => URL.revokeObjectURL(url) };
        }),
      ),
    search: (question) => this.ask<TextSearchAnswer>({ ask: 'search', question }),
    relations: () => this.ask<RelationsAnswer>({ ask: 'relations' }),
    exports: ['json'],
    exportInventory: () => this.giveInventory(),
    // What lies here is nowhere kept.
    give: null,
    playAt: (item) => {
      // What plays needs a server of its own origin: only kept copies have one.
      const copy = this.source && 'address' in this.source ? /copies\/(\d+)/.exec(this.source.address)?.[1] : undefined;
      return item.settings.tracked === true && copy !== undefined
        ? this.api.play(Number(copy), { item: item.id }).pipe(map(({ address }) => address))
        : null;
    },
  };

  readonly tidying: TidySource = {
    decide: ({ match, mend, params, reason }) => {
      const same = (d: Decision) =>
        d.match.kind === match.kind && d.match.groupKey === match.groupKey && d.match.key === match.key;
      const decision = { id: String(++this.decisions), match, mend, params, reason };
      return this.retidy({
        ...this.decided,
        decisions: [...this.decided.decisions.filter((d) => !same(d)), decision],
      });
    },
    undo: (id) => this.retidy({ ...this.decided, decisions: this.decided.decisions.filter((d) => d.id !== id) }),
    choose: (goes) => this.retidy({ ...this.decided, ...goes }),
    beforeAfter: (asked) => this.ask<BeforeAfterAnswer>({ ask: 'before-after', ...asked }),
    give: (file) => this.ask<string>({ ask: 'give', file }),
    rules: null,
  };

  /** Every date of what is open. */
  dates(house: HouseCalendar): Observable<RedateData> {
    return this.ask<RedateData>({ ask: 'dates', house, decided: this.decided });
  }

  /** From now on what is made of the open package has these dates; `null` for those that it came with. */
  redate(plan: RedatePlan | null, zone: string): void {
    this.decided = { ...this.decided, redate: plan === null ? null : { plan, zone } };
  }

  cuts(house: HouseCalendar): Observable<Cuts> {
    return this.ask<Cuts>({ ask: 'cuts', house, decided: this.decided });
  }

  parts(plan: SplitPlan): Observable<PartAnswer[]> {
    return this.ask<PartAnswer[]>({ ask: 'parts', plan, decided: this.decided });
  }

  split(plan: SplitPlan, target: string): Promise<Converted[]> {
    return this.line.ask<Converted[]>({ ask: 'split', plan, target, decided: this.decided });
  }

  /** What the open package and another have in common. */
  doubles(source: Source): Promise<Common> {
    return this.line.ask<Common>({ ask: 'doubles', source, described: this.described, decided: this.decided });
  }

  /** The open package and the one that was looked at last for what both have, as one. */
  join(plan: JoinPlan, target: string): Promise<Converted> {
    return this.line.ask<Converted>({ ask: 'join', plan, target, decided: this.decided });
  }

  private retidy(decided: Decided): Observable<TidyAnswer> {
    return this.ask<TidyAnswer>({ ask: 'tidy', decided }).pipe(
      tap((answer) => {
        this.decided = { ...decided, leftOut: answer.leftOut };
        this.tidied.set(answer);
      }),
    );
  }

  private ask<T extends Extract<FromWorker, { answer: unknown }>['answer']>(asked: Asked): Observable<T> {
    return defer(() => from(this.line.ask<T>(asked)));
  }

  private giveInventory(): void {
    const opened = this.surveyed();
    if (!opened) return;
    const { title, origin } = opened.course;
    const text = JSON.stringify({ title, origin, inventory: opened.inventory }, null, 2);
    of(new Blob([text], { type: 'application/json' })).subscribe((blob) => {
      const link = document.createElement('a');
      link.href = URL.createObjectURL(blob);
      link.download = 'inventory.json';
      link.click();
      URL.revokeObjectURL(link.href);
    });
  }
}
