import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { MatChipListbox, MatChipOption } from '@angular/material/chips';

/** Items that have something in common. */
export interface Group {
  readonly label: string;
  readonly items: readonly string[];
}

/** How many of these go: all of none is none. */
export function stateOf(goes: number, all: number): 'all' | 'some' | 'none' {
  return all === 0 || goes === 0 ? 'none' : goes === all ? 'all' : 'some';
}

/** Groups of items, each with how many of it go; pressed, all of it goes or none. */
@Component({
  selector: 'tn-goes-by',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatChipListbox, MatChipOption],
  template: `
    <mat-chip-listbox multiple [aria-label]="label()" [disabled]="!open()">
      @for (group of told(); track group.label) {
        <mat-chip-option
          [selected]="group.state === 'all'"
          (selectionChange)="$event.isUserInput && pressed.emit({ items: group.items, on: group.state !== 'all' })"
        >
          {{ group.label }} <span>{{ group.goes }}/{{ group.items.length }}</span>
        </mat-chip-option>
      }
    </mat-chip-listbox>
  `,
})
export class GoesBy {
  readonly label = input.required<string>();
  readonly groups = input.required<readonly Group[]>();
  /** Identifiers of what goes. */
  readonly ticked = input.required<ReadonlySet<string>>();
  readonly open = input.required<boolean>();
  readonly pressed = output<{ items: readonly string[]; on: boolean }>();
  protected readonly told = computed(() =>
    this.groups().map((group) => {
      const goes = group.items.filter((id) => this.ticked().has(id)).length;
      return { ...group, goes, state: stateOf(goes, group.items.length) };
    }),
  );
}
