import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogActions, MatDialogClose, MatDialogContent } from '@angular/material/dialog';
import { MatDialogTitle } from '@angular/material/dialog';
import { compare, itemOfKey, type Course } from '@treenail/core';
import { Both, type LineWords, type Side } from '../both/both';
import { Api } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';

export interface ChangeDialogData {
  moveId: number;
  /** Identifier, in the course as it is now. */
  item: string;
  course: Course;
}

const AS_IT_WENT: LineWords = {
  absent: 'It never went.',
  outcomes: { whole: 'as it went', reworked: 'changed since it went' },
  names: ['As it went', 'As it is now'],
  caveat: '',
};

/** An item that went and changed since, as it was at its source then and as it is there now. */
@Component({
  selector: 'tn-change-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, Both, MatButton, MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>What changed since it went</h2>
    <mat-dialog-content>
      <tn-awaited [of]="[loaded]" />
      <tn-both [line]="line()" [left]="before()" [right]="now" [says]="says" [titles]="titles" />
    </mat-dialog-content>
    <mat-dialog-actions align="end"><button matButton mat-dialog-close>Close</button></mat-dialog-actions>
  `,
  styles: `
    mat-dialog-content {
      display: grid;
      height: 70vh;
    }
  `,
})
export class ChangeDialog {
  private readonly api = inject(Api);
  private readonly data = inject<ChangeDialogData>(MAT_DIALOG_DATA);
  protected readonly says = AS_IT_WENT;
  protected readonly titles = new Map(this.data.course.items.map((i) => [i.id, i.title]));
  protected readonly loaded = rxResource({ stream: () => this.api.sentSource(this.data.moveId) });
  private readonly sent = lastOf(this.loaded);
  protected readonly before = computed((): Side | null => {
    const course = this.sent()?.source;
    return course
      ? {
          course,
          preview: (item, learner) =>
            this.api.sentPreview(this.data.moveId, { item, ...(learner ? { learner: '' } : {}) }),
        }
      : null;
  });
  protected readonly now: Side = {
    course: this.data.course,
    preview: (item, learner) => this.api.preview(this.data.moveId, { item, ...(learner ? { learner: '' } : {}) }),
  };
  protected readonly line = computed(() => {
    const course = this.sent()?.source;
    if (!course) return null;
    const isIt = (key: string | null) => key !== null && itemOfKey(key) === this.data.item;
    return compare(course, this.data.course).lines.find((line) => isIt(line.arrived)) ?? null;
  });
}
