import { ChangeDetectionStrategy, Component } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle } from '@angular/material/dialog';

/** The list of keys, opened by `?`. */
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
  protected readonly keys = [
    ['/', 'search'],
    ['g c', 'Courses'],
    ['g m', 'Moves'],
    ['g b', 'Bench'],
    ['g s', 'Strongroom'],
    ['g r', 'Reports'],
    ['j  k', 'next and previous row of a list'],
    ['Enter', 'open the row'],
    ['[  ]', 'previous and next step of a move'],
    ['?', 'this list'],
  ] as const;
}
