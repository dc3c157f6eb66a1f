import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { NonNullableFormBuilder, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatDialog } from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { Router, RouterLink } from '@angular/router';
import type {
  DeliverRequest,
  IntoAnswer,
  IntoChoice,
  MeetRequest,
  JobSummary,
  LogAnswer,
  MoveSummary,
} from '@treenail/server/contract';
import type { Observable } from 'rxjs';
import { Api, codeOf, wordsOf } from '../../data/api';
import { Awaited, lastOf } from '../../parts/awaited';
import { count } from '@treenail/core';
import { CourseNamePipe, WhenPipe } from '../../parts/words';
import { DeliverInto } from '../into/deliver-into';
import { IntoDialog } from '../into/into-dialog';
import { TakeBackDialog } from '../into/take-back-dialog';
import { JobPanel } from './job-panel';
import { LogWordsDialog, type LogWordsData } from './log-words-dialog';
import { StepHead } from './step-head';
import { ListCell, Table, type ListColumn } from '../../parts/list';

/** Into a new, empty shell; then the platform's own log, in plain words. */
@Component({
  selector: 'tn-deliver-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseNamePipe,
    DeliverInto,
    JobPanel,
    ListCell,
    MatButton,
    MatCheckbox,
    MatFormFieldModule,
    MatInput,
    ReactiveFormsModule,
    RouterLink,
    StepHead,
    Table,
    WhenPipe,
  ],
  template: `
    <tn-step-head [move]="move()">
      @if (move().shell; as shell) {
        <a matButton="outlined" [href]="shell.url" target="_blank" rel="noopener"
          >Open {{ shell.title }} at {{ move().to.name }}</a
        >
      }
      @if (move().canTakeBack) {
        <button matButton="outlined" (click)="takeBack()">Take this delivery back…</button>
      }
      @if (isThere() && !backJob()) {
        <a matButton="filled" [routerLink]="['/moves', move().id, 'check']">See the check</a>
      }
    </tn-step-head>
    <tn-job-panel [job]="backJob() ?? job()" />
    @if (backFailed(); as problem) {
      <p class="error" role="alert">It was not taken back: {{ problem.message }} {{ problem.action }}</p>
    }
    @if (move().canTakeBack && !isThere()) {
      <p class="there" role="note">
        This delivery was called off on its way: some of it may be in {{ move().shell?.title }}, and some of what stood
        there may be gone. What stood there is kept: take this delivery back, and it is there again.
      </p>
    }
    @if (taken(); as at) {
      <p class="quiet" role="status">What was delivered was taken back {{ at | when: 'long' }}.</p>
    }
    @if (asks() && move().to.quiet; as hours) {
      <mat-checkbox [checked]="quiet()" (change)="quiet.set($event.checked)">
        wait for the quiet hours of {{ move().to.name }}, {{ hours.from }} to {{ hours.to }}
      </mat-checkbox>
    }
    @if (asks() && goes()?.into && goes(); as told) {
      <section class="panel into">
        <tn-deliver-into
          [move]="move()"
          [told]="told"
          [busy]="busy()"
          [error]="error()"
          [older]="isOlder()"
          (send)="send({ typed: $event })"
          (decide)="decide($event)"
          (again)="lookAgain()"
          (another)="choose()"
          (shell)="goInto(null)"
        />
      </section>
    } @else if (asks() && goesInto(); as shell) {
      <section class="panel into">
        <h2>Deliver part {{ move().part }} into {{ shell.title }} at {{ move().to.name }}</h2>
        <p class="quiet">
          The package is uploaded, waits in {{ move().to.name }}'s queue and is unpacked into the course that the others
          went into. What is not among what goes stays as it is there.
        </p>
        @if (error()) {
          <p class="error" role="alert">{{ error() }}</p>
        }
        <div>
          <button matButton="filled" [disabled]="busy()" (click)="send({ title: shell.title })">
            Deliver into {{ shell.title }}
          </button>
        </div>
      </section>
    } @else if (asks()) {
      <form class="panel" [formGroup]="form" (ngSubmit)="deliver()">
        <h2>Deliver into a new, empty shell at {{ move().to.name }}</h2>
        <div class="fields">
          <mat-form-field appearance="outline"
            ><mat-label>Title</mat-label><input matInput formControlName="title"
          /></mat-form-field>
          <mat-form-field appearance="outline"
            ><mat-label>Section</mat-label><input matInput formControlName="section"
          /></mat-form-field>
          <mat-form-field appearance="outline"
            ><mat-label>Term</mat-label><input matInput formControlName="term"
          /></mat-form-field>
        </div>
        <tn-awaited onlyFailures [of]="[thereLoaded]" />
        @if (there().length > 0) {
          <div class="there" role="note">
            <b>{{ move().to.name }} has {{ count(there().length, 'course') }} of this code already:</b>
            <ul>
              @for (course of there(); track $index) {
                <li>
                  {{ course | courseName }} {{ course.title }}, {{ course.term }}
                  @if (course.moveId !== null) {
                    , <a [routerLink]="['/moves', course.moveId]">brought by move {{ course.moveId }}</a>
                    @if (course.at; as at) {
                      {{ at | when }}
                    }
                  }
                </li>
              }
            </ul>
            What you deliver becomes one more beside {{ there().length === 1 ? 'it' : 'them' }}.
          </div>
        }
        <p class="quiet">
          A shell is made, the package is uploaded, waits in {{ move().to.name }}'s queue and is unpacked. Nothing that
          is there already is touched.
        </p>
        @if (error()) {
          <p class="error" role="alert">{{ error() }}</p>
        }
        <div class="acts">
          <button matButton="filled" type="submit" [disabled]="busy()">
            Deliver {{ isOlder() ? 'the copy as it is ' : '' }}into {{ move().course.code }}-{{
              form.controls.section.value
            }}
          </button>
          <button matButton="outlined" type="button" [disabled]="busy()" (click)="choose()">
            Into a course that is there…
          </button>
        </div>
      </form>
    }
    <tn-awaited [of]="[loaded]" />
    @if (log().length > 0) {
      <section class="panel log">
        <h2>What {{ move().to.name }} wrote while unpacking</h2>
        <tn-table label="What was written while unpacking" [rows]="log()" [columns]="columns">
          <ng-template tnCell="words" [of]="log()" let-entry>
            @if (entry.words === null) {
              <span class="quiet">Not known what this means.</span>
            } @else {
              {{ entry.words }}
            }
            @if (entry.words === null || entry.given) {
              <button matButton class="small" (click)="giveWords(entry)">
                {{ entry.given ? 'Other words…' : 'Say what it means…' }}
              </button>
            }
          </ng-template>
          <ng-template tnCell="line" [of]="log()" let-entry>
            <code>{{ entry.line }}</code>
          </ng-template>
        </tn-table>
      </section>
    }
  `,
  styles: `
    :host {
      display: grid;
      align-content: start;
      gap: 14px;
    }
    form,
    .into,
    .log {
      display: grid;
      gap: 10px;
      padding: 16px;
    }
    .fields {
      display: grid;
      grid-template-columns: 2fr 1fr 1fr;
      gap: 12px;
    }
    p {
      margin: 0;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
    }
    .there {
      padding: 8px 12px;
      border-left: 3px solid var(--ochre);
      background: var(--sunk);
    }
    ul {
      margin: 4px 0;
      padding-left: 18px;
    }
  `,
})
export class DeliverStep {
  private readonly api = inject(Api);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  readonly changed = output<MoveSummary>();
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  /** Whether a person was told that the course is another at its source by now: what is kept then goes as it is. */
  protected readonly isOlder = signal(false);
  /** Whether it waits for the quiet hours of the destination. */
  protected readonly quiet = signal(false);
  protected readonly form = inject(NonNullableFormBuilder).group({
    title: ['', Validators.required],
    section: ['', Validators.required],
    term: ['', Validators.required],
  });
  protected readonly loaded = rxResource({
    params: () => (this.move().shell && this.job() ? this.move().id : undefined),
    stream: ({ params }) => this.api.log(params),
  });
  private readonly logTold = lastOf(this.loaded);
  protected readonly count = count;
  protected readonly thereLoaded = rxResource({
    params: () => (this.move().shell ? undefined : this.move().id),
    stream: ({ params }) => this.api.there(params),
  });
  private readonly thereTold = lastOf(this.thereLoaded);
  protected readonly there = computed(() => this.thereTold()?.courses ?? []);
  /** The course that it goes into, where one was chosen; a further part goes where the others went. */
  protected readonly goesLoaded = rxResource({
    params: () => (this.asks() && this.move().part === 1 ? this.move().id : undefined),
    stream: ({ params }) => this.api.into(params),
  });
  protected readonly goes = lastOf(this.goesLoaded);
  private readonly back = computed(() => this.move().jobs.findLast((job) => job.kind === 'take-back') ?? null);
  protected readonly backJob = computed(() => {
    const job = this.back();
    return job && ['queued', 'running', 'waiting'].includes(job.state) ? job : null;
  });
  protected readonly backFailed = computed(() => {
    const job = this.back();
    return job?.state === 'failed' ? job.problem : null;
  });
  /** When the last delivery was taken back, while there is no other. */
  protected readonly taken = computed(() => this.move().deliveries.at(-1)?.takenBackAt ?? null);
  protected readonly columns: readonly ListColumn<LogAnswer['log'][number]>[] = [
    { id: 'words', name: 'In plain words', value: (l) => l.words ?? 'Not known what this means.' },
    { id: 'item', name: 'Item', value: (l) => l.item },
    { id: 'line', name: 'As written', value: (l) => l.line },
  ];
  protected readonly isThere = computed(() => {
    const { planVersion, part } = this.move();
    const standing = this.move().deliveries.filter((d) => d.takenBackAt === null);
    const brought = standing.some((d) => d.deliveredAt !== null && d.planVersion === planVersion);
    // Of a further part, or of a delivery that was taken back, the job that is told is that of the one before.
    const isOwn = part === 1 && standing.length === this.move().deliveries.length;
    return brought || (isOwn && this.job()?.state === 'done');
  });
  /** Whether the person is still to say that it goes. */
  protected readonly asks = computed(
    () => !this.isThere() && ['done', 'called off'].includes(this.job()?.state ?? 'done'),
  );
  /** Where the parts before went. */
  protected readonly goesInto = computed(() => (this.move().part > 1 ? this.move().shell : null));
  protected readonly log = computed(() => this.logTold()?.log ?? []);

  constructor() {
    effect(() => {
      // Read again whenever the job has gone a step further; what was read stays until then.
      const { words, state } = this.job() ?? {};
      if (words !== undefined || state !== undefined) untracked(() => this.loaded.reload());
    });
    effect(() => {
      const { title, section, term } = this.move().course;
      if (this.form.pristine) this.form.setValue({ title, section, term });
    });
  }

  protected deliver(): void {
    if (this.form.invalid) {
      this.error.set('Enter a title, a section and a term.');
      return;
    }
    this.send(this.form.getRawValue());
  }

  protected choose(): void {
    this.dialog
      .open<IntoDialog, MoveSummary, IntoAnswer>(IntoDialog, {
        data: this.move(),
        width: '680px',
        maxWidth: '92vw',
      })
      .afterClosed()
      .subscribe((into) => into && this.goesLoaded.set(into));
  }

  protected lookAgain(): void {
    const into = this.goes()?.into;
    if (into) this.goInto({ courseId: into.courseId, way: into.way });
  }

  protected goInto(choice: IntoChoice | null): void {
    this.told(this.api.goInto(this.move().id, { choice }));
  }

  protected decide(asked: MeetRequest): void {
    this.told(this.api.meet(this.move().id, asked));
  }

  protected giveWords(entry: LogAnswer['log'][number]): void {
    this.dialog
      .open<LogWordsDialog, LogWordsData, LogAnswer>(LogWordsDialog, {
        data: { move: this.move(), entry },
        width: '620px',
      })
      .afterClosed()
      .subscribe((log) => log && this.loaded.set(log));
  }

  private told(answer: Observable<IntoAnswer>): void {
    this.busy.set(true);
    this.error.set('');
    answer.subscribe({
      next: (into) => {
        this.busy.set(false);
        this.goesLoaded.set(into);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }

  protected takeBack(): void {
    this.dialog
      .open<TakeBackDialog, MoveSummary, MoveSummary>(TakeBackDialog, { data: this.move(), width: '620px' })
      .afterClosed()
      .subscribe((move) => {
        if (!move) return;
        this.changed.emit(move);
        void this.router.navigate(['/moves', move.id, 'deliver']);
      });
  }

  protected send(asked: Partial<DeliverRequest>): void {
    const { title, section, term } = this.move().course;
    this.busy.set(true);
    this.error.set('');
    this.api
      .deliver(this.move().id, {
        title,
        section,
        term,
        typed: '',
        asKept: this.isOlder(),
        quiet: this.quiet(),
        ...asked,
      })
      .subscribe({
        next: (move) => {
          this.busy.set(false);
          this.changed.emit(move);
        },
        error: (error: unknown) => {
          this.busy.set(false);
          this.error.set(wordsOf(error));
          this.isOlder.set(codeOf(error) === 'source-newer');
          // Where it was changed meanwhile, it was looked at anew.
          this.goesLoaded.reload();
        },
      });
  }
}
