import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import {
  count,
  landing,
  leftBehindBy,
  type Course,
  type Landing,
  type LandingSide,
  type Line,
  type Meeting,
  type Outcome,
} from '@treenail/core';
import type { Into } from '@treenail/server/contract';
import { Peg } from '../../parts/peg';

/** How each fate is marked, and what is said of it. */
const FATES: Readonly<Record<Landing, { peg: Outcome; words: string }>> = {
  stays: { peg: 'whole', words: 'stays as it is' },
  new: { peg: 'extra', words: 'comes' },
  overwritten: { peg: 'reworked', words: 'is overwritten by what comes' },
  replaced: { peg: 'reworked', words: 'takes the place of theirs' },
  'not sent': { peg: 'whole', words: 'stays, ours is not sent' },
  double: { peg: 'extra', words: 'comes beside another of its name' },
  gone: { peg: 'left behind', words: 'is gone' },
  'left behind': { peg: 'left behind', words: 'is left behind' },
};

/**
 * Three outlines face one another: what is there now, what comes, what is there afterwards. A line leads from each thing to where it
 * is then, and ends in an open ring where it is nowhere.
 */
@Component({
  selector: 'tn-three-outlines',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport, Peg],
  template: `
    <div class="heads" aria-hidden="true">
      <b
        >There now <span class="quiet">{{ counted('there') }}</span></b
      >
      <b
        >What comes <span class="quiet">{{ counted('comes') }}</span></b
      >
      <b
        >There afterwards <span class="quiet">{{ counted('after') }}</span></b
      >
    </div>
    <cdk-virtual-scroll-viewport itemSize="28" [style.height.px]="height()" tabindex="0" aria-label="Three outlines">
      <ul>
        <li *cdkVirtualFor="let line of lines()" [class]="line.becomes.replace(' ', '-')">
          <span class="side" [class.from]="line.there">{{ titleOf(line.there) }}</span>
          <span class="side" [class.from]="line.comes" [class.past]="line.there && line.after">{{
            titleOf(line.comes)
          }}</span>
          <span class="side end"
            ><tn-peg [outcome]="fates[line.becomes].peg" /> {{ titleOf(line.after) }}
            @if (line.becomes !== 'stays' && line.becomes !== 'new') {
              <em>{{ fates[line.becomes].words }}</em>
            }
          </span>
        </li>
      </ul>
    </cdk-virtual-scroll-viewport>
  `,
  styles: `
    :host {
      display: grid;
      border: 1px solid var(--line);
      border-radius: 4px;
      background: var(--surface);
    }
    .heads,
    li {
      display: grid;
      grid-template-columns: 1fr 1fr 1.3fr;
      gap: 0;
      padding: 0 12px;
    }
    .heads {
      padding: 6px 12px;
      border-bottom: 1px solid var(--line);
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      height: 28px;
      align-items: center;
    }
    .side {
      display: flex;
      align-items: center;
      gap: 6px;
      min-width: 0;
      height: 28px;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    /* The line that leads on to the next outline. */
    .from::after,
    .past::after {
      content: '';
      flex: 1 1 12px;
      min-width: 12px;
      height: 0;
      border-top: 1.5px solid var(--spruce);
      margin-right: 6px;
    }
    .new .from::after,
    .double .from::after {
      border-color: var(--slate);
    }
    .overwritten .from::after,
    .overwritten .past::after,
    .replaced .from::after,
    .replaced .past::after {
      border-color: var(--ochre);
    }
    .not-sent .past::after {
      border-top: 1.5px solid var(--spruce);
    }
    .not-sent .side:nth-child(2) {
      color: var(--quiet);
    }
    .gone .from::after {
      border-top: 1.5px dashed var(--lead);
    }
    .gone .side:nth-child(2)::after {
      content: '';
      flex: 1;
      border-top: 1.5px dashed var(--lead);
      margin-right: 6px;
    }
    .left-behind .from::after {
      border-top: 1.5px dashed var(--lead);
    }
    .gone .side:first-child::after {
      margin-right: 0;
    }
    .gone .side:first-child,
    .left-behind .from {
      color: var(--lead);
    }
    em {
      font-style: normal;
      color: var(--quiet);
    }
  `,
})
export class ThreeOutlines {
  readonly into = input.required<Pick<Into, 'course' | 'way' | 'identifiers'>>();
  readonly coming = input.required<Course>();
  /** What was decided of what meets its like, and what of ours is called otherwise. */
  readonly meets = input.required<readonly Meeting[]>();
  readonly titles = input.required<Readonly<Record<string, string>>>();
  /** What the fit foretells of what comes. */
  readonly forecast = input.required<readonly Line[]>();
  protected readonly fates = FATES;
  private readonly foretold = computed(() =>
    landing(this.into().course, this.coming(), {
      ...this.into(),
      leftBehind: leftBehindBy(this.forecast()),
      met: this.meets(),
      titles: this.titles(),
    }),
  );
  protected readonly lines = computed(() => this.foretold().lines);
  protected readonly height = computed(() => Math.min(224, Math.max(1, this.lines().length) * 28));

  /** How many things are in one of the outlines, folders and headings among them. */
  protected counted(side: 'there' | 'comes' | 'after'): string {
    return count(this.lines().filter((line) => line[side] !== null).length, 'line');
  }

  protected titleOf(side: LandingSide | null): string {
    return side === null ? '' : `${'\u2003'.repeat(side.depth)}${side.title}`;
  }
}
