import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatRadioModule } from '@angular/material/radio';
import { count } from '@treenail/core';
import type { MoveSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { WhenPipe } from '../parts/words';

/** A further part of a move: what it is taken from. What goes of it is chosen once that was looked into. */
@Component({
  selector: 'tn-send-more-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatRadioModule,
    WhenPipe,
  ],
  template: `
    <h2 mat-dialog-title>Send more into {{ move.shell?.title }}</h2>
    <mat-dialog-content>
      <tn-awaited [of]="[loaded]" />
      @if (further(); as further) {
        <p>
          {{ count(further.went, 'item') }} went.
          @if (further.left > 0) {
            {{ count(further.left, 'item') }} of the course did not: {{ some() }}.
          } @else {
            All of the course as it was looked into went: only what changed since can follow.
          }
        </p>
        <mat-radio-group aria-label="What the part is taken from" [value]="from()" (change)="from.set($event.value)">
          @for (copy of further.copies; track copy.id; let first = $first) {
            <mat-radio-button [value]="copy.id">
              {{ first ? 'The copy that went' : 'The copy' }} of {{ copy.keptAt | when: 'long' }}
              <span class="quiet">{{ copy.format }}</span>
            </mat-radio-button>
          }
          @if (further.fetches) {
            <mat-radio-button [value]="null">
              The course as it is now <span class="quiet">fetched from {{ move.from.name }}</span>
            </mat-radio-button>
          }
        </mat-radio-group>
        <p class="quiet">
          It is looked into, and so is {{ move.shell?.title }} at {{ move.to.name }}. Then you choose what goes: what
          never went and what changed is proposed, unless it was changed there too.
        </p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Close</button>
      <button matButton="filled" [disabled]="busy() || !further()?.can" (click)="begin()">Look into it</button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-radio-group {
      display: grid;
      max-height: 280px;
      overflow: auto;
    }
    p {
      margin: 0 0 10px;
    }
  `,
})
export class SendMoreDialog {
  private readonly api = inject(Api);
  private readonly ref = inject<MatDialogRef<SendMoreDialog, MoveSummary>>(MatDialogRef);
  protected readonly move = inject<MoveSummary>(MAT_DIALOG_DATA);
  protected readonly count = count;
  protected readonly loaded = rxResource({ stream: () => this.api.further(this.move.id) });
  protected readonly further = lastOf(this.loaded);
  /** Where all of it went, only a newer one has more. */
  protected readonly from = linkedSignal<number | null>(() => {
    const { left = 0, copies = [], fetches = false } = this.further() ?? {};
    return left === 0 && fetches ? null : (copies[0]?.id ?? null);
  });
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly some = computed(() => {
    const { left = 0, some = [] } = this.further() ?? {};
    const more = left > some.length ? ` and ${left - some.length} more` : '';
    return some.map((title) => `“${title}”`).join(', ') + more;
  });

  protected begin(): void {
    this.busy.set(true);
    this.error.set('');
    this.api.sendMore(this.move.id, { copyId: this.from() }).subscribe({
      next: (move) => this.ref.close(move),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
