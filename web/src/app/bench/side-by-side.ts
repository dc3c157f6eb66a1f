import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { count, filterJoint, jointOfCheck, type Course } from '@treenail/core';
import type { LineWords, Side } from '../both/both';
import { Joined } from '../both/joined';
import { BenchService } from './bench.service';
import type { Compared } from './messages';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';

/** Two packages side by side: what both have, what differs, and what only one of them has. */
@Component({
  selector: 'tn-side-by-side',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Joined, MatButtonToggle, MatButtonToggleGroup],
  template: `
    <p class="said">
      <span>
        <b>{{ count(sums().whole, 'thing is', 'things are') }} the same</b>, {{ sums().differ }} differ,
        {{ sums().left }} only at the left, {{ sums().right }} only at the right
      </span>
      <mat-button-toggle-group
        hideSingleSelectionIndicator
        aria-label="Which lines"
        [value]="differing()"
        (change)="differing.set($event.value)"
        ><mat-button-toggle [value]="false">all</mat-button-toggle>
        <mat-button-toggle [value]="true"> what differs </mat-button-toggle></mat-button-toggle-group
      >
    </p>
    <tn-joined
      [joint]="joint()"
      [lines]="compared().comparison.lines"
      [sides]="says.names"
      [leftName]="leftName()"
      [rightName]="rightName()"
      [says]="says"
      [left]="first()"
      [right]="second()"
      [(chosen)]="chosen"
    />
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 10px;
      min-height: 420px;
    }
    .said {
      display: flex;
      align-items: center;
      gap: 8px;
      margin: 0;
    }
  `,
})
export class SideBySide {
  readonly course = input.required<Course>();
  readonly compared = input.required<Compared>();
  readonly leftName = input.required<string>();
  readonly rightName = input.required<string>();
  private readonly service = inject(BenchService);
  protected readonly first = computed((): Side => ({
    course: this.course(),
    preview: (item, learner) => this.service.previewOf('open', item, learner),
  }));
  protected readonly second = computed((): Side => ({
    course: this.compared().other,
    preview: (item, learner) => this.service.previewOf('beside', item, learner),
  }));
  protected readonly count = count;
  protected readonly says: LineWords = {
    absent: 'Nothing of this name is in the left one.',
    names: ['At the left', 'At the right'],
    caveat: '',
    outcomes: {
      whole: 'the same',
      reworked: 'differs',
      'left behind': 'only at the left',
      extra: 'only at the right',
      unsure: 'can not be told',
    },
  };
  protected readonly differing = signal(true);
  protected readonly sums = computed(() => {
    const { totals } = this.compared().comparison;
    return {
      whole: totals.whole ?? 0,
      differ: (totals.reworked ?? 0) + (totals.unsure ?? 0),
      left: totals['left behind'] ?? 0,
      right: totals.extra ?? 0,
    };
  });
  private readonly whole = computed(() => {
    const { other, comparison } = this.compared();
    return jointOfCheck(this.course(), other, comparison.lines);
  });
  protected readonly joint = computed(() =>
    this.differing() ? filterJoint(this.whole(), (p) => p.outcome !== 'whole') : this.whole(),
  );
  protected readonly chosen = linkedSignal<number | null>(() => {
    const at = this.compared().comparison.lines.findIndex((l) => l.outcome !== 'whole');
    return at < 0 ? null : at;
  });
}
