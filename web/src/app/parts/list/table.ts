import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, contentChildren, input, signal } from '@angular/core';
import { MatSort, MatSortHeader, type Sort } from '@angular/material/sort';
import { MatTableModule } from '@angular/material/table';
import { compareValues, readIn, type ListColumn } from './column';
import { ListCell } from './list-cell';

/**
 * A short table that belongs to something else: all its rows are drawn, in the order they are given or by a header. What
 * people look for things in is a `tn-list`.
 */
@Component({
  selector: 'tn-table',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatSort, MatSortHeader, MatTableModule, NgTemplateOutlet],
  template: `
    <table
      mat-table
      matSort
      [matSortDisabled]="!sortable()"
      [attr.aria-label]="label()"
      [dataSource]="sorted()"
      (matSortChange)="order.set($event)"
    >
      @for (column of columns(); track column.id) {
        <ng-container [matColumnDef]="column.id">
          <th
            mat-header-cell
            *matHeaderCellDef
            [mat-sort-header]="column.id"
            [arrowPosition]="column.is === 'number' ? 'before' : 'after'"
            [class.num]="column.is === 'number'"
            [style.width.px]="column.width ?? null"
          >
            @if (column.name) {
              {{ column.name }}
            } @else {
              <span class="visually-hidden">What can be done</span>
            }
          </th>
          <td mat-cell *matCellDef="let row" [class.num]="column.is === 'number'">
            @if (cellOf(column.id); as cell) {
              <ng-container *ngTemplateOutlet="cell; context: { $implicit: row }" />
            } @else {
              {{ read(column, row) }}
            }
          </td>
          <td mat-footer-cell *matFooterCellDef [class.num]="column.is === 'number'">{{ footOf(column) }}</td>
        </ng-container>
      }
      <tr mat-header-row *matHeaderRowDef="ids(); sticky: true"></tr>
      <tr mat-row *matRowDef="let row; columns: ids()" [class.at]="row === at()"></tr>
      @if (hasFoot()) {
        <tr mat-footer-row *matFooterRowDef="ids()"></tr>
      }
    </table>
  `,
  styles: `
    :host {
      display: block;
    }
    table {
      width: 100%;
    }
    .num {
      text-align: right;
    }
    tr.at td {
      background: var(--spruce-pale);
    }
  `,
})
export class Table<T> {
  readonly rows = input.required<readonly T[]>();
  readonly columns = input.required<readonly ListColumn<T>[]>();
  /** What the table is of, for who hears it. */
  readonly label = input.required<string>();
  readonly sortable = input(true);
  readonly at = input<T | null>(null);
  private readonly cells = contentChildren<ListCell<T>>(ListCell);
  protected readonly order = signal<Sort>({ active: '', direction: '' });
  protected readonly ids = computed(() => this.columns().map((c) => c.id));
  protected readonly hasFoot = computed(() => this.columns().some((c) => c.foot));
  protected readonly sorted = computed((): readonly T[] => {
    const { active, direction } = this.order();
    const column = this.columns().find((c) => c.id === active);
    if (!column || direction === '') return this.rows();
    return [...this.rows()].sort((a, b) => compareValues(column.value(a), column.value(b), direction === 'desc'));
  });
  protected readonly read = readIn;

  protected footOf({ foot }: ListColumn<T>): string {
    return typeof foot === 'function' ? foot(this.rows()) : '';
  }

  protected cellOf(id: string) {
    return this.cells().find((cell) => cell.tnCell() === id)?.template ?? null;
  }
}
