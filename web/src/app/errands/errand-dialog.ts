import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
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
import { count, type WayIn } from '@treenail/core';
import type { CopySummary, ErrandAct, NewErrand } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { CourseNamePipe, WhenPipe, copyWords } from '../parts/words';
import { ChooseItems } from './choose-items';

export interface ErrandDialogData {
  copy: CopySummary;
  act: ErrandAct;
  /** What is ticked when it opens. */
  items?: readonly string[];
}

/** The move that was begun, or `null` where a file is made. */
export type ErrandBegun = { moveId: number } | { moveId: null };

type Where = 'back' | 'there' | 'file';

/** What of a kept copy goes where: all of it or some, back into its course, elsewhere, or into a file. Nothing is changed by it. */
@Component({
  selector: 'tn-errand-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    ChooseItems,
    CourseNamePipe,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatRadioModule,
    MatSelectModule,
    WhenPipe,
  ],
  template: `
    <h2 mat-dialog-title>{{ isRestore ? 'Restore' : 'Give things of' }} {{ copy | courseName }} {{ copy.title }}</h2>
    <mat-dialog-content>
      <p class="quiet">Kept {{ copy.keptAt | when: 'long' }} from {{ copy.from }}: {{ whatItIs(copy) }}.</p>
      <tn-awaited [of]="[loaded, instances]" />
      @if (contents(); as contents) {
        @if (isRestore) {
          <mat-radio-group aria-label="What" [value]="part()" (change)="part.set($event.value)">
            <mat-radio-button [value]="false">
              All of it <span class="quiet">{{ count(contents.course.items.length, 'item') }}</span>
            </mat-radio-button>
            <mat-radio-button [value]="true">Chosen things</mat-radio-button>
          </mat-radio-group>
        }
        @if (part()) {
          <tn-choose-items [course]="contents.course" [(chosen)]="chosen" />
        }
        <mat-radio-group class="where" aria-label="Where to" [value]="where()" (change)="wished.set($event.value)">
          @if (contents.back; as back) {
            <mat-radio-button value="back">
              Into “{{ back.title }}” at {{ back.instance }} <span class="quiet">the course that it is a copy of</span>
            </mat-radio-button>
            @if (where() === 'back') {
              <mat-radio-group class="inner" aria-label="How" [value]="way()" (change)="wayWished.set($event.value)">
                <mat-radio-button value="in place of">
                  In place of what is there
                  <span class="quiet">after a kept copy of it; name, code and people stay</span>
                </mat-radio-button>
                <mat-radio-button value="into">
                  Into what is there <span class="quiet">matched item by item</span>
                </mat-radio-button>
                <mat-radio-button value="beside">
                  Beside what is there <span class="quiet">what is there stays</span>
                </mat-radio-button>
              </mat-radio-group>
            }
          }
          <mat-radio-button value="there">
            Another course, or a new shell <span class="quiet">which one you choose at the delivery</span>
          </mat-radio-button>
          @if (where() === 'there') {
            <mat-form-field class="inner" appearance="outline" subscriptSizing="dynamic">
              <mat-label>Instance</mat-label>
              <mat-select [value]="destination()" (selectionChange)="destination.set($event.value)">
                @for (instance of takers(); track instance.id) {
                  <mat-option [value]="instance.id">{{ instance.name }}</mat-option>
                }
              </mat-select>
            </mat-form-field>
          }
          @if (!isRestore) {
            <mat-radio-button value="file"
              >A file <span class="quiet">kept with the copy, to be handed on</span></mat-radio-button
            >
            @if (where() === 'file') {
              <mat-form-field class="inner" appearance="outline" subscriptSizing="dynamic">
                <mat-label>Format</mat-label>
                <mat-select [value]="target()" (selectionChange)="target.set($event.value)">
                  @for (one of contents.targets; track one.id) {
                    <mat-option [value]="one.id">{{ one.label }}</mat-option>
                  }
                </mat-select>
              </mat-form-field>
            }
          }
        </mat-radio-group>
        <p class="quiet">
          {{
            where() === 'file'
              ? 'What the format can not hold is listed beside the file.'
              : 'Nothing is changed by this: what will be there afterwards, and what will be gone, is shown before it is delivered.'
          }}
        </p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton="outlined" mat-dialog-close>Leave it</button>
      <button matButton="filled" [disabled]="!ready() || busy()" (click)="go()">{{ button() }}</button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-dialog-content {
      display: grid;
      gap: 8px;
    }
    mat-radio-group {
      display: grid;
    }
    .where {
      padding-top: 6px;
      border-top: 1px solid var(--line);
    }
    .inner {
      margin-left: 32px;
    }
    mat-form-field.inner {
      margin-top: 6px;
      max-width: 340px;
    }
    p {
      margin: 0;
    }
  `,
})
export class ErrandDialog {
  private readonly api = inject(Api);
  private readonly ref = inject<MatDialogRef<ErrandDialog, ErrandBegun>>(MatDialogRef);
  private readonly data = inject<ErrandDialogData>(MAT_DIALOG_DATA);
  protected readonly copy = this.data.copy;
  protected readonly isRestore = this.data.act === 'restore';
  protected readonly count = count;
  protected readonly whatItIs = copyWords;
  protected readonly loaded = rxResource({ stream: () => this.api.contents(this.copy.id) });
  protected readonly contents = lastOf(this.loaded);
  protected readonly instances = rxResource({ stream: () => this.api.instances() });
  private readonly allInstances = lastOf(this.instances);
  /** What will be switched off is offered last. */
  protected readonly takers = computed(() =>
    [...(this.allInstances() ?? [])].filter((i) => i.takes).sort((a, b) => Number(a.leaving) - Number(b.leaving)),
  );
  protected readonly part = signal(!this.isRestore || this.data.items !== undefined);
  protected readonly chosen = signal<ReadonlySet<string>>(new Set(this.data.items));
  protected readonly wished = signal<Where | null>(null);
  /** What is restored goes back by itself; what is given goes to somebody. */
  protected readonly where = computed((): Where => {
    const wished = this.wished();
    if (wished !== null) return wished;
    return this.isRestore && this.contents()?.back ? 'back' : this.isRestore ? 'there' : 'file';
  });
  protected readonly wayWished = signal<WayIn | null>(null);
  protected readonly way = computed((): WayIn => this.wayWished() ?? (this.part() ? 'into' : 'in place of'));
  protected readonly destination = linkedSignal<number | null>(() => this.takers()[0]?.id ?? null);
  protected readonly target = linkedSignal<string>(() => this.contents()?.targets[0]?.id ?? '');
  protected readonly ready = computed(() => {
    if (!this.contents() || (this.part() && this.chosen().size === 0)) return false;
    return this.where() !== 'there' || this.destination() !== null;
  });
  protected readonly button = computed(() => {
    const items = this.chosen().size === 0 ? 'chosen things' : count(this.chosen().size, 'item');
    const what = this.part() ? items : 'all of it';
    if (this.where() === 'file') return `Make a file of ${items}`;
    const where = this.where() === 'back' ? this.contents()?.back?.instance : this.nameOf(this.destination());
    return `${this.isRestore ? 'Restore' : 'Give'} ${what} at ${where ?? '…'}`;
  });
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  /** The same press sent twice does one errand. */
  private readonly key = crypto.randomUUID();

  protected go(): void {
    this.busy.set(true);
    this.error.set('');
    const items = this.part() ? [...this.chosen()] : null;
    if (this.where() === 'file' && items) this.makeFile(items);
    else this.begin(items);
  }

  private makeFile(items: string[]): void {
    this.api.giveFile(this.copy.id, { items, target: this.target(), key: this.key }).subscribe({
      next: () => this.ref.close({ moveId: null }),
      error: (error: unknown) => this.fail(error),
    });
  }

  private begin(items: string[] | null): void {
    const back = this.where() === 'back' ? (this.contents()?.back ?? null) : null;
    const destinationId = back?.instanceId ?? this.destination();
    if (destinationId === null) return;
    const into = back ? { courseId: back.courseId, way: this.way() } : null;
    const errand: NewErrand = { act: this.data.act, items, destinationId, into, key: this.key };
    this.api.startErrand(this.copy.id, errand).subscribe({
      next: ({ id }) => this.ref.close({ moveId: id }),
      error: (error: unknown) => this.fail(error),
    });
  }

  private nameOf(id: number | null): string | null {
    return this.takers().find((i) => i.id === id)?.name ?? null;
  }

  private fail(error: unknown): void {
    this.busy.set(false);
    this.error.set(wordsOf(error));
  }
}
