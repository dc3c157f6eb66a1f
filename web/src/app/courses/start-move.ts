import { HttpErrorResponse } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { Router } from '@angular/router';
import type { CourseSummary, InstanceSummary } from '@treenail/server/contract';
import { catchError, forkJoin, map, of, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { MoveDialog, type MoveDialogData } from './move-dialog';

/** Opens the dialog that starts a move, from wherever a person stands at a course or a copy of it. */
@Injectable({ providedIn: 'root' })
export class MoveStarter {
  private readonly api = inject(Api);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);

  open(course: CourseSummary, instances: readonly InstanceSummary[], copyId?: number): void {
    // What will be switched off is offered last, and so is where the course is now.
    const rank = (i: InstanceSummary) => Number(i.leaving) + 2 * Number(i.id === course.instance.id);
    const destinations = instances.filter((i) => i.takes).sort((a, b) => rank(a) - rank(b));
    const data = { course, destinations, ...(copyId === undefined ? {} : { copyId }) };
    this.dialog
      .open<MoveDialog, MoveDialogData, number>(MoveDialog, { data, width: '560px' })
      .afterClosed()
      .subscribe((moveId) => {
        if (moveId !== undefined) void this.router.navigate(['/moves', moveId]);
      });
  }

  /** From a copy alone. Gives whether the course is still in the register. */
  fromCopy(copy: { id: number; courseId: number | null }): Observable<boolean> {
    if (copy.courseId === null) return of(false);
    return forkJoin([this.api.course(copy.courseId), this.api.instances()]).pipe(
      map(([course, instances]) => {
        this.open(course, instances, copy.id);
        return true;
      }),
      catchError((error: unknown) => {
        if (error instanceof HttpErrorResponse && error.status === 404) return of(false);
        throw error;
      }),
    );
  }
}
