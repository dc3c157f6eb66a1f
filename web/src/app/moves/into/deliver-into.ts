import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import type { IntoAnswer, MeetRequest, MoveSummary } from '@treenail/server/contract';
import { Api } from '../../data/api';
import { Awaited, lastOf } from '../../parts/awaited';
import { WhenPipe } from '../../parts/words';
import { Meetings } from './meetings';
import { ThreeOutlines } from './outlines';

/** What a delivery does to the course that it goes into, before it is sent; and what has to be typed where work would be lost. */
@Component({
  selector: 'tn-deliver-into',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatButton, MatFormFieldModule, MatInput, Meetings, ThreeOutlines, WhenPipe],
  template: `
    @if (told().into; as into) {
      <h2>Deliver {{ into.way }} what is in {{ into.title }} at {{ move().to.name }}</h2>
      <div class="says" role="note" [class.grave]="into.way === 'in place of'">
        @for (sentence of told().says; track sentence) {
          <p>{{ sentence }}</p>
        }
      </div>
      <tn-awaited [of]="[loaded]" />
      @if (fit(); as fit) {
        <tn-three-outlines
          [into]="into"
          [coming]="fit.course"
          [forecast]="fit.forecast.lines"
          [meets]="told().meets"
          [titles]="told().titles"
        />
      }
      @if (told().meets.length > 0) {
        <tn-meetings
          [meets]="told().meets"
          [chosen]="into.chosen"
          [rule]="into.rule"
          [busy]="busy()"
          (decide)="decide.emit($event)"
        />
      }
      <p class="quiet">
        Looked at {{ into.lookedAt | when: 'long' }}. It is looked at once more before anything is sent: where it was
        changed meanwhile, nothing is.
      </p>
      @if (told().typed) {
        <mat-form-field appearance="outline">
          <mat-label>Type “{{ told().typed }}”: this is meant</mat-label>
          <input matInput [value]="typed()" (input)="typed.set($any($event.target).value)" autocomplete="off" />
        </mat-form-field>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
      <div class="acts">
        <button matButton="filled" [disabled]="busy() || !isTyped()" (click)="send.emit(typed())">
          Deliver {{ older() ? 'the copy as it is ' : '' }}{{ into.way }} what is there
        </button>
        <button matButton="outlined" [disabled]="busy()" (click)="again.emit()">Look at it again</button>
        <button matButton [disabled]="busy()" (click)="another.emit()">Another course…</button>
        <button matButton [disabled]="busy()" (click)="shell.emit()">A new shell instead</button>
      </div>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
    }
    p {
      margin: 0;
    }
    .says {
      display: grid;
      gap: 4px;
      padding: 8px 12px;
      border-left: 3px solid var(--spruce);
      background: var(--sunk);
    }
    .says.grave {
      border-color: var(--lead);
    }
    mat-form-field {
      max-width: 460px;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
    }
  `,
})
export class DeliverInto {
  private readonly api = inject(Api);
  readonly move = input.required<MoveSummary>();
  readonly told = input.required<IntoAnswer>();
  readonly busy = input(false);
  readonly error = input('');
  readonly older = input(false);
  readonly send = output<string>();
  readonly decide = output<MeetRequest>();
  readonly again = output();
  readonly another = output();
  readonly shell = output();
  protected readonly typed = signal('');
  protected readonly isTyped = computed(() => this.typed().trim() === this.told().typed.trim());
  protected readonly loaded = rxResource({
    params: () => this.move().id,
    stream: ({ params }) => this.api.fit(params),
  });
  protected readonly fit = lastOf(this.loaded);
}
