import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { RouterLink } from '@angular/router';
import type { MoveStep, MoveSummary } from '@treenail/server/contract';
import { auditTime } from 'rxjs';
import { count } from '@treenail/core';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { Awaited, lastOf } from '../parts/awaited';
import { CourseNamePipe, WhenPipe } from '../parts/words';
import { STEP_NAMES } from './step-names';

/** Moves that are shown at first, and with each press more. */
const PAGE = 100;

/** The moves, newest first, each with where it stands. */
@Component({
  selector: 'tn-moves',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, CourseNamePipe, MatButton, MatCheckbox, RouterLink, WhenPipe],
  template: `
    <header>
      <h1>{{ head() }}</h1>
      @if (away() > 0) {
        <mat-checkbox [checked]="showAway()" (change)="showAway.set($event.checked)">
          show {{ away() }} put away
        </mat-checkbox>
      }
    </header>
    <tn-awaited [of]="[loaded]" />
    @if (moves().length > 0) {
      <div class="panel">
        <table class="list">
          <thead>
            <tr>
              <th>Course</th>
              <th>From</th>
              <th>To</th>
              <th>Started</th>
              <th>Steps</th>
              <th>Stands at</th>
              <th></th>
            </tr>
          </thead>
          <tbody>
            @for (move of moves(); track move.id) {
              <tr>
                <td>
                  <a [routerLink]="['/moves', move.id]"
                    ><b>{{ move.course | courseName }}</b> {{ move.course.title }}</a
                  >
                </td>
                <td class="quiet">{{ move.from.name }}</td>
                <td class="quiet">{{ move.to.name }}</td>
                <td class="quiet">{{ move.createdAt | when }}</td>
                <td>
                  <span class="plank" role="img" [attr.aria-label]="doneOf(move)">
                    @for (step of move.steps; track step.step) {
                      <i [class]="step.state"></i>
                    }
                  </span>
                </td>
                <td>
                  @if (move.calledOffAt !== null) {
                    <span class="tag">called off</span>
                  } @else {
                    <b>{{ names[move.at] }}</b>
                  }
                  @if (move.putAwayAt !== null) {
                    <span class="tag">put away</span>
                  }
                </td>
                <td class="quiet">{{ result(move) }}</td>
              </tr>
            }
          </tbody>
        </table>
      </div>
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
    header {
      display: flex;
      justify-content: space-between;
      gap: 20px;
    }
    .panel {
      min-height: 0;
      overflow: auto;
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
  private readonly most = signal(PAGE);
  protected readonly showAway = signal(false);
  protected readonly loaded = rxResource({
    params: () => ({ most: this.most(), away: this.showAway() }),
    stream: ({ params }) => this.api.moves({ most: params.most, away: String(params.away) }),
  });
  protected readonly names: Record<MoveStep, string> = STEP_NAMES;
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
