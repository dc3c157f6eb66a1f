import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  numberAttribute,
  signal,
} from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { Router } from '@angular/router';
import { MOVE_STEPS, type JobSummary, type MoveStep, type MoveSummary } from '@treenail/server/contract';
import { auditTime, filter, type Observable } from 'rxjs';
import { Api, wordsOf } from '../data/api';
import { JobsService } from '../data/jobs';
import { Awaited } from '../parts/awaited';
import { count, courseName } from '@treenail/core';
import { Undo } from '../parts/undo';
import { WhenPipe } from '../parts/words';
import { Spine } from './spine';
import { BuildStep } from './steps/build';
import { CheckStep } from './steps/check';
import { DeliverStep } from './steps/deliver';
import { FetchStep } from './steps/fetch';
import { FitStep } from './steps/fit';
import { HandOverStep } from './steps/hand-over';
import { LookStep } from './steps/look';
import { RedateStep } from './steps/redate';
import { TidyStep } from './steps/tidy';

/** One move: its spine at the left, the work of one step at the right. */
@Component({
  selector: 'tn-move',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    BuildStep,
    CheckStep,
    DeliverStep,
    FetchStep,
    FitStep,
    HandOverStep,
    LookStep,
    MatButton,
    RedateStep,
    Spine,
    TidyStep,
    WhenPipe,
  ],
  template: `
    @if (move(); as move) {
      <div class="side no-print">
        <tn-spine [move]="move" [shown]="shown()" />
        <div class="whole">
          @if (move.calledOffAt === null && !delivered()) {
            <button matButton [disabled]="busy()" (click)="act(api.callOffMove(move.id))">
              {{ move.part > 1 ? 'Call this part off' : 'Call the move off' }}
            </button>
          } @else if (move.putAwayAt === null) {
            <button matButton [disabled]="busy()" (click)="putAway(move)">Put the move away</button>
          } @else {
            <button matButton [disabled]="busy()" (click)="act(api.takeOut(move.id))">Take it out again</button>
          }
        </div>
      </div>
      <section class="work">
        @if (failed(); as job) {
          <div class="panel failure" role="alert">
            <div>
              <b class="error">{{ job.problem?.message }}</b>
              <div>{{ job.problem?.action }}</div>
            </div>
            <div class="acts">
              <button matButton="outlined" [disabled]="busy()" (click)="callOffJob(job)">Let it be</button>
              <button matButton="outlined" [disabled]="busy()" (click)="retry()">Try this step again</button>
            </div>
          </div>
        }
        @if (move.calledOffAt; as at) {
          <div class="panel off" role="note">
            This move was called off {{ at | when: 'long' }}. What was fetched is kept; nothing more is done.
          </div>
        }
        @if (move.errand; as errand) {
          <div class="panel off" role="note">
            {{ errandWords() }}
            @if (errand.trouble) {
              <div class="due">{{ errand.trouble }}</div>
            }
          </div>
        }
        @if (error()) {
          <p class="error" role="alert">{{ error() }}</p>
        }
        @switch (shown()) {
          @case ('fetch') {
            <tn-fetch-step [move]="move" [job]="job()" />
          }
          @case ('look') {
            <tn-look-step [move]="move" [job]="job()" [item]="item()" />
          }
          @case ('tidy') {
            <tn-tidy-step [move]="move" />
          }
          @case ('re-date') {
            <tn-redate-step [move]="move" />
          }
          @case ('fit') {
            <tn-fit-step [move]="move" (changed)="take($event)" />
          }
          @case ('build') {
            <tn-build-step [move]="move" [job]="job()" />
          }
          @case ('deliver') {
            <tn-deliver-step [move]="move" [job]="job()" (changed)="take($event)" />
          }
          @case ('check') {
            <tn-check-step [move]="move" [job]="job()" />
          }
          @case ('hand-over') {
            <tn-hand-over-step [move]="move" (changed)="take($event)" />
          }
        }
      </section>
    } @else {
      <tn-awaited class="alone" [of]="[loaded]" />
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 216px minmax(0, 1fr);
      height: 100%;
    }
    .work {
      display: flex;
      flex-direction: column;
      gap: 12px;
      min-height: 0;
      overflow: auto;
      padding: 14px 20px;
    }
    .side {
      display: grid;
      grid-template-rows: minmax(0, 1fr) auto;
      min-height: 0;
      border-right: 1px solid var(--line);
    }
    .whole {
      padding: 8px 12px;
    }
    .due {
      color: var(--ochre);
    }
    .off {
      padding: 10px 14px;
    }
    .acts {
      display: flex;
      gap: 8px;
    }
    .alone {
      grid-column: 1 / -1;
      padding: 18px 20px;
    }
    .work > :last-child {
      flex: 1;
      min-height: 0;
    }
    .failure {
      display: flex;
      justify-content: space-between;
      align-items: center;
      gap: 20px;
      padding: 10px 14px;
      border-color: var(--lead);
    }
  `,
  // Heard after what a step makes of a key.
  host: { '(window:keydown)': 'key($event)' },
})
export class MovePage {
  protected readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly jobs = inject(JobsService);
  private readonly when = new WhenPipe();
  private readonly back = inject(Undo);
  private readonly screen = inject(DestroyRef);
  readonly id = input.required({ transform: numberAttribute });
  readonly step = input<MoveStep>();
  readonly item = input<string>();
  protected readonly loaded = rxResource({ params: () => this.id(), stream: ({ params }) => this.api.move(params) });
  private readonly taken = signal<MoveSummary | null>(null);
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly move = computed(() => {
    const taken = this.taken();
    return taken?.id === this.id() ? taken : null;
  });
  /** The step asked for, if it is one that can be shown; else where the move stands. */
  protected readonly shown = computed((): MoveStep => {
    const wanted = this.step();
    const move = this.move();
    if (wanted && MOVE_STEPS.includes(wanted) && move?.steps.find((s) => s.step === wanted)?.state !== 'ahead')
      return wanted;
    // What comes before the fit is shown first, as long as it is not decided on; what is restored goes as it was kept.
    const open = move?.at === 'fit' && !move.errand ? move.steps.find((s) => s.state === 'open') : undefined;
    return open?.step ?? move?.at ?? 'fetch';
  });
  /** The job of the step shown, live. */
  protected readonly job = computed((): JobSummary | null => {
    // The newest: a step may have been gone through again.
    const of = this.move()?.jobs.findLast((j) => j.kind === this.shown());
    return this.jobs.jobs().find((j) => j.id === of?.id) ?? of ?? null;
  });
  /** What it restores or gives, and of what. */
  protected readonly errandWords = computed(() => {
    const { errand, copy } = this.move() ?? {};
    if (!errand) return '';
    const what = errand.items === null ? 'all' : count(errand.items.length, 'chosen item');
    const kept = copy ? ` of the copy that was kept ${this.when.transform(copy.keptAt, 'long')}` : '';
    return `${errand.act === 'restore' ? 'Restores' : 'Gives'} ${what}${kept}.`;
  });
  protected readonly failed = computed(() => this.move()?.jobs.find((j) => j.state === 'failed') ?? null);

  constructor() {
    effect(() => {
      if (this.loaded.hasValue()) this.taken.set(this.loaded.value());
    });
    this.jobs.changed$
      .pipe(
        filter((job) => job.moveId === this.id()),
        auditTime(250),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.loaded.reload());
    effect(() => {
      // What is looked at here is seen; failed jobs stay until they are dealt with.
      for (const job of this.jobs.jobs()) {
        if (job.moveId === this.id() && job.state === 'done') this.jobs.markSeen(job);
      }
    });
  }

  protected readonly delivered = computed(() => this.move()?.steps.find((s) => s.step === 'deliver')?.state === 'done');

  /** Something that is done to the move as a whole. */
  protected act(request: Observable<MoveSummary>): void {
    this.ask(request, (move) => this.taken.set(move));
  }

  protected putAway({ id, course }: MoveSummary): void {
    this.ask(this.api.putAway(id), (move) => {
      this.taken.set(move);
      this.back.offer(this.screen, `The move of ${courseName(course)} is put away`, () =>
        this.act(this.api.takeOut(id)),
      );
    });
  }

  /** A step that failed is let go of: what it had begun is cleared away. */
  protected callOffJob(job: JobSummary): void {
    this.ask(this.api.callOffJob(job.id));
  }

  private ask<T>(request: Observable<T>, then?: (answer: T) => void): void {
    this.busy.set(true);
    this.error.set('');
    request.subscribe({
      next: (answer) => {
        this.busy.set(false);
        then?.(answer);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }

  protected take(move: MoveSummary): void {
    this.taken.set(move);
    void this.router.navigate(['/moves', move.id, move.at]);
  }

  protected retry(): void {
    this.act(this.api.retry(this.id()));
  }

  protected key(event: KeyboardEvent): void {
    if (
      event.defaultPrevented ||
      !/^[[\]{}]$/.test(event.key) ||
      (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName))
    )
      return;
    const steps = this.move()?.steps.filter((s) => s.state !== 'ahead') ?? [];
    const at = steps.findIndex((s) => s.step === this.shown());
    const next = steps[at + (/[\]}]/.test(event.key) ? 1 : -1)];
    if (next) void this.router.navigate(['/moves', this.id(), next.step]);
  }
}
