import { Injectable, computed, inject, signal } from '@angular/core';
import { NO_REDATING, type JoinPlan, type RedatePlan, type SplitPlan } from '@treenail/core';
import { firstValueFrom, forkJoin } from 'rxjs';
import { Api } from '../data/api';
import type { RedateData } from '../redate/redate-view';
import { BenchService } from './bench.service';
import type { Common, Converted, Cuts, HouseCalendar, Source } from './messages';

/** What is decided of the open package beyond its findings: where its dates go, where it is cut, with what it is joined. */
@Injectable()
export class ReshapingService {
  private readonly api = inject(Api);
  private readonly bench = inject(BenchService);
  readonly dated = signal<RedateData | null>(null);
  /** What is being decided of its dates. */
  readonly draft = signal<RedatePlan>(NO_REDATING);
  /** The dates that everything made of it has; `null` where it has its own. */
  readonly used = signal<RedatePlan | null>(null);
  readonly changed = computed(() => JSON.stringify(this.draft()) !== JSON.stringify(this.used() ?? NO_REDATING));
  readonly cuts = signal<Cuts | null>(null);
  /** Where a person cuts it, as far as they have come. */
  readonly cutPlan = signal<SplitPlan | null>(null);

  /** Another package is open. */
  begin(): void {
    this.dated.set(null);
    this.used.set(null);
    this.draft.set(NO_REDATING);
    this.cuts.set(null);
    this.cutPlan.set(null);
  }

  /** What the house has set. @throws where it does not come */
  house(): Promise<HouseCalendar> {
    const { terms, closedDays, zone } = this.api;
    return firstValueFrom(forkJoin({ terms: terms(), closed: closedDays(), zone: zone() }));
  }

  /** Looks once for its dates, and proposes the term after that in which they lie. */
  async lookForDates(house: HouseCalendar): Promise<void> {
    if (this.dated()) return;
    const data = await firstValueFrom(this.bench.dates(house));
    const [from, to] = [data.from, data.to].map((name) => data.terms.find((t) => t.name === name));
    this.draft.set(from && to ? { ...NO_REDATING, rule: { is: 'term', from, to } } : NO_REDATING);
    this.dated.set(data);
  }

  /** From now on what is made of it has these dates. */
  use(plan: RedatePlan | null): void {
    this.used.set(plan);
    if (plan === null) this.draft.set(NO_REDATING);
    this.bench.redate(plan, this.dated()?.zone ?? 'UTC');
  }

  async lookForCuts(house: HouseCalendar): Promise<void> {
    this.cuts.set(await firstValueFrom(this.bench.cuts(house)));
  }

  split(plan: SplitPlan, target: string): Promise<Converted[]> {
    return this.bench.split(plan, target);
  }

  /** What it has in common with another, before the two are joined. */
  common(source: Source): Promise<Common> {
    return this.bench.doubles(source);
  }

  join(plan: JoinPlan, target: string): Promise<Converted> {
    return this.bench.join(plan, target);
  }
}
