import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatCheckbox } from '@angular/material/checkbox';
import { Router, RouterLink } from '@angular/router';
import { STEP_NAMES, type MoveStep, type MoveSummary, type MovesPage as MovesAnswer } from '@treenail/server/contract';
import { auditTime, tap } from 'rxjs';
import { count, courseName } from '@treenail/core';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { List, ListCell, type ListColumn, type ListSource } from '../parts/list';
import { CourseNamePipe, WhenPipe } from '../parts/words';

/** The moves, newest first, each with where it stands. */
@Component({
  selector: 'tn-moves',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CourseNamePipe, List, ListCell, MatCheckbox, RouterLink],
  template: `
    <h1>{{ head() }}</h1>
    <tn-list
      first="-started"
      hint="Filter by course, instance, step"
      [noun]="['move', 'moves']"
      [pages]="pages()"
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
      <ng-template tnCell="course" [of]="pages()" let-move>
        <a [routerLink]="['/moves', move.id]"
          ><b>{{ move.course | courseName }}</b> {{ move.course.title }}</a
        >
        @if (move.errand) {
          <span class="tag">{{ move.errand.act === 'restore' ? 'restored' : 'given' }}</span>
        }
      </ng-template>
      <ng-template tnCell="steps" [of]="pages()" let-move>
        <span class="plank" role="img" [attr.aria-label]="doneOf(move)">
          @for (step of move.steps; track step.step) {
            <i [class]="step.state"></i>
          }
        </span>
      </ng-template>
      <ng-template tnCell="at" [of]="pages()" let-move>
        @if (move.calledOffAt !== null) {
          <span class="tag">called off</span>
        } @else {
          <b>{{ names[move.at] }}</b>
        }
        @if (move.putAwayAt !== null) {
          <span class="tag">put away</span>
        }
      </ng-template>
      <p tnNone>
        @if (away() > 0) {
          All {{ away() }} are put away.
        } @else {
          A move takes one course from its platform to another and checks that it arrived.
        }
        <a routerLink="/courses">Choose a course to move</a>
      </p>
    </tn-list>
  `,
  styleUrl: '../parts/list/list-screen.scss',
  styles: `
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
  protected readonly showAway = signal(false);
  private readonly moves = viewChild<List<MoveSummary>>(List);
  /** What was told of all moves last. */
  private readonly sums = signal<MovesAnswer['sums'] | null>(null);
  protected readonly pages = computed((): ListSource<MoveSummary> => {
    const away = String(this.showAway());
    return (asked) => this.api.moves({ ...asked, away }).pipe(tap(({ sums }) => this.sums.set(sums)));
  });
  protected readonly names: Readonly<Record<MoveStep, string>> = STEP_NAMES;
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
  protected readonly away = computed(() => this.sums()?.away ?? 0);
  protected readonly head = computed(() => {
    const { all, waiting } = this.sums() ?? { all: 0, waiting: 0 };
    if (all === 0) return 'Moves';
    return `${count(all, 'move')}${waiting > 0 ? `, ${waiting} waiting for a person` : ''}`;
  });

  constructor() {
    inject(JobsService)
      .changed$.pipe(auditTime(500), takeUntilDestroyed())
      .subscribe(() => this.moves()?.refresh());
  }

  protected open(move: MoveSummary): void {
    void this.router.navigate(['/moves', move.id]);
  }

  protected result(move: MoveSummary): string {
    return move.steps.find((s) => s.step === move.at)?.result ?? '';
  }

  protected doneOf(move: MoveSummary): string {
    return `${move.steps.filter((s) => s.state === 'done').length} of ${move.steps.length} steps done`;
  }
}
