import { ChangeDetectionStrategy, Component, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatFormField } from '@angular/material/form-field';
import { MatIcon } from '@angular/material/icon';
import { MatInput } from '@angular/material/input';
import { Refusal, closedDaysOf, count } from '@treenail/core';
import type { ClosedDay } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { DayField } from '../parts/day-field';
import { Pick } from '../parts/pick';

/** Days on which the house is closed: written down, or read from a calendar that somebody has. */
@Component({
  selector: 'tn-closed-days-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, DayField, MatButton, MatFormField, MatIcon, MatIconButton, MatInput, Pick],
  template: `
    <section class="panel" aria-label="Closed days">
      <header>
        <h2>Days on which the house is closed</h2>
        <tn-pick label="A calendar of closed days" words="Read a calendar (.ics)" (picked)="read($event)" />
        <button matButton="outlined" [disabled]="!loaded.hasValue()" (click)="add()">Add a day</button>
      </header>
      <tn-awaited [of]="[loaded]" />
      <ul aria-label="Closed days">
        @for (day of days(); track $index; let i = $index) {
          <li>
            <tn-day-field [label]="'Day of ' + day.name" [day]="day.on" (dayChange)="set(i, { on: $event })" />
            <mat-form-field class="slim name" appearance="outline" subscriptSizing="dynamic">
              <input
                #name
                matInput
                maxlength="80"
                [attr.aria-label]="'What ' + day.on + ' is called'"
                [value]="day.name"
                (change)="set(i, { name: name.value })"
              />
            </mat-form-field>
            <button
              matIconButton
              type="button"
              class="tiny"
              [attr.aria-label]="'Remove ' + day.name"
              (click)="remove(i)"
            >
              <mat-icon svgIcon="close" />
            </button>
          </li>
        } @empty {
          @if (loaded.hasValue()) {
            <li class="quiet">None yet. What a course is re-dated to is held against them.</li>
          }
        }
      </ul>
      @if (dirty()) {
        <div class="acts"><button matButton="filled" (click)="save()">Keep the days</button></div>
      }
      @if (said()) {
        <p role="status">{{ said() }}</p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </section>
  `,
  styles: `
    /* Below the term calendar, whose days these are. */
    :host {
      grid-column: -2;
    }
    section {
      padding: 14px;
    }
    header {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    h2 {
      flex: 1;
      margin: 0;
    }
    ul {
      list-style: none;
      margin: 10px 0;
      padding: 0;
    }
    li {
      display: flex;
      align-items: center;
      gap: 6px;
      padding: 2px 0;
    }
    .name {
      flex: 1;
    }
    p {
      margin: 6px 0 0;
    }
  `,
})
export class ClosedDaysPanel {
  private readonly api = inject(Api);
  protected readonly loaded = rxResource({ stream: () => this.api.closedDays() });
  private readonly last = lastOf(this.loaded);
  protected readonly days = linkedSignal<readonly ClosedDay[]>(() => this.last() ?? []);
  protected readonly dirty = signal(false);
  protected readonly said = signal('');
  protected readonly error = signal('');

  protected set(at: number, change: Partial<ClosedDay>): void {
    this.change(this.days().map((day, i) => (i === at ? { ...day, ...change } : day)));
  }

  protected remove(at: number): void {
    this.change(this.days().filter((_, i) => i !== at));
  }

  protected add(): void {
    this.change([...this.days(), { on: new Date().toISOString().slice(0, 10), name: 'Closed' }]);
  }

  private change(days: readonly ClosedDay[]): void {
    this.days.set(days);
    this.dirty.set(true);
  }

  /** What is read stands beside what was there; nothing is kept before it was looked at. */
  protected read(files: readonly File[]): void {
    const [file] = files;
    void file?.text().then((text) => {
      try {
        const found = closedDaysOf(text);
        const known = new Set(this.days().map((day) => day.on));
        const fresh = found.filter((day) => !known.has(day.on));
        this.change([...this.days(), ...fresh].sort((a, b) => (a.on < b.on ? -1 : 1)));
        this.tell(`${count(found.length, 'day')} in ${file.name}, ${fresh.length} of them new.`);
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        const { message, action, line } = error.problem;
        this.fail(`${file.name}: ${message}${line === undefined ? '' : ` (line ${line})`} ${action}`);
      }
    });
  }

  protected save(): void {
    this.api.setClosedDays([...this.days()]).subscribe({
      next: (days) => {
        this.days.set(days);
        this.dirty.set(false);
        this.tell('The closed days are kept.');
      },
      error: (error: unknown) => this.fail(wordsOf(error)),
    });
  }

  private tell(words: string): void {
    this.error.set('');
    this.said.set(words);
  }

  private fail(words: string): void {
    this.said.set('');
    this.error.set(words);
  }
}
