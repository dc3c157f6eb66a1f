import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  afterNextRender,
  computed,
  input,
  model,
  signal,
  viewChild,
} from '@angular/core';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { KIND_LABELS, count, selectionOf, someOf, type Course } from '@treenail/core';
import { stateOf } from '../tidy/goes-by';
import { rowsOf, type Row } from '../tidy/rows';

/** Ticks things of a course, by item or folder; what these need is told. */
@Component({
  selector: 'tn-choose-items',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    MatCheckbox,
    MatFormFieldModule,
    MatInput,
  ],
  template: `
    <mat-form-field appearance="outline" subscriptSizing="dynamic">
      <mat-label>Find by title or kind</mat-label>
      <input matInput [value]="words()" (input)="words.set($any($event.target).value)" />
    </mat-form-field>
    <cdk-virtual-scroll-viewport [itemSize]="28" tabindex="0" role="region" aria-label="What is in the copy">
      <div
        *cdkVirtualFor="let row of rows(); trackBy: keyOf; templateCacheSize: 0"
        class="line"
        [style.padding-left.px]="words() ? 6 : 6 + row.depth * 18"
      >
        <mat-checkbox
          [checked]="state(row) === 'all'"
          [indeterminate]="state(row) === 'some'"
          [disabled]="row.items.length === 0"
          (change)="tick(row.items, state(row) !== 'all')"
        >
          <span [class.folder]="row.subject.kind === 'folder'">{{ row.subject.title }}</span>
          <span class="quiet">{{
            row.subject.kind === 'folder' ? count(row.items.length, 'item') : labels[row.subject.kind]
          }}</span>
        </mat-checkbox>
      </div>
    </cdk-virtual-scroll-viewport>
    <p class="quiet" role="status">{{ told() }}</p>
  `,
  styles: `
    :host {
      display: grid;
      gap: 6px;
    }
    mat-form-field {
      margin-top: 6px;
    }
    cdk-virtual-scroll-viewport {
      height: 176px;
      border: 1px solid var(--line);
      border-radius: 4px;
    }
    .line {
      display: flex;
      align-items: center;
      height: 28px;
      white-space: nowrap;
    }
    .line .quiet {
      margin-left: 8px;
    }
    .folder {
      font-weight: 650;
    }
    p {
      margin: 0;
    }
  `,
})
export class ChooseItems {
  readonly course = input.required<Course>();
  readonly chosen = model.required<ReadonlySet<string>>();
  private readonly viewport = viewChild(CdkVirtualScrollViewport);
  protected readonly words = signal('');
  protected readonly labels = KIND_LABELS;
  protected readonly count = count;
  private readonly all = computed(() => rowsOf(this.course()));
  protected readonly rows = computed(() => {
    const asked = this.words().toLowerCase().split(/\s+/).filter(Boolean);
    if (asked.length === 0) return this.all();
    return this.all().filter(({ subject, items }) => {
      const said = `${subject.title} ${KIND_LABELS[subject.kind]}`.toLowerCase();
      return items.length > 0 && asked.every((word) => said.includes(word));
    });
  });
  protected readonly told = computed(() => {
    const [course, chosen] = [this.course(), this.chosen()];
    if (chosen.size === 0) return 'Nothing is chosen yet.';
    const out = new Set(course.items.flatMap((i) => (chosen.has(i.id) ? [] : [i.id])));
    const titles = new Map(course.items.map((i) => [i.id, i.title]));
    const along = selectionOf(course, out, []).pulledIn.map(({ item }) => titles.get(item) ?? item);
    const needed =
      along.length === 0
        ? ''
        : `, and ${count(along.length, 'more item', 'more items')} that they need: ${someOf(along)}`;
    return `${count(chosen.size, 'item')} of ${course.items.length}${needed}.`;
  });

  constructor() {
    // What is ticked from the first is in sight.
    afterNextRender(() => {
      const at = this.all().findIndex(({ subject }) => subject.item && this.chosen().has(subject.item.id));
      if (at > 3) this.viewport()?.scrollToIndex(at - 2);
    });
  }

  protected keyOf(_index: number, row: Row): string {
    return row.subject.key;
  }

  protected state({ items }: Row): 'all' | 'some' | 'none' {
    return stateOf(items.filter((id) => this.chosen().has(id)).length, items.length);
  }

  protected tick(items: readonly string[], on: boolean): void {
    this.chosen.update((before) => {
      const after = new Set(before);
      for (const id of items)
        if (on) after.add(id);
        else after.delete(id);
      return after;
    });
  }
}
