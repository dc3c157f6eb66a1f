import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatOption } from '@angular/material/core';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatSelect } from '@angular/material/select';
import { KIND_LABELS, MeetsAs, count, type Meeting } from '@treenail/core';
import type { MeetRequest } from '@treenail/server/contract';
import { ListCell, Table, type ListColumn } from '../../parts/list';

const WORDS: Readonly<Record<MeetsAs, string>> = {
  both: 'both are there',
  theirs: 'theirs stays, ours is not sent',
  ours: 'ours takes its place',
  'ours, set as theirs': 'ours, set as theirs is',
};
const BY: Readonly<Record<Meeting['by'], string>> = {
  identifier: 'identifier',
  substance: 'what it says',
  title: 'kind and title',
};
/** Meetings that are decided on one by one; the rest goes as all do. */
const MOST_SHOWN = 200;

/** What becomes of what meets its like in the course that it goes into: one by one, or all at once. */
@Component({
  selector: 'tn-meetings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [ListCell, MatButton, MatFormFieldModule, MatInput, MatOption, MatSelect, Table],
  template: `
    <div class="line">
      <b>{{ count(meets().length, 'item') }} {{ meets().length === 1 ? 'has' : 'have' }} a counterpart there</b>
      <span class="quiet">{{ differs() }}</span>
      <span class="all">
        <span class="quiet">For all:</span>
        @for (one of all(); track one) {
          <button matButton class="small" [disabled]="busy()" (click)="everywhere(one)">{{ words[one] }}</button>
        }
      </span>
    </div>
    <div class="rows">
      <tn-table label="What has a counterpart there" [rows]="shown()" [columns]="columns">
        <ng-template tnCell="is" [of]="shown()" let-one>
          <mat-form-field class="slim" appearance="outline" subscriptSizing="dynamic">
            <mat-select
              [aria-label]="'What becomes of ' + one.title"
              [disabled]="busy()"
              [value]="one.is"
              (selectionChange)="decide.emit({ chosen: withOne(one, $event.value), rule: rule() })"
            >
              @for (can of one.can; track can) {
                <mat-option [value]="can">{{ words[can] }}</mat-option>
              }
            </mat-select>
          </mat-form-field>
          @if (one.why) {
            <span class="quiet">{{ one.why }}</span>
          }
        </ng-template>
      </tn-table>
    </div>
    @if (meets().length > shown().length) {
      <p class="quiet">{{ meets().length - shown().length }} more go by what is said for all.</p>
    }
    @if (hasBoth()) {
      <mat-form-field appearance="outline" subscriptSizing="dynamic">
        <mat-label>What ours is called where both are there</mat-label>
        <input
          #name
          matInput
          maxlength="120"
          placeholder="{title} ({code}-{section})"
          [value]="rule()"
          (change)="decide.emit({ chosen: chosen(), rule: name.value })"
        />
        <mat-hint>Empty, it keeps its name. {{ fields }} stand for those of what comes.</mat-hint>
      </mat-form-field>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 8px;
    }
    .line {
      display: flex;
      flex-wrap: wrap;
      align-items: baseline;
      gap: 4px 12px;
    }
    .all {
      display: flex;
      flex-wrap: wrap;
      align-items: baseline;
      gap: 2px;
      margin-left: auto;
    }
    .rows {
      max-height: 240px;
      overflow: auto;
      border: 1px solid var(--line);
      border-radius: 4px;
    }
    mat-form-field.slim {
      width: 220px;
      margin-right: 8px;
    }
    mat-form-field:not(.slim) {
      max-width: 520px;
    }
    p {
      margin: 0;
    }
  `,
})
export class Meetings {
  readonly meets = input.required<readonly Meeting[]>();
  readonly chosen = input.required<MeetRequest['chosen']>();
  readonly rule = input.required<string>();
  readonly busy = input(false);
  readonly decide = output<MeetRequest>();
  protected readonly words = WORDS;
  protected readonly count = count;
  protected readonly fields = '{title}, {code}, {section}, {term}';
  protected readonly shown = computed(() => this.meets().slice(0, MOST_SHOWN));
  protected readonly hasBoth = computed(() => this.meets().some((m) => m.is === 'both'));
  /** What can be chosen for more than a few. */
  protected readonly all = computed(() =>
    MeetsAs.options.filter((one) => this.meets().some((m) => m.can.includes(one))),
  );
  protected readonly differs = computed(() => {
    const differ = this.meets().filter((m) => !m.same).length;
    return differ === 0 ? 'all say the same' : `${differ} not the same`;
  });
  protected readonly columns: readonly ListColumn<Meeting>[] = [
    { id: 'title', name: 'What comes', value: (m) => m.title },
    { id: 'theirs', name: 'There', value: (m) => (m.theirs === m.title ? 'of the same name' : m.theirs) },
    { id: 'kind', name: 'Kind', value: (m) => KIND_LABELS[m.kind], width: 110 },
    { id: 'by', name: 'Known by', value: (m) => BY[m.by], width: 110 },
    {
      id: 'same',
      name: 'Other there',
      value: (m) => (m.same ? '' : m.differs.length > 0 ? m.differs.join(', ') : 'what it says'),
    },
    { id: 'is', name: 'What becomes of it', value: (m) => WORDS[m.is] },
  ];

  protected withOne(one: Meeting, is: MeetsAs): MeetRequest['chosen'] {
    return { ...this.chosen(), [one.second]: is };
  }

  /** Where it can't be so, it is said why. */
  protected everywhere(is: MeetsAs): void {
    const chosen = Object.fromEntries(this.meets().map((m) => [m.second, is]));
    this.decide.emit({ chosen, rule: this.rule() });
  }
}
