import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  signal,
} from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { NO_REDATING, RedatePlan, courseName } from '@treenail/core';
import type { MoveSummary, RedateAnswer } from '@treenail/server/contract';
import { filter, type Observable } from 'rxjs';
import { Api, wordsOf } from '../../data/api';
import { JobsService } from '../../data/jobs';
import { Awaited } from '../../parts/awaited';
import { RedateView } from '../../redate/redate-view';
import { draftKept, keepDraft } from './redate-draft';
import { StepHead } from './step-head';

/** Where the dates of the course go, before its fit is foretold. */
@Component({
  selector: 'tn-redate-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatButton, RedateView, RouterLink, StepHead],
  template: `
    <tn-step-head [move]="move()">
      @if (told(); as told) {
        @if (told.open && told.plan !== null) {
          <button matButton="outlined" [disabled]="busy()" (click)="undo()">Let the dates go as they were</button>
        }
        @if (told.open && changed()) {
          @if (told.plan !== null) {
            <button matButton="outlined" [disabled]="busy()" (click)="draft.set(told.plan)">
              Back to what is used
            </button>
          }
          <button matButton="filled" [disabled]="busy()" (click)="use()">Use these dates</button>
        } @else {
          <a matButton="filled" [routerLink]="['/moves', move().id, 'fit']">See the fit</a>
        }
      }
    </tn-step-head>
    @if (error()) {
      <p class="error" role="alert">{{ error() }}</p>
    }
    <tn-awaited [of]="[loaded]" />
    @if (told(); as told) {
      @if (!told.searched) {
        <p class="before" role="note">
          Texts and calendars of this course were not looked through for dates: it was looked into before Treenail did
          so.
        </p>
      }
      @for (one of told.failed; track one.key) {
        <p class="before" role="note">A date in a text could not be written: {{ one.why }}.</p>
      }
      @if (told.dates.length + told.written.length > 0) {
        <tn-redate-view [data]="told" [called]="name()" [open]="told.open" [(draft)]="draft" />
      } @else {
        @for (note of told.notes; track $index) {
          <p class="before" role="note">{{ note.message }}</p>
        }
        <p class="panel none">
          {{
            told.searched && told.notes.length === 0
              ? 'Nothing in this course bears a date, and no text names one.'
              : 'No date is known of what was looked through.'
          }}
        </p>
      }
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 10px;
    }
    tn-redate-view {
      flex: 1;
      min-height: 0;
    }
    .none {
      padding: 24px;
    }
  `,
})
export class RedateStep {
  private readonly api = inject(Api);
  readonly move = input.required<MoveSummary>();
  private readonly id = computed(() => this.move().id);
  protected readonly name = computed(() => courseName(this.move().course));
  protected readonly loaded = rxResource({ params: () => this.id(), stream: ({ params }) => this.api.redate(params) });
  protected readonly told = signal<RedateAnswer | null>(null);
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  /** What is being decided: what was, what was begun before the page was left, or what the calendar suggests. */
  protected readonly draft = linkedSignal<RedateAnswer | null, RedatePlan>({
    source: this.told,
    computation: (told, before) => {
      if (!told) return NO_REDATING;
      // Told anew, what is being decided stays.
      if (before?.source && JSON.stringify(before.source.plan) === JSON.stringify(told.plan)) return before.value;
      return draftKept(this.id()) ?? told.plan ?? suggestedBy(told);
    },
  });
  protected readonly changed = computed(
    () => JSON.stringify(this.draft()) !== JSON.stringify(this.told()?.plan ?? null),
  );

  constructor() {
    effect(() => {
      if (this.loaded.hasValue()) this.told.set(this.loaded.value());
    });
    effect(() => {
      const [told, draft] = [this.told(), this.draft()];
      if (told?.open) keepDraft(this.id(), this.changed() ? draft : null);
    });
    inject(JobsService)
      .changed$.pipe(
        filter((j) => j.moveId === this.id() && j.kind === 'tidy' && j.state === 'done'),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.loaded.reload());
  }

  protected use(): void {
    this.ask(this.api.setRedate(this.id(), this.draft()));
  }

  protected undo(): void {
    this.ask(this.api.undoRedate(this.id()));
  }

  private ask(request: Observable<RedateAnswer>): void {
    this.busy.set(true);
    this.error.set('');
    request.subscribe({
      next: (told) => {
        this.busy.set(false);
        keepDraft(this.id(), null);
        this.told.set(told);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}

/** From the course's term into the one after it, where both are known. */
function suggestedBy({ terms, from, to, open }: RedateAnswer): RedatePlan {
  if (!open) return NO_REDATING;
  const [then, next] = [from, to].map((name) => terms.find((t) => t.name === name));
  return then && next ? { ...NO_REDATING, rule: { is: 'term', from: then, to: next } } : NO_REDATING;
}
