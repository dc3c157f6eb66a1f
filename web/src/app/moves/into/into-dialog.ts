import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { rxResource, toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatRadioModule } from '@angular/material/radio';
import { count, heldWords, type WayIn } from '@treenail/core';
import type { IntoAnswer, MoveSummary } from '@treenail/server/contract';
import { debounceTime } from 'rxjs';
import { Api, wordsOf } from '../../data/api';
import { Awaited, lastOf } from '../../parts/awaited';
import { CourseNamePipe } from '../../parts/words';

/** Which course of the destination a move goes into, and how. Nothing is done there by it but looking. */
@Component({
  selector: 'tn-into-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseNamePipe,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatInput,
    MatRadioModule,
  ],
  template: `
    <h2 mat-dialog-title>Into a course that is there at {{ move.to.name }}</h2>
    <mat-dialog-content>
      <mat-form-field appearance="outline">
        <mat-label>Code, title or term</mat-label>
        <input matInput [value]="words()" (input)="words.set($any($event.target).value)" />
      </mat-form-field>
      <tn-awaited [of]="[targets]" />
      @if (told(); as told) {
        @if (!told.can) {
          <p role="note">{{ move.to.name }} takes courses only into new shells.</p>
        } @else if (told.targets.length === 0) {
          <p role="note">No course at {{ move.to.name }} has all of these words.</p>
        }
        <mat-radio-group class="targets" aria-label="Course" [value]="chosen()" (change)="chosen.set($event.value)">
          @for (target of told.targets; track target.courseId) {
            <mat-radio-button [value]="target.courseId">
              <b>{{ target | courseName }}</b> {{ target.title }}, {{ target.term }}
              @if (target.why) {
                <span class="why">{{ target.why }}</span>
              }
            </mat-radio-button>
          }
        </mat-radio-group>
        @if (told.more > 0) {
          <p class="quiet">{{ count(told.more, 'more course', 'more courses') }}: say more of what it is called.</p>
        }
      }
      @if (chosen() !== null) {
        <tn-awaited [of]="[looking]" />
        @if (looked(); as looked) {
          <section class="looked" aria-label="What is there">
            <p>
              <b>{{ looked.title }}</b> holds {{ heldWords(looked.course) }}. {{ peopleThere() }}
              @if (looked.standing.work > 0) {
                Learners did {{ count(looked.standing.work, 'thing') }} in it.
              } @else {
                No student work is in it.
              }
            </p>
            @if (looked.standing.shut) {
              <p class="error">It is shut: nothing in it can be changed any more. Open it there, or choose another.</p>
            } @else if (!looked.standing.mayChange) {
              <p class="error">
                It can only be read with the key that Treenail has: ask whoever keeps it for the right to change it, or
                choose another.
              </p>
            } @else {
              <mat-radio-group aria-label="How" [value]="way()" (change)="wished.set($event.value)">
                <mat-radio-button value="beside" [disabled]="!looked.ways.includes('beside')">
                  Beside what is there <span class="quiet">what is there stays</span>
                </mat-radio-button>
                <mat-radio-button
                  value="into"
                  [disabled]="looked.standing.held.length === 0 || !looked.ways.includes('into')"
                >
                  Into what is there
                  <span class="quiet">matched item by item: what differs takes the place of theirs</span>
                </mat-radio-button>
                <mat-radio-button value="in place of" [disabled]="looked.standing.held.length === 0">
                  In place of what is there
                  <span class="quiet">after a kept copy of it; name, code and people stay</span>
                </mat-radio-button>
              </mat-radio-group>
              @if (looked.unless) {
                <p class="quiet">{{ looked.unless }}</p>
              }
            }
          </section>
        }
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Close</button>
      <button matButton="filled" [disabled]="busy() || !takesIt()" (click)="choose()">
        Go {{ way() }} what is there
      </button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-dialog-content {
      display: grid;
      gap: 8px;
    }
    mat-form-field {
      margin-top: 6px;
    }
    .targets {
      display: grid;
      max-height: 220px;
      overflow: auto;
    }
    .looked {
      display: grid;
      gap: 4px;
      padding: 8px 12px;
      border-left: 3px solid var(--spruce);
      background: var(--sunk);
    }
    .looked mat-radio-group {
      display: grid;
    }
    .why {
      margin-left: 6px;
      color: var(--spruce);
    }
    p {
      margin: 0;
    }
  `,
})
export class IntoDialog {
  private readonly api = inject(Api);
  private readonly ref = inject<MatDialogRef<IntoDialog, IntoAnswer>>(MatDialogRef);
  protected readonly move = inject<MoveSummary>(MAT_DIALOG_DATA);
  protected readonly count = count;
  protected readonly heldWords = heldWords;
  protected readonly words = signal('');
  private readonly asked = toSignal(toObservable(this.words).pipe(debounceTime(200)), { initialValue: '' });
  protected readonly targets = rxResource({
    params: () => this.asked(),
    stream: ({ params: words }) => this.api.targets(this.move.id, { words }),
  });
  protected readonly told = lastOf(this.targets);
  protected readonly chosen = signal<number | null>(null);
  protected readonly looking = rxResource({
    params: () => this.chosen() ?? undefined,
    stream: ({ params: course }) => this.api.lookAt(this.move.id, course),
  });
  /** What is there in the course that is chosen now, and in no other. */
  protected readonly looked = computed(() => {
    const looked = this.looking.hasValue() ? this.looking.value() : undefined;
    return looked?.courseId === this.chosen() ? looked : undefined;
  });
  protected readonly wished = signal<WayIn>('beside');
  /** What was wished, or the first way that can be gone. */
  protected readonly way = computed((): WayIn => {
    const ways = this.looked()?.ways ?? [];
    return ways.includes(this.wished()) ? this.wished() : (ways[0] ?? 'beside');
  });
  protected readonly peopleThere = computed(() => {
    const { learners = 0, tutors = 0 } = this.looked()?.standing ?? {};
    if (learners + tutors === 0) return 'Nobody is in it.';
    return `${count(learners, 'learner')} and ${count(tutors, 'tutor')} are in it.`;
  });
  protected readonly takesIt = computed(() => {
    const standing = this.looked()?.standing;
    return standing !== undefined && !standing.shut && standing.mayChange;
  });
  protected readonly busy = signal(false);
  protected readonly error = signal('');

  protected choose(): void {
    const courseId = this.chosen();
    if (courseId === null) return;
    this.busy.set(true);
    this.error.set('');
    this.api.goInto(this.move.id, { choice: { courseId, way: this.way() } }).subscribe({
      next: (into) => this.ref.close(into),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
