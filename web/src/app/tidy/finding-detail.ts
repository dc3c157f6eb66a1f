import { ChangeDetectionStrategy, Component, computed, input, linkedSignal, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatAutocompleteModule } from '@angular/material/autocomplete';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import {
  isOneFile,
  KIND_LABELS,
  LEAVE,
  WEIGHT_LABELS,
  isLedTo,
  mendKind,
  replaceItemAddresses,
  type Course,
  type Decision,
  type Finding,
  type MendParam,
} from '@treenail/core';
import type { BeforeAfterAnswer, FindingKindAnswer, NewDecision } from '@treenail/server/contract';
import { EMPTY, delay, of, switchMap } from 'rxjs';
import { wordsOf } from '../data/api';
import type { TidySource } from './source';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatRadioButton, MatRadioGroup } from '@angular/material/radio';
import { MatFormField } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatOption, MatSelect } from '@angular/material/select';
import { Pick } from '../parts/pick';

/** A way to deal with a finding, as it is offered. */
interface Way {
  mend: string;
  params: Record<string, string>;
  words: string;
  /** What a person has to say for it. */
  fields: readonly MendParam[];
}

export type Scope = 'one' | 'alike' | 'kind';

/** One finding: what it is, why it matters, and the ways to deal with it, each with what it would change. */
@Component({
  selector: 'tn-finding-detail',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    MatAutocompleteModule,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatFormField,
    MatInput,
    MatOption,
    MatRadioButton,
    MatRadioGroup,
    MatSelect,
    Pick,
    RouterLink,
  ],
  templateUrl: './finding-detail.html',
  styleUrl: './finding-detail.scss',
})
export class FindingDetail {
  readonly source = input.required<TidySource>();
  readonly finding = input.required<Finding>();
  readonly kind = input.required<FindingKindAnswer>();
  readonly course = input.required<Course>();
  readonly decision = input.required<Decision | null>();
  /** Why the mend that was chosen could not be done. */
  readonly failure = input.required<string | null>();
  readonly alike = input.required<number>();
  readonly ofKind = input.required<number>();
  /** All findings of its kind, this one among them. */
  readonly likewise = input<readonly Finding[]>([]);
  /** Of those that would be decided at once, the ones that this mend has no answer for: each needs its own. */
  protected readonly unanswered = computed((): readonly Finding[] => {
    const way = this.way();
    if (this.scope() !== 'kind' || !way || way.fields.length > 0 || !mendKind(way.mend)?.particular) return [];
    return this.likewise().filter((f) => !f.suggestions.some((s) => s.mend === way.mend));
  });
  protected readonly unansweredWords = computed(() => {
    const left = this.unanswered();
    const titles = left.slice(0, 3).map((f) => `“${f.title}”`);
    const more = left.length > 3 ? ` and ${left.length - 3} more` : '';
    return `${left.length} of these ${this.likewise().length} need an answer of their own and stay open: ${titles.join(', ')}${more}.`;
  });
  readonly open = input.required<boolean>();
  readonly busy = input.required<boolean>();
  /** Link to the item in the outline, where there is one. */
  readonly itemLink = input<readonly unknown[] | null>(null);
  readonly decided = output<NewDecision>();
  readonly undone = output<string>();
  readonly keepRule = output<NewDecision>();
  protected readonly weights = WEIGHT_LABELS;
  protected readonly leave = LEAVE;

  /** What was begun stays when the same finding comes again. */
  private readonly key = computed(() => this.finding().key);
  protected readonly ways = computed((): Way[] => {
    const { suggestions } = this.finding();
    const suggested = suggestions.map((s): Way => ({ ...s, fields: [] }));
    const others = this.kind().mends.flatMap((id): Way[] => {
      const mend = mendKind(id);
      // What needs nothing said and is suggested already is not offered twice.
      if (!mend || (mend.params.length === 0 && suggestions.some((s) => s.mend === id))) return [];
      if (mend.onlySuggested) return [];
      return [{ mend: id, params: {}, words: mend.label, fields: mend.params }];
    });
    return [...suggested, ...others, { mend: LEAVE, params: {}, words: 'Leave it as it is, because', fields: [] }];
  });
  protected readonly chosen = linkedSignal<string, number>({ source: this.key, computation: () => 0 });
  protected readonly way = computed(() => this.ways()[this.chosen()]);
  protected readonly said = linkedSignal<string, Record<string, string>>({
    source: this.key,
    computation: () => ({}),
  });
  protected readonly reason = linkedSignal<string, string>({ source: this.key, computation: () => '' });
  protected readonly scope = linkedSignal<string, Scope>({ source: this.key, computation: () => 'one' });
  protected readonly params = computed(() => ({ ...this.way()?.params, ...this.said() }));
  protected readonly ready = computed(() => {
    const way = this.way();
    if (!way) return false;
    if (way.mend === LEAVE) return this.reason().trim().length >= 3;
    return way.fields.every((f) => f.optional || (this.said()[f.name] ?? '').trim() !== '');
  });

  protected readonly giving = signal(false);
  protected readonly giveFailure = linkedSignal<string, string>({ source: this.key, computation: () => '' });
  /** A person's own file belongs to this course: no rule can bring it to another. */
  protected readonly ownFile = computed(() => this.way()?.fields.some((f) => f.kind === 'file') ?? false);

  private readonly tried = rxResource({
    params: () => {
      const way = this.way();
      return way && way.mend !== LEAVE && this.ready()
        ? { key: this.finding().key, mend: way.mend, params: this.params() }
        : undefined;
    },
    // What is being typed is not tried letter by letter.
    stream: ({ params }) =>
      params
        ? of(params).pipe(
            delay(120),
            switchMap((asked) => this.source().beforeAfter(asked)),
          )
        : EMPTY,
  });
  protected readonly trying = computed(() => this.tried.isLoading());
  /** What is led to is named as a person knows it, not by the address that the model has for it. */
  protected readonly trial = computed((): BeforeAfterAnswer | null => {
    if (!this.tried.hasValue()) return null;
    const trial = this.tried.value();
    const titles = new Map(this.course().items.map((i) => [i.id, i.title]));
    return { ...trial, after: replaceItemAddresses(trial.after, (id) => `“${titles.get(id) ?? id}”`) };
  });
  protected readonly trialFailure = computed(() => (this.tried.error() ? wordsOf(this.tried.error()) : ''));

  protected readonly decisionWords = computed(() => {
    const decision = this.decision();
    if (!decision) return '';
    if (decision.mend === LEAVE) return `Left as it is: ${decision.reason}`;
    const { suggestions } = this.finding();
    const suggestion = suggestions.find(
      (s) => s.mend === decision.mend && Object.entries(decision.params).every(([k, v]) => s.params[k] === v),
    );
    const scope =
      decision.match.key !== null
        ? ''
        : decision.match.groupKey !== null
          ? ', with all alike'
          : ', with all of its kind';
    const why = decision.reason === '' ? '' : `: ${decision.reason}`;
    return `${suggestion?.words ?? mendKind(decision.mend)?.label ?? decision.mend}${scope}${why}`;
  });

  /** Items and files that a link could lead to, by what is typed. */
  protected readonly typed = signal('');
  protected readonly targets = computed(() => {
    const words = this.typed().trim().toLowerCase();
    const { items, files } = this.course();
    const pages = items.flatMap((i) =>
      isOneFile(i) || isLedTo(i) ? [{ value: `item:${i.id}`, words: i.title, of: KIND_LABELS[i.kind] }] : [],
    );
    const loose = files.flatMap((f) =>
      f.role === 'content' ? [{ value: `file:${f.path}`, words: f.path, of: 'file' }] : [],
    );
    return [...pages, ...loose].filter((t) => t.words.toLowerCase().includes(words)).slice(0, 12);
  });
  protected readonly banks = computed(() => this.course().items.filter((i) => i.kind === 'bank'));
  protected readonly showTarget = (value: string): string => {
    if (value.startsWith('item:')) {
      return this.course().items.find((i) => i.id === value.slice(5))?.title ?? value;
    }
    return value.replace(/^file:/, '');
  };

  protected say(name: string, value: string): void {
    this.said.update((said) => ({ ...said, [name]: value }));
  }

  /** Takes the person's file at once, so that what it would change can be shown. */
  protected give(name: string, file: File | undefined): void {
    this.giveFailure.set('');
    this.say(name, '');
    if (!file) return;
    const { key } = this.finding();
    this.giving.set(true);
    this.source()
      .give(file)
      .subscribe({
        next: (address) => {
          this.giving.set(false);
          // Another finding may have been chosen meanwhile.
          if (this.finding().key === key) this.say(name, address);
        },
        error: (error: unknown) => {
          this.giving.set(false);
          this.giveFailure.set(wordsOf(error));
        },
      });
  }

  /** What was typed is an address, unless it is the name of something in the course. */
  protected sayTarget(name: string, typed: string): void {
    this.typed.set(typed);
    const named = this.targets().find((t) => t.words.toLowerCase() === typed.trim().toLowerCase());
    this.say(name, named?.value ?? (/^(https?:|mailto:|item:|file:|\/\/)/i.test(typed.trim()) ? typed.trim() : ''));
  }

  protected decide(): void {
    this.decided.emit(this.asDecision());
  }

  protected rule(): void {
    this.keepRule.emit(this.asDecision());
  }

  /** A person's own file belongs to one course: no rule can bring it to another. */
  protected isOwnFile({ params }: Decision): boolean {
    return Object.values(params).some((value) => value.startsWith('given:'));
  }

  /** What was decided before, for whatever is like it in other courses. */
  protected ruleOf({ match, mend, params, reason }: Decision): void {
    const { kind, groupKey } = this.finding();
    this.keepRule.emit({
      match: { kind, groupKey: match.groupKey ?? (match.key === null ? null : groupKey), key: null },
      mend,
      params,
      reason,
    });
  }

  private asDecision(): NewDecision {
    const { kind, groupKey, key } = this.finding();
    const way = this.way();
    const scope = this.scope();
    // Where many are decided at once, each takes its own suggestion unless the same was said for all.
    const own = scope === 'kind' && way?.fields.length === 0 && mendKind(way.mend)?.particular === true;
    return {
      match: { kind, groupKey: scope === 'alike' ? groupKey : null, key: scope === 'one' ? key : null },
      mend: way?.mend ?? LEAVE,
      params: own ? {} : this.params(),
      reason: way?.mend === LEAVE ? this.reason().trim() : '',
    };
  }
}
