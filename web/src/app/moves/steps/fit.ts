import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { count, filterJoint, jointOfForecast, keepsMore, isPlace } from '@treenail/core';
import type { MoveSummary } from '@treenail/server/contract';
import { filter } from 'rxjs';
import { Api, wordsOf } from '../../data/api';
import { JobsService } from '../../data/jobs';
import { AS_FORETOLD, type Side } from '../../both/both';
import { Joined } from '../../both/joined';
import { Awaited, lastOf } from '../../parts/awaited';
import { TotalsBar } from '../../parts/totals';
import { Deciding } from '../deciding';
import { standingOf } from './standing';
import { StepHead } from './step-head';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';

/** The forecast, before anything moves. */
@Component({
  selector: 'tn-fit-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, Joined, MatButton, MatButtonToggle, MatButtonToggleGroup, RouterLink, StepHead, TotalsBar],
  template: `
    <tn-step-head [move]="move()">
      @if (move().canReopen) {
        <button matButton="outlined" [disabled]="busy()" (click)="reopen()">Open the fit again</button>
      }
      @if (move().at === 'fit' && move().calledOffAt === null) {
        <button matButton="filled" [disabled]="busy() || !fit()?.current || isEmpty()" (click)="accept()">
          Accept the fit, build the package
        </button>
      }
    </tn-step-head>
    @if (error()) {
      <p class="error" role="alert">{{ error() }}</p>
    }
    <tn-awaited [of]="[loaded]" />
    @if (fit(); as fit) {
      @if (isEmpty() && move().at === 'fit') {
        <p class="before" role="note">
          Nothing goes by this part: what went stands there as it is here.
          <a [routerLink]="['/moves', move().id, 'tidy']">Choose what goes</a>
        </p>
      }
      @if (!fit.current && move().at === 'fit') {
        <p class="quiet" role="status">What was decided last is being put into the working copy; the fit follows.</p>
      }
      @if (sentences().length > 0 || ((fit.open > 0 || fit.dates) && move().at === 'fit')) {
        <div class="before" role="note">
          @for (sentence of sentences(); track sentence) {
            <p>{{ sentence }}</p>
          }
          @if (fit.open > 0 && move().at === 'fit') {
            <p>
              {{ count(fit.open, 'finding') }} not decided on yet.
              <a [routerLink]="['/moves', move().id, 'tidy']">Tidy first</a>
            </p>
          }
          @if (fit.dates && move().at === 'fit') {
            <p>
              Dates: {{ fit.dates }}.
              <a [routerLink]="['/moves', move().id, 're-date']">Re-date first</a>
            </p>
          }
        </div>
      }
      @if (move().at === 'fit' && fit.forms.length > 1) {
        <div class="forms">
          <span class="quiet">Carried as</span>
          <mat-button-toggle-group
            hideSingleSelectionIndicator
            aria-label="Carried as"
            [disabled]="busy()"
            (change)="carryAs($event.value)"
          >
            @for (form of fit.forms; track form.target) {
              <mat-button-toggle [value]="form.target" [checked]="form.chosen">
                {{ form.label }} <b>{{ form.totals.whole }} whole, {{ form.totals['left behind'] }} left behind</b>
              </mat-button-toggle>
            }
          </mat-button-toggle-group>
          @if (advice()) {
            <span class="quiet">{{ advice() }}</span>
          }
        </div>
      }
      <div class="answer">
        <tn-totals [totals]="fit.forecast.totals" />
        <span class="quiet">{{ of() }}</span>
        <mat-button-toggle-group
          hideSingleSelectionIndicator
          aria-label="Which lines"
          [value]="notWhole()"
          (change)="show($event.value)"
        >
          <mat-button-toggle [value]="false">all</mat-button-toggle>
          <mat-button-toggle [value]="true">not whole</mat-button-toggle>
        </mat-button-toggle-group>
      </div>
      <tn-joined
        [joint]="joint()"
        [lines]="fit.forecast.lines"
        [leftName]="move().from.name"
        [rightName]="through()"
        [pale]="true"
        [titles]="titles()"
        [says]="says"
        [left]="sent()"
        [right]="goes()"
        [(chosen)]="chosen"
      />
    }
  `,
  styleUrl: './joined.scss',
})
export class FitStep {
  private readonly api = inject(Api);
  private readonly deciding = inject(Deciding);
  readonly move = input.required<MoveSummary>();
  readonly changed = output<MoveSummary>();
  protected readonly count = count;
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly notWhole = signal(false);
  /** Begins at the first line that is not whole: it is what a person came to see. */
  protected readonly chosen = linkedSignal<number | null>(() => {
    const at = this.fit()?.forecast.lines.findIndex((l) => l.outcome !== 'whole') ?? -1;
    return at < 0 ? null : at;
  });
  private readonly standing = standingOf(this.move);
  protected readonly loaded = rxResource({
    // Asked for again once it stands elsewhere: opened again, or decided anew.
    params: () => (this.deciding.is(this.standing().id) ? undefined : this.standing()),
    stream: ({ params }) => this.api.fit(params.id),
  });
  protected readonly fit = lastOf(this.loaded);
  /** What is to be known before it is accepted. */
  protected readonly sentences = computed(() => [
    ...(this.fit()?.missing ?? []),
    ...(this.fit()?.part ?? []),
    ...(this.fit()?.into ?? []),
  ]);
  /** Of a further part of which all is left out. */
  protected readonly isEmpty = computed(() => this.move().part > 1 && this.fit()?.course.items.length === 0);
  private readonly whole = computed(() => {
    const fit = this.fit();
    return fit ? jointOfForecast(fit.course, fit.forecast.lines) : { left: [], right: [], pegs: [] };
  });
  protected readonly joint = computed(() =>
    this.notWhole() ? filterJoint(this.whole(), (p) => p.outcome !== 'whole') : this.whole(),
  );
  /** What the totals add up to: folders have a fate too. */
  protected readonly of = computed(() => {
    const lines = this.fit()?.forecast.lines ?? [];
    const folders = lines.filter((l) => l.kind === 'folder').length;
    const items = lines.filter((l) => !isPlace(l.kind)).length;
    const others = lines.length - folders - items;
    const rest = others > 0 ? `, ${count(others, 'other place')}` : '';
    return `${count(items, 'item')} and ${count(folders, 'folder')}${rest}`;
  });
  protected readonly titles = computed(() => new Map(this.fit()?.course.items.map((i) => [i.id, i.title]) ?? []));
  protected readonly says = AS_FORETOLD;
  /** The course as it was fetched, and as the working copy has it. */
  protected readonly sent = computed(() => this.side(false));
  protected readonly goes = computed(() => this.side(true));

  constructor() {
    inject(JobsService)
      .changed$.pipe(
        filter((job) => job.moveId === this.move().id && job.kind === 'tidy' && job.state === 'done'),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.loaded.reload());
  }

  private side(mended: boolean): Side | null {
    const course = this.fit()?.course;
    const { id } = this.standing();
    return course
      ? {
          course,
          preview: (item, learner) =>
            this.api.preview(id, { item, ...(learner ? { learner: '' } : {}), ...(mended ? { mended: '' } : {}) }),
        }
      : null;
  }

  protected readonly through = computed(() => {
    const label = this.fit()?.forms.find((f) => f.chosen)?.label ?? 'a package';
    return `${this.move().to.name}, as ${label}`;
  });

  /** Which format to choose, and why: most arrives whole in it; or as much, and nothing is translated on arrival. */
  protected readonly advice = computed(() => {
    const [first, second] = [...(this.fit()?.forms ?? [])].sort(
      (a, b) => keepsMore(b.totals, a.totals) || Number(b.own) - Number(a.own),
    );
    if (!first || !second) return '';
    if (keepsMore(first.totals, second.totals) > 0) return `${first.label} keeps the most.`;
    return first.own ? `${first.label} keeps as much, and is not translated on arrival.` : '';
  });

  protected carryAs(target: string): void {
    this.busy.set(true);
    this.api.carryAs(this.move().id, { target }).subscribe({
      next: (move) => {
        this.busy.set(false);
        this.loaded.reload();
        this.changed.emit(move);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }

  protected show(notWhole: boolean): void {
    this.notWhole.set(notWhole);
  }

  protected reopen(): void {
    this.busy.set(true);
    this.api.reopenFit(this.move().id).subscribe({
      next: (move) => {
        this.busy.set(false);
        this.changed.emit(move);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }

  protected accept(): void {
    this.busy.set(true);
    this.api.accept(this.move().id).subscribe({
      next: (move) => this.changed.emit(move),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
        // Another person may have decided something meanwhile.
        this.loaded.reload();
      },
    });
  }
}
