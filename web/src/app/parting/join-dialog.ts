import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import { MatOption } from '@angular/material/core';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatSelect } from '@angular/material/select';
import { KIND_LABELS, count, type Double, type JoinPlan, type KeepOf } from '@treenail/core';
import { ListCell, Table, type ListColumn } from '../parts/list';

export interface JoinDialogData {
  first: { title: string; items: number };
  second: { title: string; items: number };
  doubles: readonly Double[];
}

const KEEPS: readonly { keep: KeepOf; words: string }[] = [
  { keep: 'first', words: 'that of the first' },
  { keep: 'second', words: 'that of the second' },
  { keep: 'both', words: 'both' },
];

/** Doubles that are decided on one by one; the rest goes as all do. */
const MOST_SHOWN = 200;

/** How two courses become one: what both have is shown first, and decided. */
@Component({
  selector: 'tn-join-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    ListCell,
    MatButton,
    MatButtonToggleModule,
    MatDialogModule,
    MatFormField,
    MatInput,
    MatLabel,
    MatOption,
    MatSelect,
    Table,
  ],
  template: `
    <h2 mat-dialog-title>Join with “{{ data.second.title }}”</h2>
    <mat-dialog-content>
      <p>
        {{ count(data.first.items, 'item') }} and {{ count(data.second.items, 'item') }}:
        <b>{{ data.doubles.length === 0 ? 'none is in both' : count(data.doubles.length, 'item') + ' in both' }}</b>{{
          differ() > 0 ? ', of which ' + differ() + ' not the same' : ''
        }}.
      </p>
      <mat-form-field appearance="outline" subscriptSizing="dynamic">
        <mat-label>Title of the whole</mat-label>
        <input #name matInput maxlength="300" [value]="title()" (input)="title.set(name.value)" />
      </mat-form-field>
      <div class="line">
        <span class="quiet">Folders of one title</span>
        <mat-button-toggle-group
          hideSingleSelectionIndicator
          aria-label="Folders of one title"
          [value]="folders()"
          (change)="folders.set($event.value)"
        >
          <mat-button-toggle value="joined">become one</mat-button-toggle>
          <mat-button-toggle value="apart">stay apart</mat-button-toggle>
        </mat-button-toggle-group>
      </div>
      @if (data.doubles.length > 0) {
        <div class="line">
          <span class="quiet">Of what both have stays</span>
          <mat-button-toggle-group
            hideSingleSelectionIndicator
            aria-label="Of what both have stays"
            [value]="doubles()"
            (change)="all($event.value)"
          >
            @for (one of keeps; track one.keep) {
              <mat-button-toggle [value]="one.keep">{{ one.words }}</mat-button-toggle>
            }
          </mat-button-toggle-group>
        </div>
        <tn-table label="In both courses" [rows]="shown" [columns]="columns">
          <ng-template tnCell="stays" [of]="shown" let-double>
            <mat-form-field class="slim" appearance="outline" subscriptSizing="dynamic">
              <mat-select
                [aria-label]="'What stays of ' + double.title"
                [value]="of()[double.second] ?? doubles()"
                (selectionChange)="set(double, $event.value)"
              >
                @for (one of keeps; track one.keep) {
                  <mat-option [value]="one.keep">{{ one.words }}</mat-option>
                }
              </mat-select>
            </mat-form-field>
          </ng-template>
        </tn-table>
        @if (data.doubles.length > shown.length) {
          <p class="quiet">{{ data.doubles.length - shown.length }} more go as all do.</p>
        }
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Cancel</button>
      <button matButton="filled" [disabled]="title().trim() === ''" (click)="join()">Join them</button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-dialog-content > mat-form-field {
      width: 100%;
    }
    .line {
      display: flex;
      align-items: center;
      gap: 10px;
      margin: 10px 0;
    }
  `,
})
export class JoinDialog {
  protected readonly data = inject<JoinDialogData>(MAT_DIALOG_DATA);
  private readonly ref = inject<MatDialogRef<JoinDialog, JoinPlan>>(MatDialogRef);
  protected readonly keeps = KEEPS;
  protected readonly count = count;
  protected readonly title = signal(this.data.first.title);
  protected readonly folders = signal<JoinPlan['folders']>('joined');
  protected readonly doubles = signal<KeepOf>('first');
  protected readonly of = signal<JoinPlan['of']>({});
  protected readonly differ = computed(() => this.data.doubles.filter((double) => !double.same).length);
  /** Those that differ first: of the others it is all one which stays. */
  protected readonly shown = [...this.data.doubles]
    .sort((a, b) => Number(a.same) - Number(b.same))
    .slice(0, MOST_SHOWN);
  protected readonly columns: readonly ListColumn<Double>[] = [
    { id: 'title', name: 'Item', value: (d) => d.title },
    { id: 'kind', name: 'Kind', width: 120, value: (d) => KIND_LABELS[d.kind] },
    {
      id: 'same',
      name: 'Is',
      width: 170,
      value: (d) => `${d.same ? 'the same' : 'not the same'}, by ${d.by}`,
    },
    { id: 'stays', name: 'Stays', width: 190, value: () => null },
  ];

  /** Said of all, what was said of one counts no longer. */
  protected all(keep: KeepOf): void {
    this.doubles.set(keep);
    this.of.set({});
  }

  protected set(double: Double, keep: KeepOf): void {
    this.of.update((of) => ({ ...of, [double.second]: keep }));
  }

  protected join(): void {
    this.ref.close({ title: this.title().trim(), doubles: this.doubles(), of: this.of(), folders: this.folders() });
  }
}
