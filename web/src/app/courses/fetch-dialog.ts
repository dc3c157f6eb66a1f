import { CdkTree, CdkTreeModule } from '@angular/cdk/tree';
import {
  ChangeDetectionStrategy,
  Component,
  afterRenderEffect,
  computed,
  inject,
  signal,
  viewChild,
} from '@angular/core';
import { rxResource, toSignal } from '@angular/core/rxjs-interop';
import { FormControl, FormGroup, ReactiveFormsModule } from '@angular/forms';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatExpansionModule } from '@angular/material/expansion';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatIcon } from '@angular/material/icon';
import { MatInputModule } from '@angular/material/input';
import { MatRadioModule } from '@angular/material/radio';
import { count, courseName, nameByRule, readableSize } from '@treenail/core';
import type { CoursePart, CostsAnswer, CourseSummary, FetchOptions } from '@treenail/server/contract';
import { forkJoin } from 'rxjs';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { SizePipe } from '../parts/words';

export interface FetchDialogData {
  courses: readonly CourseSummary[];
}

type Forms = 'standard' | 'archive' | 'both';
type Form = CostsAnswer[number]['forms'][number];

/** What to fetch of the chosen courses, what it will cost, and how the copies will be named. */
@Component({
  selector: 'tn-fetch-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CdkTreeModule,
    MatButton,
    MatCheckboxModule,
    MatExpansionModule,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatIcon,
    MatIconButton,
    MatInputModule,
    MatRadioModule,
    ReactiveFormsModule,
    SizePipe,
  ],
  templateUrl: './fetch-dialog.html',
  styleUrl: './fetch-dialog.scss',
})
export class FetchDialog {
  private readonly api = inject(Api);
  private readonly ref = inject(MatDialogRef<FetchDialog, number>);
  protected readonly data = inject<FetchDialogData>(MAT_DIALOG_DATA);
  protected readonly count = count;
  protected readonly one = this.data.courses.length === 1 ? (this.data.courses[0] ?? null) : null;
  protected readonly title = this.one
    ? `Fetch ${courseName(this.one)} ${this.one.title}`
    : `Fetch ${this.data.courses.length} courses`;
  protected readonly form = new FormGroup({
    forms: new FormControl<Forms>('archive', { nonNullable: true }),
    copyLinked: new FormControl(true, { nonNullable: true }),
    personal: new FormControl(false, { nonNullable: true }),
    reason: new FormControl('', { nonNullable: true }),
    removeAfter: new FormControl(true, { nonNullable: true }),
  });
  private readonly values = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly none: ReadonlySet<string> = new Set();
  /** Chosen parts; all where none are. */
  protected readonly chosen = signal<ReadonlySet<string>>(new Set());
  private readonly courseIds = this.data.courses.map((c) => c.id);
  /** Parts can be chosen of one course only. */
  protected readonly told = rxResource({
    params: () => this.one?.id,
    stream: ({ params }) => this.api.parts(params),
  });
  protected readonly rule = rxResource({ stream: () => this.api.namingRule() });
  /** What it will cost and what each form lacks, by instance. Any form is asked for: the answer has all of them. */
  protected readonly cost = rxResource({
    params: () => ({ courseIds: this.courseIds, options: this.optionsOf('archive', true) }),
    stream: ({ params }) => this.api.costs(params),
  });
  private readonly lastCost = lastOf(this.cost);
  protected readonly costs = computed(() => this.lastCost() ?? []);
  protected readonly parts = computed(() => (this.told.hasValue() ? this.told.value().parts : []));
  protected readonly insideOf = (part: CoursePart) => part.inside;
  protected readonly refOf = (_: number, part: CoursePart) => part.ref;
  private readonly tree = viewChild<CdkTree<CoursePart>>(CdkTree);
  protected readonly rows = computed(() => [...rowsOf(this.parts())]);
  /** Where no instance makes a standard package, none is offered. */
  protected readonly hasStandard = computed(
    () => this.costs().length === 0 || this.costs().some((c) => c.forms.some((f) => f.id === 'standard')),
  );
  protected readonly reasonMissing = computed(
    () => this.values().personal === true && (this.values().reason ?? '').trim().length < 5,
  );
  /** The parts that will be fetched, the uppermost of what is chosen: a folder stands for all that is in it. */
  protected readonly picked = computed(() => {
    const chosen = this.chosen();
    return this.rows().filter((row) => chosen.has(row.part.ref) && !row.above.some((ref) => chosen.has(ref)));
  });
  protected readonly pickedBytes = computed(() => this.picked().reduce((sum, { part }) => sum + part.bytes, 0));
  protected readonly name = computed(() => {
    const course = this.data.courses[0];
    const extension = this.costs()[0]?.forms.find((f) => f.id === this.formIds()[0])?.extension ?? 'zip';
    return course && this.rule.hasValue() ? nameByRule(course, new Date(), extension, this.rule.value()) : '';
  });
  protected readonly button = computed(() => {
    const parts = this.chosen().size > 0 ? `${count(this.chosen().size, 'part')} of it` : '';
    return this.one ? `Fetch ${parts || 'the course'}` : `Fetch ${this.data.courses.length} courses`;
  });

  /** What is wanted of many courses, summed over their instances, which make their packages beside each other. */
  protected readonly total = computed(() => {
    const chosenForms = this.costs().flatMap(({ forms }) => forms.filter((form) => this.wanted(form.id)));
    if (this.one || chosenForms.length === 0) return '';
    const sum = (of: (form: Form) => number) => chosenForms.reduce((total, form) => total + of(form), 0);
    const known = (of: (form: Form) => number | null) => chosenForms.every((form) => of(form) !== null);
    const silent = this.costs().filter((at) => at.trouble !== null);
    const words = this.costWords({
      bytes: sum((form) => form.bytes),
      unsized: sum((form) => form.unsized),
      items: known((form) => form.items) ? sum((form) => form.items ?? 0) : null,
      ahead: known((form) => form.ahead) ? sum((form) => form.ahead ?? 0) : null,
      seconds: known((form) => form.seconds) ? Math.max(...chosenForms.map((form) => form.seconds ?? 0)) : null,
    });
    return silent.length === 0 ? words : `${words}; not counting ${silent.map((at) => at.instance).join(', ')}`;
  });

  protected wantedFirst(forms: readonly Form[]): Form[] {
    return [...forms].sort((a, b) => Number(this.wanted(b.id)) - Number(this.wanted(a.id)));
  }

  /** What one form of an instance comes to, in words. */
  protected costWords(form: Pick<Form, 'bytes' | 'unsized' | 'items' | 'ahead' | 'seconds'>): string {
    const { bytes, unsized, items, ahead, seconds } = form;
    return [
      bytes === 0 && unsized > 0 ? '' : `about ${readableSize(bytes)}`,
      unsized > 0 ? `${count(unsized, 'course')} of unknown size` : '',
      items === null ? '' : count(items, 'item'),
      ahead === null ? '' : `${ahead === 0 ? 'nobody' : count(ahead, 'job')} ahead in the queue`,
      seconds === null ? '' : `${this.one ? 'ready' : 'the last ready'} in about ${durationWords(seconds)}`,
    ]
      .filter(Boolean)
      .join(', ');
  }

  protected wanted(form: string): boolean {
    return (this.formIds() as string[]).includes(form);
  }

  private formIds(): ('standard' | 'archive')[] {
    const { forms = 'archive' } = this.values();
    return forms === 'both' ? ['archive', 'standard'] : [forms];
  }

  private optionsOf(form: 'standard' | 'archive', estimate = false): FetchOptions {
    const { copyLinked = true, personal = false, reason = '', removeAfter = true } = this.values();
    const parts = this.chosen().size > 0 ? [...this.chosen()] : null;
    // An estimate needs no reason, and must not be refused for want of one.
    return { form, parts, copyLinked, personal: personal && !estimate, reason, removeAfter };
  }

  constructor() {
    // All parts are in sight at first; a person folds what is of no use.
    afterRenderEffect(() => {
      if (this.parts().length > 0) this.tree()?.expandAll();
    });
  }

  protected tick(part: CoursePart, on: boolean): void {
    this.chosen.update((set) => {
      const next = new Set(set);
      if (on) next.add(part.ref);
      else next.delete(part.ref);
      return next;
    });
  }

  protected start(): void {
    this.busy.set(true);
    const courseIds = this.data.courses.map((c) => c.id);
    forkJoin(
      this.formIds().map((form) => this.api.fetchCourses({ courseIds, options: this.optionsOf(form) })),
    ).subscribe({
      next: (jobs) => this.ref.close(jobs.flat().length),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}

interface Row {
  part: CoursePart;
  /** References of the folders that it stands in. */
  above: readonly string[];
}

function* rowsOf(parts: readonly CoursePart[], above: readonly string[] = []): Generator<Row> {
  for (const part of parts) {
    yield { part, above };
    yield* rowsOf(part.inside, [...above, part.ref]);
  }
}

function durationWords(seconds: number): string {
  if (seconds < 90) return count(Math.max(1, Math.round(seconds)), 'second');
  return count(Math.round(seconds / 60), 'minute');
}
