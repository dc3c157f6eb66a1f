import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal, untracked } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import { MatOption } from '@angular/material/core';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatSelect } from '@angular/material/select';
import { KIND_LABELS, count, placesOf, walkOutline, type PartOf, type Problem, type SplitPlan } from '@treenail/core';
import { Refusal } from '@treenail/core';
import { catchError, debounceTime, filter, of, switchMap, type Observable } from 'rxjs';
import type { Cuts, PartAnswer } from '../bench/messages';
import { wordsOf } from '../data/api';

/** What can be asked of a course that is to be split. */
export interface SplitSource {
  parts(plan: SplitPlan): Observable<PartAnswer[]>;
}

/** A place of the outline, or an item that stands in none, with where it goes. */
interface Row {
  /** As the plan names it. */
  key: string;
  title: string;
  kind: string;
  depth: number;
  /** As it was told for this very place; `null` where it goes with what is above. */
  own: PartOf | null;
  goes: PartOf | null;
}

const WAYS: Readonly<Record<string, string>> = {
  names: 'as folders are called',
  dates: 'by its dates',
  halves: 'in the middle',
};

/** Milliseconds after the last change in which nothing is asked. */
const REST = 200;

/** Where a course is cut: proposed, corrected by folder and item, and what each part would be. */
@Component({
  selector: 'tn-split-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    MatButton,
    MatButtonToggleModule,
    MatFormField,
    MatLabel,
    MatInput,
    MatOption,
    MatSelect,
  ],
  templateUrl: './split-view.html',
  styleUrl: './split-view.scss',
})
export class SplitView {
  readonly cuts = input.required<Cuts>();
  readonly source = input.required<SplitSource>();
  readonly disabled = input(false);
  /** What a person had come to before they looked elsewhere; `null` where they had not begun. */
  readonly begun = input<SplitPlan | null>(null);
  readonly corrected = output<SplitPlan>();
  readonly made = output<SplitPlan>();

  protected readonly count = count;
  protected readonly plan = signal<SplitPlan | null>(null);
  protected readonly by = signal('');
  protected readonly parts = signal<readonly PartAnswer[] | null>(null);
  protected readonly trouble = signal<Problem | null>(null);
  protected readonly ways = computed(() => this.cuts().proposals.map(({ by }) => ({ by, words: WAYS[by] ?? by })));
  protected readonly rows = computed((): Row[] => {
    const { course } = this.cuts();
    const plan = this.plan();
    if (!plan) return [];
    const where = placesOf(course, plan);
    const kinds = new Map(course.items.map((item) => [item.id, KIND_LABELS[item.kind]]));
    const placed = new Set<string>();
    const rows = [...walkOutline(course.outline)].map(({ node, depth }): Row => {
      if (node.item !== undefined) placed.add(node.item);
      const kind = node.item === undefined ? (node.heading ? 'heading' : 'folder') : (kinds.get(node.item) ?? '');
      return {
        key: node.id,
        title: node.title,
        kind,
        depth,
        own: plan.of[node.id] ?? null,
        goes: where.get(node.id) ?? 'all',
      };
    });
    const rest = course.items
      .filter((item) => !placed.has(item.id))
      .map((item): Row => {
        const key = `item:${item.id}`;
        const own = plan.of[key] ?? null;
        return { key, title: item.title, kind: KIND_LABELS[item.kind], depth: 0, own, goes: own };
      });
    return [...rows, ...rest];
  });
  protected readonly answer = computed(() => {
    const parts = this.parts();
    if (!parts) return '';
    const shared = new Set(parts.flatMap((part) => part.shared.map((s) => s.item))).size;
    const over = parts.reduce((sum, part) => sum + part.dangling.length, 0);
    const items = parts.map((part) => part.items.length);
    return `${items.join(' and ')} items, ${shared} of them in more than one; ${count(over, 'link')} over the cut`;
  });
  /** Whether any link leads over the cut. */
  protected readonly hasOver = computed(() =>
    (this.parts() ?? []).some((part) => part.dangling.some(({ is }) => is === 'link')),
  );
  /** What was written for an address and is none. */
  protected readonly misplaced = signal('');
  protected readonly track = (_: number, row: Row) => row.key;

  constructor() {
    // What is proposed first is begun with, whenever another course comes.
    effect(() => {
      const [first] = this.cuts().proposals;
      untracked(() => {
        const begun = this.begun();
        this.plan.set(begun ?? first?.plan ?? null);
        this.by.set(begun ? '' : (first?.by ?? ''));
      });
    });
    toObservable(this.plan)
      .pipe(
        filter((plan) => plan !== null),
        debounceTime(REST),
        switchMap((plan) =>
          this.source()
            .parts(plan)
            .pipe(
              catchError((error: unknown) => {
                this.trouble.set(
                  error instanceof Refusal ? error.problem : { code: '', message: wordsOf(error), action: '' },
                );
                return of(null);
              }),
            ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((parts) => {
        this.parts.set(parts);
        if (parts) this.trouble.set(null);
      });
  }

  protected propose(by: string): void {
    const found = this.cuts().proposals.find((proposal) => proposal.by === by);
    if (!found) return;
    this.by.set(by);
    this.change(() => found.plan);
  }

  protected put(key: string, part: PartOf | null): void {
    this.change((plan) => {
      const of = { ...plan.of };
      if (part === null) delete of[key];
      else of[key] = part;
      return { ...plan, of };
    });
  }

  protected call(at: number, title: string): void {
    const name = title.trim();
    if (name === '') return;
    this.change((plan) => ({
      ...plan,
      parts: plan.parts.map((part, i) => (i === at ? { ...part, title: name } : part)),
    }));
  }

  protected add(): void {
    this.change((plan) => ({
      ...plan,
      parts: [...plan.parts, { title: `${this.cuts().course.title}, part ${plan.parts.length + 1}`, term: null }],
    }));
  }

  /** What went into a part that goes, goes with what is above; those after it move up. */
  protected remove(at: number): void {
    this.change(({ parts, of }) => ({
      parts: parts.filter((_, i) => i !== at),
      of: Object.fromEntries(
        Object.entries(of).flatMap(([key, part]) =>
          part === at ? [] : [[key, part !== 'all' && part > at ? part - 1 : part]],
        ),
      ),
    }));
  }

  /** Where a part is as a course of its own; what is no address is none. */
  protected place(at: number, written: string): void {
    const address = written.trim();
    const isOne = /^https?:\/\/\S+$/.test(address) && URL.canParse(address);
    this.misplaced.set(address === '' || isOne ? '' : `“${address}” is no address of a course.`);
    this.change((plan) => ({
      ...plan,
      parts: plan.parts.map(({ title, term, address: before }, i) => ({
        title,
        term,
        ...(i === at ? (isOne ? { address } : {}) : before === undefined ? {} : { address: before }),
      })),
    }));
  }

  protected cutLinks(fate: 'kept' | 'words'): void {
    this.change((plan) => ({ ...plan, cutLinks: fate }));
  }

  /** Whether a link of another part leads into this one. */
  protected isLedInto(at: number): boolean {
    const parts = this.parts();
    const own = new Set(parts?.[at]?.items);
    return (parts ?? []).some(
      (part, i) => i !== at && part.dangling.some(({ to, is }) => is === 'link' && own.has(to)),
    );
  }

  private change(how: (plan: SplitPlan) => SplitPlan): void {
    this.plan.update((plan) => plan && how(plan));
    const plan = this.plan();
    if (plan) this.corrected.emit(plan);
  }

  protected titleOf(id: string): string {
    return this.cuts().course.items.find((item) => item.id === id)?.title ?? id;
  }

  /** What stands in a row that says nothing itself. */
  protected above({ key, goes }: Row): string {
    if (goes === null) return 'where it is needed';
    if (key.startsWith('item:')) return 'where it is needed';
    return goes === 'all' ? 'with what is above: into all' : `with what is above: ${goes + 1}`;
  }

  protected make(): void {
    const plan = this.plan();
    if (plan && this.parts()) this.made.emit(plan);
  }
}
