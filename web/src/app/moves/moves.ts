import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { Router, RouterLink } from '@angular/router';
import type { MoveStep, MoveSummary } from '@treenail/server/contract';
import { auditTime } from 'rxjs';
import { count, courseName } from '@treenail/core';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { Awaited, lastOf } from '../parts/awaited';
import { List, ListCell, type ListColumn } from '../parts/list';
import { CourseNamePipe, WhenPipe } from '../parts/words';
import { STEP_NAMES } from './step-names';

/** Moves that are shown at first, and with each press more. */
const PAGE = 100;

/** The moves, newest first, each with where it stands. */
@Component({
  selector: 'tn-moves',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, CourseNamePipe, List, ListCell, MatButton, MatCheckbox, RouterLink],
  template: `
    <h1>{{ head() }}</h1>
    @if (moves().length === 0 && away() > 0) {
      <mat-checkbox [checked]="showAway()" (change)="showAway.set($event.checked)">
        show {{ away() }} put away
      </mat-checkbox>
    }
    <tn-awaited [of]="[loaded]" />
    @if (moves().length > 0) {
      <tn-list
        first="-started"
        hint="Filter by course, instance, step"
        [noun]="['move', 'moves']"
        [rows]="moves()"
        [columns]="columns"
        [key]="idOf"
        [named]="nameOf"
        (opened)="open($event)"
      >
        @if (away() > 0) {
          <mat-checkbox tnNarrow [checked]="showAway()" (change)="showAway.set($event.checked)">
            show {{ away() }} put away
          </mat-checkbox>
        }
        <ng-template tnCell="course" [of]="moves()" let-move>
          <a [routerLink]="['/moves', move.id]"
            ><b>{{ move.course | courseName }}</b> {{ move.course.title }}</a
          >
        </ng-template>
        <ng-template tnCell="steps" [of]="moves()" let-move>
          <span class="plank" role="img" [attr.aria-label]="doneOf(move)">
            @for (step of move.steps; track step.step) {
              <i [class]="step.state"></i>
            }
          </span>
        </ng-template>
        <ng-template tnCell="at" [of]="moves()" let-move>
          @if (move.calledOffAt !== null) {
            <span class="tag">called off</span>
          } @else {
            <b>{{ names[move.at] }}</b>
          }
          @if (move.putAwayAt !== null) {
            <span class="tag">put away</span>
          }
        </ng-template>
      </tn-list>
      @if (older() > 0) {
        <div>
          <button matButton="outlined" (click)="showOlder()">Show older ones, {{ older() }} more</button>
        </div>
      }
    } @else if (known() && away() === 0) {
      <p class="panel empty">
        A move takes one course from its platform to another and checks that it arrived.
        <a routerLink="/courses">Choose a course to move</a>
      </p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-width: 0;
      overflow: hidden;
      gap: 14px;
      padding: 18px 20px 14px;
    }
    .empty {
      padding: 24px;
    }
    .plank {
      display: inline-flex;
      gap: 5px;
      padding: 2px 5px;
      border-radius: 6px;
      background: linear-gradient(var(--timber), var(--timber)) center / 100% 4px no-repeat;
    }
    i {
      width: 11px;
      height: 11px;
      border-radius: 50%;
      border: 2px solid var(--timber-dark);
      background: var(--surface);
    }
    i.done {
      background: var(--spruce);
      border-color: var(--spruce);
    }
    i.open {
      border-color: var(--ochre);
    }
    i.here,
    i.working {
      border-color: var(--spruce);
    }
    i.failed {
      border-color: var(--lead);
    }
  `,
})
export class MovesPage {
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly when = new WhenPipe();
  private readonly most = signal(PAGE);
  protected readonly showAway = signal(false);
  protected readonly loaded = rxResource({
    params: () => ({ most: this.most(), away: this.showAway() }),
    stream: ({ params }) => this.api.moves({ most: params.most, away: String(params.away) }),
  });
  protected readonly names: Record<MoveStep, string> = STEP_NAMES;
  protected readonly columns: readonly ListColumn<MoveSummary>[] = [
    {
      id: 'course',
      name: 'Course',
      value: (m) => courseName(m.course),
      words: (m) => `${courseName(m.course)} ${m.course.title}`,
    },
    { id: 'from', name: 'From', width: 146, value: (m) => m.from.name },
    { id: 'to', name: 'To', width: 140, value: (m) => m.to.name },
    {
      id: 'started',
      name: 'Started',
      width: 142,
      is: 'date',
      downFirst: true,
      value: (m) => m.createdAt,
      words: (m) => this.when.transform(m.createdAt),
    },
    {
      id: 'steps',
      name: 'Steps done',
      width: 172,
      downFirst: true,
      value: (m) => m.steps.filter((s) => s.state === 'done').length,
      words: (m) => this.doneOf(m),
    },
    {
      id: 'at',
      name: 'Stands at',
      width: 150,
      value: (m) => STEP_NAMES[m.at],
      words: (m) => `${STEP_NAMES[m.at]} ${m.calledOffAt === null ? '' : 'called off'}`,
    },
    { id: 'result', name: 'What came of it', value: (m) => this.result(m) },
  ];
  protected readonly idOf = (m: MoveSummary) => m.id;
  protected readonly nameOf = (m: MoveSummary) => courseName(m.course);
  private readonly list = lastOf(this.loaded);
  protected readonly known = computed(() => this.list() !== null);
  protected readonly away = computed(() => this.list()?.away ?? 0);
  protected readonly moves = computed(() => this.list()?.moves ?? []);
  /** Older ones that are not shown. */
  protected readonly older = computed(() => (this.list()?.total ?? 0) - this.moves().length);
  protected readonly head = computed(() => {
    const moves = this.moves();
    if (moves.length === 0) return 'Moves';
    const waiting = moves.filter(
      (m) =>
        m.calledOffAt === null &&
        m.steps.some((s) => (s.state === 'here' && s.step !== 'hand-over') || s.state === 'failed'),
    ).length;
    const all = count(this.list()?.total ?? 0, 'move');
    const some = this.older() > 0;
    const shown = some ? `, the newest ${moves.length} shown` : '';
    const wait = waiting > 0 ? `, ${waiting}${some ? ' of them' : ''} waiting for a person` : '';
    return `${all}${shown}${wait}`;
  });

  constructor() {
    inject(JobsService)
      .changed$.pipe(auditTime(500), takeUntilDestroyed())
      .subscribe(() => this.loaded.reload());
  }

  protected open(move: MoveSummary): void {
    void this.router.navigate(['/moves', move.id]);
  }

  protected showOlder(): void {
    this.most.update((most) => most + PAGE);
  }

  protected result(move: MoveSummary): string {
    return move.steps.find((s) => s.step === move.at)?.result ?? '';
  }

  protected doneOf(move: MoveSummary): string {
    return `${move.steps.filter((s) => s.state === 'done').length} of ${move.steps.length} steps done`;
  }
}
