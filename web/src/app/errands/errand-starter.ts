import { Injectable, inject } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Router } from '@angular/router';
import { filter, tap, type Observable } from 'rxjs';
import { ErrandDialog, type ErrandBegun, type ErrandDialogData } from './errand-dialog';

/** Asks what of a kept copy goes where, from wherever a person stands; goes to the move that does it. */
@Injectable({ providedIn: 'root' })
export class ErrandStarter {
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);
  private readonly snacks = inject(MatSnackBar);

  /** A file lies with its copy, wherever it was asked for. */
  private tell(copy: number): void {
    this.snacks
      .open('A file is being made: it will lie with the kept copy.', 'Show the copy', { duration: 12_000 })
      .onAction()
      .subscribe(() => void this.router.navigate(['/strongroom'], { queryParams: { copy } }));
  }

  /** Tells when a file is being made of it. */
  open(data: ErrandDialogData): Observable<ErrandBegun> {
    return this.dialog
      .open<ErrandDialog, ErrandDialogData, ErrandBegun>(ErrandDialog, { data, width: '640px', maxWidth: '92vw' })
      .afterClosed()
      .pipe(
        filter((begun) => begun !== undefined),
        tap(({ moveId }) => {
          if (moveId !== null) void this.router.navigate(['/moves', moveId]);
          else this.tell(data.copy.id);
        }),
      );
  }
}
