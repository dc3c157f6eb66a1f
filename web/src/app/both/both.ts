import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatIconButton } from '@angular/material/button';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatIcon } from '@angular/material/icon';
import {
  KIND_LABELS,
  SETTING_LABELS,
  count,
  itemOfKey,
  markDifferences,
  namedSetting,
  openSettingWords,
  type CheckedLine,
  type Course,
  type Line,
  type Outcome,
  type Preview,
  type SettingName,
  type SettingValue,
} from '@treenail/core';
import { catchError, combineLatest, map, of, type Observable } from 'rxjs';
import { wordsOf } from '../data/api';
import { Peg } from '../parts/peg';
import { filesOfItem } from './files';
import { Version, type Shown } from './version';

/** One side of a line: the course it stands in, and how its items are shown. */
export interface Side {
  readonly course: Course;
  preview(item: string, learner: boolean): Observable<Preview>;
}

export interface LineWords {
  /** Said where the left side has nothing. */
  readonly absent: string;
  readonly outcomes: Partial<Record<Outcome, string>>;
  /** What the two versions are. */
  readonly names: readonly [left: string, right: string];
  /** What the right version is not, where its words are told to be the same; '' where it is what it seems. */
  readonly caveat: string;
}

/** As it was sent, and as it stands at the destination. */
export const AS_CHECKED: LineWords = {
  absent: 'Nothing of this name was sent.',
  outcomes: {},
  names: ['As it was', 'As it is'],
  caveat: '',
};

/** Before anything moved there is only the working copy: what the destination makes of it is foretold, not seen. */
export const AS_FORETOLD: LineWords = {
  ...AS_CHECKED,
  names: ['As it was', 'As it goes'],
  caveat: ' in the working copy, before it is carried',
};

const NOTHING: Shown = { preview: null, why: '' };

/**
 * Both versions of one line side by side: as it was and as it is, its text rendered with what differs marked, its settings
 * and its files; as its author sees it, or as a learner meets it.
 */
@Component({
  selector: 'tn-both',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButtonToggle, MatButtonToggleGroup, MatIcon, MatIconButton, Peg, Version],
  templateUrl: './both.html',
  styleUrl: './both.scss',
  host: { '[class.full]': 'full()', '(document:keydown.escape)': 'full.set(false)' },
})
export class Both {
  readonly line = input.required<Line | CheckedLine | null>();
  readonly left = input<Side | null>(null);
  readonly right = input<Side | null>(null);
  readonly says = input<LineWords>(AS_CHECKED);
  /** Titles of the items that conditions name, by their identifiers. */
  readonly titles = input<ReadonlyMap<string, string>>(new Map());
  protected readonly kinds = KIND_LABELS;
  protected readonly labels = SETTING_LABELS;
  protected readonly full = signal(false);
  protected readonly learner = signal(false);

  private readonly ids = computed(() => {
    const line = this.line();
    if (!line) return { left: null, right: null };
    // A forecast knows no identifiers of what will be there.
    const right = 'predicted' in line ? line.arrived : line.outcome === 'left behind' ? null : line.source;
    return { left: line.source && itemOfKey(line.source), right: right && itemOfKey(right) };
  });
  private readonly shown = rxResource({
    params: () => {
      const { left, right } = this.ids();
      return { left, right, sides: [this.left(), this.right()] as const, learner: this.learner() };
    },
    stream: ({ params: { left, right, sides, learner } }) =>
      combineLatest([previewed(sides[0], left, learner), previewed(sides[1], right, learner)]).pipe(map(marked)),
  });
  protected readonly versions = computed(() => (this.shown.hasValue() ? this.shown.value() : null));
  protected readonly files = computed(() => {
    const { left, right } = this.ids();
    return { left: filesOfItem(this.left()?.course, left), right: filesOfItem(this.right()?.course, right) };
  });
  /** What the marks come to, in words. */
  protected readonly verdict = computed(() => {
    if (this.shown.isLoading()) return 'being read';
    const changes = this.versions()?.changes;
    if (changes === undefined) return '';
    if (changes === null) return 'too long for what differs to be marked';
    const words = changes === 0 ? 'the same words' : `${count(changes, 'place')} where the words differ`;
    return words + this.says().caveat;
  });

  protected outcomeWords(line: Line | CheckedLine): string {
    const words = this.says().outcomes[line.outcome] ?? line.outcome;
    return line.as !== null && line.as !== line.kind ? `${words}, as ${KIND_LABELS[line.as]}` : words;
  }

  protected words(name: SettingName, value: SettingValue | null): string {
    return value === null ? 'not set' : openSettingWords(name, namedSetting(name, value, this.titles()));
  }

  protected predicted(line: Line | CheckedLine): string | null {
    return 'predicted' in line && line.predicted !== null && line.predicted !== line.outcome ? line.predicted : null;
  }
}

/** What went wrong with a preview is said in its place. */
function previewed(side: Side | null, item: string | null, learner: boolean): Observable<Shown> {
  // A folder has no text of its own.
  if (!side || item === null || !side.course.items.some((i) => i.id === item)) return of(NOTHING);
  return side.preview(item, learner).pipe(
    map((preview): Shown => ({ preview, why: '' })),
    catchError((error: unknown) => of<Shown>({ preview: null, why: wordsOf(error) })),
  );
}

function marked([left, right]: readonly [Shown, Shown]): { left: Shown; right: Shown; changes?: number | null } {
  if (left.preview?.form !== 'page' || right.preview?.form !== 'page') return { left, right };
  const found = markDifferences(left.preview.html, right.preview.html);
  const as = (html: string): Shown => ({ preview: { form: 'page', html }, why: '' });
  return { left: as(found.left), right: as(found.right), changes: found.changes };
}
