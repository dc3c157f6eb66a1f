import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, signal } from '@angular/core';
import { rxResource, takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButton } from '@angular/material/button';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatRadioModule } from '@angular/material/radio';
import { MatSelectModule } from '@angular/material/select';
import { RouterLink } from '@angular/router';
import { missingOf } from '@treenail/core';
import { STEP_NAMES, type CourseSummary, type InstanceSummary, type NewMove } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { KeepingService, type Keeping } from '../data/keeping';

import { Awaited, lastOf } from '../parts/awaited';
import { CourseNamePipe, SizePipe, WhenPipe, copyWords } from '../parts/words';
import { Pick } from '../parts/pick';

export interface MoveDialogData {
  course: CourseSummary;
  destinations: readonly InstanceSummary[];
  /** The copy to begin with, where a person came from one. */
  copyId?: number;
}

type Beginning = 'fetch' | 'copy' | 'file';

/** Asks what a move begins with and where it goes, says what that keeps, and starts it. Gives the move's identifier. */
@Component({
  selector: 'tn-move-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseNamePipe,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatRadioModule,
    MatSelectModule,
    Pick,
    ReactiveFormsModule,
    RouterLink,
    SizePipe,
    WhenPipe,
  ],
  templateUrl: './move-dialog.html',
  styleUrl: './move-dialog.scss',
})
export class MoveDialog {
  private readonly api = inject(Api);
  private readonly ref = inject(MatDialogRef<MoveDialog, number>);
  private readonly keeping = inject(KeepingService);
  private readonly destroyed = inject(DestroyRef);
  protected readonly data = inject<MoveDialogData>(MAT_DIALOG_DATA);
  protected readonly words = copyWords;
  protected readonly names = STEP_NAMES;
  protected readonly canFetch = this.data.course.instance.fetches;
  protected readonly loaded = rxResource({ stream: () => this.api.beginnings(this.data.course.id) });
  private readonly told = lastOf(this.loaded);
  protected readonly copies = computed(() => this.told()?.copies ?? []);
  /** The package that keeps the most, and what the others would leave out. */
  protected readonly form = computed(() => this.told()?.forms[0] ?? null);
  protected readonly poorer = computed(() => (this.told()?.forms ?? []).slice(1).filter((f) => f.lacks.length > 0));
  protected readonly from = new FormControl<Beginning>(
    this.data.copyId === undefined ? (this.canFetch ? 'fetch' : 'copy') : 'copy',
    { nonNullable: true },
  );
  protected readonly copy = new FormControl<number | null>(this.data.copyId ?? null);
  protected readonly destination = new FormControl<number | null>(
    this.data.destinations[0]?.id ?? null,
    Validators.required,
  );
  private readonly fromNow = toSignal(this.from.valueChanges, { initialValue: this.from.value });
  private readonly copyNow = toSignal(this.copy.valueChanges, { initialValue: this.copy.value });
  private readonly destinationNow = toSignal(this.destination.valueChanges, { initialValue: this.destination.value });
  protected readonly file = signal<File | null>(null);
  protected readonly sent = signal<Keeping | null>(null);
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  /** What the copy that is chosen is known to lack. */
  protected readonly missing = computed(() => {
    const copy = this.fromNow() === 'copy' ? this.copies().find((c) => c.id === this.copyNow()) : undefined;
    return copy ? missingOf(copy.facts) : [];
  });
  private readonly to = computed(() => this.data.destinations.find((d) => d.id === this.destinationNow()) ?? null);
  /** Between instances of one platform its archive goes on as it is; elsewhere the fit settles what keeps the most. */
  protected readonly carried = computed(() => {
    const to = this.to();
    if (!to) return '';
    return to.platform === this.data.course.instance.platform
      ? `${to.name} takes the same archive: it goes on exactly as it came, unless you change something on the way.`
      : `It is read from there, and written in the format that keeps the most at ${to.name}; the dry fit says which, and lets you choose.`;
  });
  /** Moves of the course to the same place that are not over. */
  protected readonly open = computed(() =>
    (this.told()?.open ?? []).filter((move) => move.destinationId === this.destinationNow()),
  );
  protected readonly button = computed(() => {
    const another = this.open().length > 0 ? 'Start another move' : 'Start';
    if (this.fromNow() === 'fetch') return `${another} by fetching`;
    return `${another} with the ${this.fromNow() === 'copy' ? 'copy' : 'file'}`;
  });
  protected readonly ready = computed(() => {
    if (this.to() === null) return false;
    if (this.fromNow() === 'copy') return this.copyNow() !== null;
    return this.fromNow() === 'file' ? this.file() !== null : true;
  });
  /** The same press sent twice starts one move. */
  private readonly key = crypto.randomUUID();

  constructor() {
    effect(() => {
      const [newest] = this.copies();
      if (newest && this.copy.value === null) this.copy.setValue(newest.id);
    });
  }

  protected take(files: readonly File[]): void {
    this.file.set(files[0] ?? null);
    if (this.file()) this.from.setValue('file');
  }

  protected start(): void {
    const destinationId = this.destination.value;
    if (destinationId === null) return;
    this.busy.set(true);
    this.error.set('');
    const { id: courseId } = this.data.course;
    const another = this.open().length > 0 ? { another: this.key } : {};
    const newMove: NewMove = { courseId, destinationId, ...another };
    if (this.from.value === 'file') this.keepThenStart(newMove);
    else
      this.ask(
        this.from.value === 'copy' && this.copy.value !== null ? { ...newMove, copyId: this.copy.value } : newMove,
      );
  }

  private ask(newMove: NewMove): void {
    this.api.startMove(newMove).subscribe({
      next: (move) => this.ref.close(move.id),
      error: (error: unknown) => this.fail(wordsOf(error)),
    });
  }

  /** The file is kept as a copy of the course first, so that it can be read, and read again. */
  private keepThenStart(newMove: NewMove): void {
    const file = this.file();
    if (!file) return;
    const { code, section, term, title, id: courseId } = this.data.course;
    const key = `move ${this.key} ${file.name} ${file.size}`;
    this.keeping.keep(key, file, { fileName: file.name.slice(0, 300), code, section, term, title, courseId }, true);
    this.keeping
      .settled(key)
      .pipe(takeUntilDestroyed(this.destroyed))
      .subscribe((now) => {
        this.sent.set(now);
        if (now.state === 'refused') this.fail(`${now.problem.message} ${now.problem.action}`);
        if (now.state !== 'kept') return;
        this.api.beginnings(courseId).subscribe({
          // The newest copy of the course is the one that was just kept.
          next: ({ copies: [copy] }) =>
            copy ? this.ask({ ...newMove, copyId: copy.id }) : this.fail('It was not kept.'),
          error: (error: unknown) => this.fail(wordsOf(error)),
        });
      });
  }

  private fail(words: string): void {
    this.busy.set(false);
    this.error.set(words);
  }
}
