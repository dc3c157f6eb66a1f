import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal } from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { RouterLink } from '@angular/router';
import type { MoveSummary, TidyAnswer } from '@treenail/server/contract';
import { filter, map } from 'rxjs';
import { Api, wordsOf } from '../../data/api';
import { JobsService } from '../../data/jobs';
import { Awaited, lastOf } from '../../parts/awaited';
import { FindingSettingsButton } from '../../tidy/finding-settings';
import { RulesDialog, type RulesDialogData } from '../../tidy/rules-dialog';
import type { TidySource } from '../../tidy/source';
import { TidyView } from '../../tidy/tidy-view';
import { GoesAlong } from '../goes-along';
import { Deciding } from '../deciding';
import { ChangeDialog, type ChangeDialogData } from '../change-dialog';
import { StepHead } from './step-head';

/** What to decide before the move: findings, mends, and what goes at all. */
@Component({
  selector: 'tn-tidy-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, FindingSettingsButton, GoesAlong, MatButton, RouterLink, StepHead, TidyView],
  template: `
    <tn-step-head [move]="move()">
      <a matButton="filled" [routerLink]="['/moves', move().id, 're-date']">Re-date</a>
    </tn-step-head>
    @if (error()) {
      <p class="error" role="alert">{{ error() }}</p>
    }
    <tn-awaited [of]="[loaded, looked]" />
    @if (tidy(); as tidy) {
      @if (course(); as course) {
        <tn-tidy-view [tidy]="tidy" [course]="course" [source]="source" [linkTo]="linkTo" (changed)="taken.set($event)">
          <span class="acts">
            <tn-finding-settings />
            <button matButton="outlined" (click)="showRules()">Rules</button>
            <button matButton="outlined" [disabled]="asking()" (click)="ask()">Ask outside addresses</button>
          </span>
          <tn-goes-along tnAlong [move]="move()" [open]="tidy.open" (changed)="loaded.reload()" />
        </tn-tidy-view>
      }
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 12px;
    }
    tn-tidy-view {
      flex: 1;
      min-height: 0;
    }
    .acts {
      display: flex;
      gap: 8px;
      margin-left: auto;
    }
  `,
})
export class TidyStep {
  private readonly api = inject(Api);
  private readonly jobs = inject(JobsService);
  private readonly dialog = inject(MatDialog);
  private readonly deciding = inject(Deciding);
  readonly move = input.required<MoveSummary>();
  private readonly id = computed(() => this.move().id);
  protected readonly loaded = rxResource({ params: () => this.id(), stream: ({ params }) => this.api.tidy(params) });
  protected readonly looked = rxResource({ params: () => this.id(), stream: ({ params }) => this.api.look(params) });
  protected readonly taken = signal<TidyAnswer | null>(null);
  protected readonly tidy = computed(() => this.taken());
  private readonly look = lastOf(this.looked);
  protected readonly course = computed(() => this.look()?.course ?? null);
  protected readonly asking = computed(() =>
    this.jobs
      .jobs()
      .some((j) => j.moveId === this.id() && j.kind === 'outside' && j.state !== 'done' && j.state !== 'failed'),
  );
  protected readonly error = signal('');
  protected readonly linkTo = (item: string) => ['/moves', this.id(), 'look', { item }];
  protected readonly source: TidySource = {
    decide: (decision) => this.deciding.during(this.id(), this.api.decide(this.id(), decision)),
    undo: (decision) => this.deciding.during(this.id(), this.api.undo(this.id(), Number(decision))),
    choose: (goes) => this.deciding.during(this.id(), this.api.chooseToGo(this.id(), goes)),
    beforeAfter: (asked) => this.api.beforeAfter(this.id(), asked),
    give: (file) => this.api.give(this.id(), { name: file.name }, file).pipe(map(({ given }) => given)),
    showChange: (item) => {
      const course = this.course();
      if (!course) return;
      const data = { moveId: this.id(), item, course };
      this.dialog.open<ChangeDialog, ChangeDialogData>(ChangeDialog, { data, width: '1100px', maxWidth: '94vw' });
    },
    rules: {
      save: (rule) => this.api.saveRule(rule),
      remove: (id) => this.api.removeRule(id),
      uses: (id) => this.api.usesOfRule(id),
      apply: (id, moveIds) => this.api.applyRule(id, { moveIds: [...moveIds] }),
    },
  };

  constructor() {
    effect(() => {
      if (this.loaded.hasValue()) this.taken.set(this.loaded.value());
    });
    this.jobs.changed$
      .pipe(
        filter((j) => j.moveId === this.id() && (j.kind === 'tidy' || j.kind === 'outside') && j.state === 'done'),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.loaded.reload());
  }

  protected showRules(): void {
    const { rules } = this.source;
    if (!rules) return;
    this.error.set('');
    // Asked anew: another person may have kept or removed some since.
    this.api.mendRules().subscribe({
      next: (kept) =>
        this.dialog.open<RulesDialog, RulesDialogData>(RulesDialog, { data: { rules, kept }, width: '640px' }),
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }

  protected ask(): void {
    this.error.set('');
    this.api.askOutside(this.id()).subscribe({ error: (error: unknown) => this.error.set(wordsOf(error)) });
  }
}
