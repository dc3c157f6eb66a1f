import { ChangeDetectionStrategy, Component, computed, input, linkedSignal, signal } from '@angular/core';
import { count, filterJoint, jointOfCheck, type Course } from '@treenail/core';
import { JointView } from '../joint/joint';
import { LineDetail, type LineWords } from '../joint/line-detail';
import type { Compared } from './messages';

/** Two packages side by side: what both have, what differs, and what only one of them has. */
@Component({
  selector: 'tn-side-by-side',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [JointView, LineDetail],
  template: `
    <p class="said">
      <span>
        <b>{{ count(sums().whole, 'thing is', 'things are') }} the same</b>, {{ sums().differ }} differ,
        {{ sums().left }} only at the left, {{ sums().right }} only at the right
      </span>
      <button type="button" class="chip" [attr.aria-pressed]="!differing()" (click)="differing.set(false)">all</button>
      <button type="button" class="chip" [attr.aria-pressed]="differing()" (click)="differing.set(true)">
        what differs
      </button>
    </p>
    <tn-joint
      [joint]="joint()"
      [sides]="['At the left', 'At the right']"
      [leftName]="leftName()"
      [rightName]="rightName()"
      [(chosen)]="chosen"
    />
    <tn-line-detail [line]="line()" [says]="says" />
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
    tn-joint {
      flex: 1;
      min-height: 240px;
    }
  `,
})
export class SideBySide {
  readonly course = input.required<Course>();
  readonly compared = input.required<Compared>();
  readonly leftName = input.required<string>();
  readonly rightName = input.required<string>();
  protected readonly count = count;
  protected readonly says: LineWords = {
    absent: 'Nothing of this name is in the left one.',
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
  protected readonly line = computed(() => this.compared().comparison.lines[this.chosen() ?? -1] ?? null);
}
