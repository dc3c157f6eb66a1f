import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import { KeepingService, type Keeping } from '../data/keeping';
import { readableSize } from '@treenail/core';
import { List, ListCell, type ListColumn } from '../parts/list';
import type { Dropped } from './dropped';
import { MatButton } from '@angular/material/button';

/** Many files on the Bench: what each is, what is wrong with it, whether it is kept. */
@Component({
  selector: 'tn-shelf',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [List, ListCell, MatButton, RouterLink],
  template: `
    <tn-list
      hint="Filter by file, course, format"
      [noun]="['file', 'files']"
      [rows]="dropped()"
      [columns]="columns"
      [key]="keyOf"
      [named]="nameOf"
      (opened)="open($event)"
    >
      <ng-template tnCell="file" [of]="dropped()" let-one>
        @if (one.glance) {
          <button matButton type="button" class="line name" (click)="chosen.emit(one)">{{ one.source.name }}</button>
        } @else {
          {{ one.source.name }}
        }
      </ng-template>
      <ng-template tnCell="course" [of]="dropped()" let-one>
        @if (one.refusal; as refusal) {
          <span class="error">{{ refusal.message }}</span> {{ refusal.action }}
        } @else if (one.glance; as glance) {
          {{ glance.title }}
        } @else {
          <span class="quiet">being read</span>
        }
      </ng-template>
      <ng-template tnCell="kept" [of]="dropped()" let-one>
        @if (keeping(one); as kept) {
          @switch (kept.state) {
            @case ('kept') {
              <a routerLink="/strongroom">kept</a>
            }
            @case ('refused') {
              <span class="error">{{ kept.problem.message }}</span>
            }
            @default {
              {{ words(kept) }}
            }
          }
        }
      </ng-template>
    </tn-list>
  `,
  styles: `
    :host {
      display: flex;
      flex: 1;
      min-height: 0;
      min-width: 0;
    }
    .name {
      width: 100%;
    }
  `,
})
export class Shelf {
  private readonly service = inject(KeepingService);
  readonly dropped = input.required<readonly Dropped[]>();
  readonly chosen = output<Dropped>();
  protected readonly columns: readonly ListColumn<Dropped>[] = [
    { id: 'file', name: 'File', value: (d) => d.source.name },
    {
      id: 'size',
      name: 'Size',
      width: 84,
      is: 'number',
      downFirst: true,
      value: (d) => d.source.size,
      words: (d) => readableSize(d.source.size),
      foot: (rows) => readableSize(rows.reduce((sum, d) => sum + d.source.size, 0)),
    },
    {
      id: 'course',
      name: 'Course',
      value: (d) => d.glance?.title ?? null,
      words: ({ glance, refusal }) => (refusal ? `${refusal.message} ${refusal.action}` : (glance?.title ?? '')),
    },
    { id: 'format', name: 'Format', width: 170, value: (d) => d.glance?.label ?? null },
    { id: 'items', name: 'Items', width: 76, is: 'number', value: (d) => d.glance?.items ?? null },
    {
      id: 'notes',
      name: 'Notes',
      width: 76,
      is: 'number',
      value: (d) => d.glance?.notes ?? null,
      words: (d) => String(d.glance?.notes || ''),
    },
    { id: 'kept', name: 'Kept', width: 170, value: (d) => this.keeping(d)?.state ?? null },
  ];
  protected readonly words = keepingWords;
  protected readonly keyOf = (d: Dropped) => d.key;
  protected readonly nameOf = (d: Dropped) => d.source.name;

  /** What could be read. */
  protected open(one: Dropped): void {
    if (one.glance) this.chosen.emit(one);
  }

  protected keeping(one: Dropped): Keeping | null {
    return this.service.all().get(one.key) ?? null;
  }
}

export function keepingWords(keeping: Keeping): string {
  switch (keeping.state) {
    case 'sending':
      return `sending, ${keeping.total === 0 ? 0 : Math.floor((100 * keeping.done) / keeping.total)} %`;
    case 'reading':
      return 'arrived, being read';
    case 'kept':
      return 'kept in the strongroom';
    case 'refused':
      return keeping.problem.message;
  }
}
