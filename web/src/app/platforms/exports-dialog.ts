import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatTableModule } from '@angular/material/table';
import { count, readableSize } from '@treenail/core';
import type { PlatformSummary, RemoteExportSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { SizePipe, WhenPipe } from '../parts/words';

/** Exports that lie at an instance, whoever asked for them, to be removed there. */
@Component({
  selector: 'tn-exports-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    MatButton,
    MatCheckboxModule,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatTableModule,
    SizePipe,
    WhenPipe,
  ],
  template: `
    <h2 mat-dialog-title>Exports at {{ platform.name }}</h2>
    <mat-dialog-content>
      <tn-awaited [of]="[loaded]" />
      @if (exports().length > 0) {
        <p class="quiet">
          {{ head() }}
          {{ platform.exportsCount ? 'They count against the quotas of their courses until they are removed.' : '' }}
        </p>
        <table mat-table [dataSource]="exports()" aria-label="Exports">
          <ng-container matColumnDef="tick">
            <th mat-header-cell *matHeaderCellDef>
              <mat-checkbox
                aria-label="Choose all that are ready"
                [checked]="all()"
                (change)="chooseAll($event.checked)"
              />
            </th>
            <td mat-cell *matCellDef="let one">
              <mat-checkbox
                [aria-label]="'Choose the export of ' + one.course"
                [checked]="chosen().has(one.id)"
                (change)="choose(one, $event.checked)"
              />
            </td>
          </ng-container>
          <ng-container matColumnDef="course">
            <th mat-header-cell *matHeaderCellDef>Course</th>
            <td mat-cell *matCellDef="let one">{{ one.course }}</td>
          </ng-container>
          <ng-container matColumnDef="made">
            <th mat-header-cell *matHeaderCellDef>Asked for</th>
            <td mat-cell *matCellDef="let one">
              {{ one.madeAt === null ? 'not told when' : (one.madeAt | when) }}, by
              {{ one.ours ? 'Treenail' : 'somebody else' }}
            </td>
          </ng-container>
          <ng-container matColumnDef="size">
            <th mat-header-cell *matHeaderCellDef>Size</th>
            <td mat-cell *matCellDef="let one">
              @if (one.ready) {
                {{ one.bytes === null ? 'not told' : (one.bytes | size) }}
              } @else {
                being made
              }
            </td>
          </ng-container>
          <tr mat-header-row *matHeaderRowDef="columns"></tr>
          <tr mat-row *matRowDef="let row; columns: columns"></tr>
        </table>
      } @else if (known()) {
        <p>Nothing lies there.</p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton="outlined" mat-dialog-close>Close</button>
      <button matButton="filled" class="destructive" [disabled]="chosen().size === 0 || busy()" (click)="clear()">
        {{ button() }}
      </button>
    </mat-dialog-actions>
  `,
  styles: `
    table {
      width: 100%;
    }
    p {
      margin: 0 0 8px;
    }
  `,
})
export class ExportsDialog {
  private readonly api = inject(Api);
  protected readonly platform = inject<PlatformSummary>(MAT_DIALOG_DATA);
  protected readonly columns = ['tick', 'course', 'made', 'size'];
  protected readonly loaded = rxResource({ stream: () => this.api.exportsAt(this.platform.id) });
  private readonly list = lastOf(this.loaded);
  protected readonly known = computed(() => this.list() !== null);
  protected readonly exports = computed(() => this.list() ?? []);
  protected readonly chosen = signal<ReadonlySet<string>>(new Set());
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly all = computed(() => {
    const ready = this.exports().filter((e) => e.ready);
    return ready.length > 0 && ready.every((e) => this.chosen().has(e.id));
  });
  protected readonly head = computed(() => {
    const held = this.exports().reduce((sum, e) => sum + (e.bytes ?? 0), 0);
    return `${count(this.exports().length, 'export')}, ${readableSize(held)}.`;
  });
  protected readonly button = computed(() =>
    this.chosen().size === 0 ? 'Remove the chosen' : `Remove ${count(this.chosen().size, 'export')} there`,
  );

  protected choose(one: RemoteExportSummary, on: boolean): void {
    this.chosen.update((before) => {
      const next = new Set(before);
      if (on) next.add(one.id);
      else next.delete(one.id);
      return next;
    });
  }

  protected chooseAll(on: boolean): void {
    this.chosen.set(new Set(on ? this.exports().flatMap((e) => (e.ready ? e.id : [])) : []));
  }

  protected clear(): void {
    this.busy.set(true);
    this.error.set('');
    this.api.clearExports(this.platform.id, { exports: [...this.chosen()] }).subscribe({
      next: () => {
        this.busy.set(false);
        this.chosen.set(new Set());
        this.loaded.reload();
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
