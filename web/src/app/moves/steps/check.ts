import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { differsFromForecast, filterJoint, jointOfCheck } from '@treenail/core';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { Api } from '../../data/api';
import { JointView } from '../../joint/joint';
import { LineDetail } from '../../joint/line-detail';
import { Awaited, lastOf } from '../../parts/awaited';
import { TotalsBar } from '../../parts/totals';
import { JobPanel } from './job-panel';
import { StepHead } from './step-head';

type Shown = 'all' | 'not whole' | 'otherwise';

/** What really arrived: both outlines, joined peg by peg. */
@Component({
  selector: 'tn-check-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, JobPanel, JointView, LineDetail, MatButton, RouterLink, StepHead, TotalsBar],
  template: `
    <tn-step-head [move]="move()">
      @if (check()) {
        <a matButton="filled" [routerLink]="['/moves', move().id, 'hand-over']">See the transfer report</a>
      }
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    <tn-awaited [of]="[loaded]" />
    @if (check(); as check) {
      <div class="answer">
        <tn-totals [totals]="check.comparison.totals" />
        <span class="chips">
          @for (choice of choices; track choice) {
            <button type="button" class="chip" [attr.aria-pressed]="shown() === choice" (click)="shown.set(choice)">
              {{ choice === 'otherwise' ? 'otherwise than foretold' : choice }}
              @if (choice === 'otherwise') {
                <b>{{ check.comparison.otherwise }}</b>
              }
            </button>
          }
        </span>
      </div>
      <tn-joint [joint]="joint()" [leftName]="move().from.name" [rightName]="move().to.name" [(chosen)]="chosen" />
      <tn-line-detail [line]="line()" [titles]="titles()" />
    }
  `,
  styleUrl: './joined.scss',
})
export class CheckStep {
  private readonly api = inject(Api);
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  protected readonly choices: readonly Shown[] = ['all', 'not whole', 'otherwise'];
  protected readonly shown = signal<Shown>('all');
  /** Begins at the first line that came otherwise than foretold. */
  protected readonly chosen = linkedSignal<number | null>(() => {
    const at = this.check()?.comparison.lines.findIndex(differsFromForecast) ?? -1;
    return at < 0 ? null : at;
  });
  protected readonly loaded = rxResource({
    params: () => (this.move().at === 'hand-over' ? this.move().id : undefined),
    stream: ({ params }) => this.api.check(params),
  });
  protected readonly check = lastOf(this.loaded);
  private readonly whole = computed(() => {
    const check = this.check();
    return check
      ? jointOfCheck(check.course, check.arrived, check.comparison.lines)
      : { left: [], right: [], pegs: [] };
  });
  protected readonly joint = computed(() => {
    const lines = this.check()?.comparison.lines ?? [];
    switch (this.shown()) {
      case 'all':
        return this.whole();
      case 'not whole':
        return filterJoint(this.whole(), (p) => p.outcome !== 'whole');
      case 'otherwise':
        return filterJoint(this.whole(), ({ line }) => lines.slice(line, line + 1).some(differsFromForecast));
    }
  });
  protected readonly titles = computed(() => new Map(this.check()?.course.items.map((i) => [i.id, i.title]) ?? []));
  protected readonly line = computed(() => this.check()?.comparison.lines[this.chosen() ?? -1] ?? null);
}
