import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogTitle,
} from '@angular/material/dialog';
import type { Key } from '../screens';

/** The keys that are heard on the screen that is shown, opened by `?`. */
@Component({
  selector: 'tn-keys-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>Keys</h2>
    <mat-dialog-content>
      <dl class="facts">
        @for (key of keys; track key[0]) {
          <dt>
            <kbd>{{ key[0] }}</kbd>
          </dt>
          <dd>{{ key[1] }}</dd>
        }
      </dl>
    </mat-dialog-content>
    <mat-dialog-actions align="end"><button matButton="outlined" mat-dialog-close>Close</button></mat-dialog-actions>
  `,
})
export class KeysDialog {
  protected readonly keys = inject<readonly Key[]>(MAT_DIALOG_DATA);
}
