import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { count, differsFromForecast, filterJoint, jointOfCheck } from '@treenail/core';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { Api } from '../../data/api';
import { AS_CHECKED, type Side } from '../../both/both';
import { Joined } from '../../both/joined';
import { Awaited, lastOf } from '../../parts/awaited';
import { TotalsBar } from '../../parts/totals';
import { JobPanel } from './job-panel';
import { standingOf } from './standing';
import { StepHead } from './step-head';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';

type Shown = 'all' | 'not whole' | 'otherwise';

/** What really arrived: both outlines, joined peg by peg. */
@Component({
  selector: 'tn-check-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    JobPanel,
    Joined,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    RouterLink,
    StepHead,
    TotalsBar,
  ],
  template: `
    <tn-step-head [move]="move()">
      @if (check()) {
        <a matButton="filled" [routerLink]="['/moves', move().id, 'hand-over']">See the transfer report</a>
      }
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    <tn-awaited [of]="[loaded]" />
    @if (check(); as check) {
      @if (check.theirs) {
        <p class="before" role="note">{{ check.theirs }}</p>
      }
      @if (exactly()) {
        <p class="before" role="note">{{ exactly() }}</p>
      }
      <div class="answer">
        <tn-totals [totals]="check.comparison.totals" />
        <mat-button-toggle-group
          hideSingleSelectionIndicator
          aria-label="Which lines"
          [value]="shown()"
          (change)="shown.set($event.value)"
        >
          @for (choice of choices; track choice) {
            <mat-button-toggle [value]="choice">
              {{ choice === 'otherwise' ? 'otherwise than foretold' : choice }}
              @if (choice === 'otherwise') {
                <b>{{ check.comparison.otherwise }}</b>
              }
            </mat-button-toggle>
          }
        </mat-button-toggle-group>
      </div>
      <tn-joined
        [joint]="joint()"
        [lines]="check.comparison.lines"
        [leftName]="move().from.name"
        [rightName]="move().to.name"
        [titles]="titles()"
        [says]="says"
        [left]="sent()"
        [right]="arrived()"
        [(chosen)]="chosen"
      />
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
  private readonly standing = standingOf(this.move);
  protected readonly loaded = rxResource({
    params: () => (this.standing().at === 'hand-over' ? this.standing() : undefined),
    stream: ({ params }) => this.api.check(params.id),
  });
  protected readonly check = lastOf(this.loaded);
  private readonly whole = computed(() => {
    const check = this.check();
    return check
      ? jointOfCheck(check.course, check.arrived, check.comparison.lines)
      : { left: [], right: [], pegs: [] };
  });
  /** That nothing became another, where that is so of every line; '' where it is not. */
  protected readonly exactly = computed(() => {
    const lines = this.check()?.comparison.lines ?? [];
    if (lines.length === 0 || lines.some((line) => line.outcome !== 'whole')) return '';
    return `All ${count(lines.length, 'item and place', 'items and places')} arrived as they were, with every setting that was compared.`;
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
  protected readonly says = AS_CHECKED;
  protected readonly sent = computed((): Side | null => {
    const [check, { id }] = [this.check(), this.standing()];
    return check
      ? {
          course: check.course,
          preview: (item, learner) => this.api.preview(id, { item, mended: '', ...(learner ? { learner: '' } : {}) }),
        }
      : null;
  });
  protected readonly arrived = computed((): Side | null => {
    const [check, { id }] = [this.check(), this.standing()];
    return check
      ? {
          course: check.arrived,
          preview: (item, learner) => this.api.arrivedPreview(id, { item, ...(learner ? { learner: '' } : {}) }),
        }
      : null;
  });
  protected readonly titles = computed(() => new Map(this.check()?.course.items.map((i) => [i.id, i.title]) ?? []));
}
