import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  ElementRef,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { LEAVE, WEIGHTS, WEIGHT_LABELS, count, decided, type Course, type Finding } from '@treenail/core';
import type { ChosenToGo, NewDecision, TidyAnswer } from '@treenail/server/contract';
import type { Observable } from 'rxjs';
import { wordsOf } from '../data/api';
import { inAddress, type ListColumn } from '../parts/list';
import { give, sheetOf, type SheetFormat } from '../parts/list/sheet';
import { Slash } from '../parts/list/slash';
import { Undo } from '../parts/undo';
import { FindingDetail } from './finding-detail';
import { RuleDialog } from './rule-dialog';
import type { TidySource } from './source';
import { WhatGoes } from './what-goes';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatButton } from '@angular/material/button';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatFormField } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';

type State = 'open' | 'mended' | 'left' | 'failed';
interface Row {
  finding: Finding;
  state: State;
}

/** Findings by what they mean, each with the ways to deal with it; and the choice of what goes at all. */
@Component({
  selector: 'tn-tidy-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    FindingDetail,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatCheckbox,
    MatFormField,
    MatInput,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    WhatGoes,
  ],
  templateUrl: './tidy-view.html',
  styleUrl: './tidy-view.scss',
  host: { '(document:keydown)': 'key($event)' },
})
export class TidyView {
  private readonly dialog = inject(MatDialog);
  private readonly back = inject(Undo);
  private readonly screen = inject(DestroyRef);
  readonly tidy = input.required<TidyAnswer>();
  readonly course = input.required<Course>();
  readonly source = input.required<TidySource>();
  /** Commands of a router link to an item, where items can be shown. */
  readonly linkTo = input<(item: string) => readonly unknown[] | null>(() => null);
  readonly changed = output<TidyAnswer>();
  protected readonly weights = WEIGHTS;
  protected readonly weightLabels = WEIGHT_LABELS;
  protected readonly count = count;
  protected readonly view = signal<'findings' | 'goes'>('findings');
  /** A kind of findings; '' is any. */
  protected readonly only = inAddress('kind');
  private readonly decidedToo = inAddress('decided');
  protected readonly openOnly = computed(() => this.decidedToo() === '');
  protected readonly words = inAddress('find');
  private readonly search = viewChild<ElementRef<HTMLInputElement>>('search');
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  private readonly viewport = viewChild(CdkVirtualScrollViewport);

  private readonly rows = computed((): Row[] => {
    const { findings, decisions, failed } = this.tidy();
    const chosen = decided(findings, decisions);
    const refused = new Set(failed.map((f) => f.key));
    return findings.map((finding) => {
      const decision = chosen.get(finding.key);
      const state = !decision
        ? 'open'
        : decision.mend === LEAVE
          ? 'left'
          : refused.has(finding.key)
            ? 'failed'
            : 'mended';
      return { finding, state };
    });
  });
  private readonly columns: readonly ListColumn<Row>[] = [
    { id: 'weight', name: 'Weight', value: ({ finding }) => WEIGHT_LABELS[finding.weight] },
    { id: 'kind', name: 'Kind', value: ({ finding }) => this.labelOf(finding.kind) },
    { id: 'title', name: 'Where', value: ({ finding }) => finding.title },
    { id: 'evidence', name: 'What was found', value: ({ finding }) => finding.evidence },
    { id: 'state', name: 'State', value: ({ state }) => (state === 'failed' ? 'not done' : state) },
    { id: 'mend', name: 'Decided', value: ({ finding }) => this.decisions().get(finding.key)?.mend ?? null },
    { id: 'reason', name: 'Reason', value: ({ finding }) => this.decisions().get(finding.key)?.reason || null },
  ];
  private readonly decisions = computed(() => decided(this.tidy().findings, this.tidy().decisions));
  protected readonly open = computed(() => this.rows().filter((r) => r.state === 'open').length);

  /** Kinds under their weight, with how many are open of how many. */
  protected readonly groups = computed(() => {
    const counts = new Map<string, { all: number; open: number; weight: Finding['weight'] }>();
    for (const { finding, state } of this.rows()) {
      const at = counts.get(finding.kind) ?? { all: 0, open: 0, weight: finding.weight };
      at.all++;
      if (state === 'open' || state === 'failed') at.open++;
      // A kind stands under the gravest weight that any of it has.
      if (WEIGHTS.indexOf(finding.weight) < WEIGHTS.indexOf(at.weight)) at.weight = finding.weight;
      counts.set(finding.kind, at);
    }
    return WEIGHTS.map((weight) => ({
      weight,
      kinds: this.tidy()
        .kinds.filter((k) => counts.get(k.id)?.weight === weight)
        .map((k) => ({ ...k, ...(counts.get(k.id) ?? { all: 0, open: 0 }) })),
    })).filter((g) => g.kinds.length > 0);
  });

  protected readonly shown = computed(() => {
    const [only, openOnly, words] = [this.only(), this.openOnly(), this.words().toLowerCase()];
    return this.rows().filter(
      ({ finding, state }) =>
        (only === '' || finding.kind === only) &&
        (!openOnly || state === 'open' || state === 'failed' || finding.key === this.kept()) &&
        (words === '' || `${finding.title} ${finding.evidence}`.toLowerCase().includes(words)),
    );
  });
  /** What was just decided stays in view until something else is chosen. */
  private readonly kept = signal<string | null>(null);
  protected readonly chosenKey = linkedSignal<readonly Row[], string | null>({
    source: this.shown,
    computation: (rows, previous) => {
      const before = previous?.value ?? null;
      return before !== null && rows.some((r) => r.finding.key === before) ? before : (rows[0]?.finding.key ?? null);
    },
  });
  protected readonly chosen = computed(() => this.rows().find((r) => r.finding.key === this.chosenKey()) ?? null);
  protected readonly kindOfChosen = computed(
    () => this.tidy().kinds.find((k) => k.id === this.chosen()?.finding.kind) ?? null,
  );
  protected readonly decision = computed(() => this.decisions().get(this.chosenKey() ?? '') ?? null);
  protected readonly failure = computed(() => this.tidy().failed.find((f) => f.key === this.chosenKey())?.why ?? null);
  protected readonly alike = computed(() => {
    const at = this.chosen()?.finding;
    return this.rows().filter((r) => r.finding.kind === at?.kind && r.finding.groupKey === at.groupKey).length;
  });
  /** Findings of the kind that is chosen: what “all of this kind” means. */
  protected readonly likewise = computed((): Finding[] => {
    const kind = this.chosen()?.finding.kind;
    return this.rows().flatMap((r) => (r.finding.kind === kind ? r.finding : []));
  });
  protected readonly ofKind = computed(() => {
    const kind = this.chosen()?.finding.kind;
    return this.rows().filter((r) => r.finding.kind === kind).length;
  });
  protected readonly itemLink = computed(() => {
    const item = this.chosen()?.finding.item;
    return item == null ? null : this.linkTo()(item);
  });

  constructor() {
    inject(Slash).take();
    effect(() => {
      const key = this.chosenKey();
      if (key !== untracked(this.kept)) this.kept.set(null);
    });
  }

  /** A row stays the same element while the list around it changes: a click meant for it lands on it. */
  protected keyOf(_index: number, row: Row): string {
    return row.finding.key;
  }

  private labelOf(kind: string): string {
    return this.tidy().kinds.find((k) => k.id === kind)?.label ?? kind;
  }

  protected choose(key: string): void {
    this.chosenKey.set(key);
  }

  protected toggle(kind: string): void {
    this.only.update((k) => (k === kind ? '' : kind));
  }

  protected showDecided(shown: boolean): void {
    this.decidedToo.set(shown ? 'too' : '');
  }

  /** What is shown, as a file that spreadsheets open. */
  protected sheet(format: SheetFormat): void {
    this.error.set('');
    sheetOf(format, 'findings', this.columns, this.shown()).then(
      (blob) => give(blob, `findings.${format}`),
      (error: unknown) => this.error.set(`The sheet could not be made. ${wordsOf(error)}`),
    );
  }

  protected decide(decision: NewDecision): void {
    this.kept.set(this.chosenKey());
    const before = new Set(this.tidy().decisions.map((d) => d.id));
    this.during(this.source().decide(decision), (answer) => this.offerBack(answer, before));
  }

  /** Of what decided many findings at once. */
  private offerBack(answer: TidyAnswer, before: ReadonlySet<string>): void {
    const [fresh] = answer.decisions.filter((d) => !before.has(d.id));
    const settled = [...decided(answer.findings, answer.decisions).values()].filter((d) => d.id === fresh?.id).length;
    if (fresh && settled > 1)
      this.back.offer(this.screen, `${count(settled, 'finding')} decided`, () => this.undo(fresh.id));
  }

  protected undo(decision: string): void {
    this.during(this.source().undo(decision));
  }

  protected chooseToGo(goes: ChosenToGo): void {
    this.during(this.source().choose(goes));
  }

  /** Keeps what was decided under a name, and offers it to other courses. */
  protected keepRule(decision: NewDecision): void {
    const rules = this.source().rules;
    if (!rules) return;
    this.dialog.open(RuleDialog, {
      data: { decision, rules, kind: this.kindOfChosen()?.label ?? '' },
      width: '560px',
    });
    this.decide(decision);
  }

  private during(work: Observable<TidyAnswer>, then: (answer: TidyAnswer) => void = () => undefined): void {
    this.busy.set(true);
    this.error.set('');
    work.subscribe({
      next: (tidy) => {
        this.busy.set(false);
        this.changed.emit(tidy);
        then(tidy);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }

  protected key(event: KeyboardEvent): void {
    const typing = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName);
    if (typing || event.ctrlKey || event.metaKey || event.altKey || this.view() !== 'findings') return;
    if (event.key === '/') {
      event.preventDefault();
      this.search()?.nativeElement.focus();
      return;
    }
    const rows = this.shown();
    const at = rows.findIndex((r) => r.finding.key === this.chosenKey());
    const undecided = (from: number) => rows.findIndex((r, i) => i > from && r.state === 'open');
    const to =
      event.key === 'j'
        ? Math.min(rows.length - 1, at + 1)
        : event.key === 'k'
          ? Math.max(0, at - 1)
          : event.key === 'n'
            ? undecided(at) === -1
              ? undecided(-1)
              : undecided(at)
            : -1;
    const row = rows[to];
    if (!row) return;
    this.chosenKey.set(row.finding.key);
    this.viewport()?.scrollToIndex(Math.max(0, to - 3));
  }
}
