import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { NonNullableFormBuilder, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButton } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { RouterLink } from '@angular/router';
import type { DeliverAnswer, DeliverRequest, JobSummary, MoveSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../../data/api';
import { Awaited, lastOf } from '../../parts/awaited';
import { count } from '@treenail/core';
import { CourseNamePipe, WhenPipe } from '../../parts/words';
import { JobPanel } from './job-panel';
import { StepHead } from './step-head';
import { ListCell, Table, type ListColumn } from '../../parts/list';

/** Into a new, empty shell; then the platform's own log, in plain words. */
@Component({
  selector: 'tn-deliver-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseNamePipe,
    JobPanel,
    ListCell,
    MatButton,
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
      @if (isThere()) {
        <a matButton="filled" [routerLink]="['/moves', move().id, 'check']">See the check</a>
      }
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    @if (asks() && goesInto(); as shell) {
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
        <div>
          <button matButton="filled" type="submit" [disabled]="busy()">
            Deliver into {{ move().course.code }}-{{ form.controls.section.value }}
          </button>
        </div>
      </form>
    }
    <tn-awaited [of]="[loaded]" />
    @if (log().length > 0) {
      <section class="panel log">
        <h2>What {{ move().to.name }} wrote while unpacking</h2>
        <tn-table label="What was written while unpacking" [rows]="log()" [columns]="columns">
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
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  readonly changed = output<MoveSummary>();
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly form = inject(NonNullableFormBuilder).group({
    title: ['', Validators.required],
    section: ['', Validators.required],
    term: ['', Validators.required],
  });
  protected readonly loaded = rxResource({
    // Read again whenever the job has gone a step further.
    params: () =>
      this.move().shell && this.job()
        ? { id: this.move().id, words: this.job()?.words, state: this.job()?.state }
        : undefined,
    stream: ({ params }) => this.api.log(params.id),
  });
  private readonly told = lastOf(this.loaded);
  protected readonly count = count;
  protected readonly thereLoaded = rxResource({
    params: () => (this.move().shell ? undefined : this.move().id),
    stream: ({ params }) => this.api.there(params),
  });
  private readonly thereTold = lastOf(this.thereLoaded);
  protected readonly there = computed(() => this.thereTold()?.courses ?? []);
  protected readonly columns: readonly ListColumn<DeliverAnswer['log'][number]>[] = [
    { id: 'words', name: 'In plain words', value: (l) => l.words ?? 'Not known what this means.' },
    { id: 'item', name: 'Item', value: (l) => l.item },
    { id: 'line', name: 'As written', value: (l) => l.line },
  ];
  protected readonly isThere = computed(() => {
    const { deliveries, planVersion, part } = this.move();
    const brought = deliveries.some((d) => d.deliveredAt !== null && d.planVersion === planVersion);
    // Of a further part the job that is told may be that of the part before.
    return brought || (part === 1 && this.job()?.state === 'done');
  });
  /** Whether the person is still to say that it goes. */
  protected readonly asks = computed(
    () => !this.isThere() && ['done', 'called off'].includes(this.job()?.state ?? 'done'),
  );
  /** Where the parts before went. */
  protected readonly goesInto = computed(() => (this.move().part > 1 ? this.move().shell : null));
  protected readonly log = computed(() => this.told()?.log ?? []);

  constructor() {
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

  protected send(asked: Partial<DeliverRequest>): void {
    const { title, section, term } = this.move().course;
    this.busy.set(true);
    this.api.deliver(this.move().id, { title, section, term, ...asked }).subscribe({
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
}
