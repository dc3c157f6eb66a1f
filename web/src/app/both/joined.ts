import { ChangeDetectionStrategy, Component, computed, input, model, signal } from '@angular/core';
import type { CheckedLine, Joint, Line } from '@treenail/core';
import { JointView } from '../joint/joint';
import { Splitter } from '../parts/splitter';
import { Both, type LineWords, type Side } from './both';
import { LineKeys } from './line-keys';

/** A joint, and under it both versions of the line that is chosen. */
@Component({
  selector: 'tn-joined',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Both, JointView, LineKeys, Splitter],
  template: `
    <tn-joint
      [joint]="joint()"
      [sides]="sides()"
      [leftName]="leftName()"
      [rightName]="rightName()"
      [pale]="pale()"
      [style.flex-grow]="1 - share()"
      [(chosen)]="chosen"
    />
    <tn-splitter name="both" [(share)]="share" />
    <tn-both
      [tnLineKeys]="lines()"
      [(at)]="chosen"
      [line]="line()"
      [titles]="titles()"
      [says]="says()"
      [left]="left()"
      [right]="right()"
      [style.flex-grow]="share()"
    />
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      flex: 1;
      gap: 10px;
      min-height: 250px;
    }
    tn-joint,
    tn-both {
      flex: 1 1 0;
      min-height: 120px;
    }
  `,
})
export class Joined {
  readonly joint = input.required<Joint>();
  readonly lines = input.required<readonly (Line | CheckedLine)[]>();
  readonly leftName = input.required<string>();
  readonly rightName = input.required<string>();
  readonly says = input.required<LineWords>();
  readonly left = input.required<Side | null>();
  readonly right = input.required<Side | null>();
  readonly sides = input<readonly [string, string] | null>(null);
  readonly pale = input(false);
  readonly titles = input<ReadonlyMap<string, string>>(new Map());
  /** Number of the chosen line. */
  readonly chosen = model.required<number | null>();
  protected readonly share = signal(0.5);
  protected readonly line = computed(() => this.lines()[this.chosen() ?? -1] ?? null);
}
