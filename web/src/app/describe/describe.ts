import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { rxResource, takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import {
  DESCRIPTION_WORDS,
  EXAMPLE_DESCRIPTIONS,
  KIND_LABELS,
  Refusal,
  count,
  subjects,
  type Problem,
  type RuleTrace,
  type Trial,
} from '@treenail/core';
import type { DescriptionAnswer } from '@treenail/server/contract';
import { combineLatest, debounceTime, filter, finalize, from, map, of, switchMap } from 'rxjs';
import { sourcesOfDrop, sourcesOfInput } from '../bench/dropped';
import type { Source } from '../bench/messages';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { SizePipe, WhenPipe } from '../parts/words';
import { ArchiveInHand } from './archive-in-hand';
import { DescribeService } from './describe.service';
import { Editor } from './editor';
import type { ArchiveOpened, Tried } from './messages';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { Pick } from '../parts/pick';
import { MatFormField } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatOption, MatSelect } from '@angular/material/select';
import { MatCheckbox } from '@angular/material/checkbox';
import { ListCell, Table, type ListColumn } from '../parts/list';

/** A rule of the description, or a field of the one before it. */
interface FoundRow {
  rule: string | null;
  name: string;
  found: number;
  /** Not all records have it. */
  few: boolean;
  first: string;
}

/** Something of the records of a rule that is not read, or a file that nothing speaks of. */
interface ForeignRow {
  of: string | null;
  rule: string;
  place: string;
  found: number | null;
  sample: string;
}

type View = 'outline' | 'records' | 'unread' | 'files' | 'words';

/** A description of an archive that no reader is coded for, written with the archive at its side. */
@Component({
  selector: 'tn-describe',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    Editor,
    ListCell,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatCheckbox,
    MatFormField,
    MatInput,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatOption,
    MatSelect,
    Pick,
    RouterLink,
    SizePipe,
    Table,
    WhenPipe,
  ],
  providers: [DescribeService],
  templateUrl: './describe.html',
  styleUrl: './describe.scss',
})
export class DescribePage {
  private readonly api = inject(Api);
  private readonly service = inject(DescribeService);
  private readonly inHand = inject(ArchiveInHand).source;
  private readonly editor = viewChild(Editor);
  /** A kept copy to describe. */
  readonly copy = input<number | undefined, unknown>(undefined, { transform: (v) => (v ? Number(v) : undefined) });
  protected readonly count = count;
  protected readonly kinds = KIND_LABELS as Record<string, string>;
  protected readonly examples = EXAMPLE_DESCRIPTIONS;
  protected readonly text = signal('');
  protected readonly source = signal<Source | null>(null);
  protected readonly archive = signal<ArchiveOpened | null>(null);
  protected readonly tried = signal<Tried | null>(null);
  protected readonly refusal = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  protected readonly keeping = signal(false);
  protected readonly over = signal(false);
  protected readonly view = signal<View>('outline');
  protected readonly peeked = signal<{ path: string; text: string; cut: boolean } | null>(null);
  /** The description that is open; none while a new one is written. */
  protected readonly kept = signal<DescriptionAnswer | null>(null);
  protected readonly note = signal('');
  protected readonly inUse = signal(true);
  protected readonly said = signal('');
  protected readonly list = rxResource({ stream: () => this.api.descriptions() });
  private readonly listed = lastOf(this.list);
  protected readonly known = computed(() => this.listed() ?? []);
  /** What the last text that could be read made of the archive: a slip of the pen does not take it away. */
  protected readonly trial = linkedSignal<Tried | null, Trial | null>({
    source: this.tried,
    computation: (tried, previous) => tried?.trial ?? previous?.value ?? null,
  });
  protected readonly isStale = computed(() => this.trial() !== null && this.tried()?.trial === null);
  protected readonly words = DESCRIPTION_WORDS;
  protected readonly wordColumns: readonly ListColumn<(typeof DESCRIPTION_WORDS)[number]>[] = [
    { id: 'at', name: 'In', width: 92, value: (w) => w.at },
    { id: 'word', name: 'Word', width: 150, value: (w) => w.word },
    { id: 'means', name: 'Means', value: (w) => w.means },
  ];
  protected readonly foundColumns: readonly ListColumn<FoundRow>[] = [
    { id: 'name', name: 'Rule and field', value: (r) => r.name },
    { id: 'found', name: 'Found', is: 'number', value: (r) => r.found },
    { id: 'first', name: 'First of them', value: (r) => r.first },
  ];
  protected readonly foreignColumns: readonly ListColumn<ForeignRow>[] = [
    { id: 'what', name: 'Not read of the records', value: (r) => `${r.rule} ${r.place}` },
    { id: 'found', name: 'Times', is: 'number', value: (r) => r.found },
    { id: 'first', name: 'First of them', value: (r) => r.sample },
  ];
  protected readonly problems = computed(() => this.tried()?.problems ?? []);
  protected readonly rows = computed(() => {
    const trial = this.trial();
    return trial ? subjects(trial.course) : [];
  });
  protected readonly rules = computed(() =>
    (this.trial()?.rules ?? []).filter((r) => !r.rule.startsWith('in ')).map((r) => ({ ...r, words: wordsOfRule(r) })),
  );
  protected readonly unread = computed(() =>
    (this.trial()?.rules ?? []).flatMap((r) => r.unread.map((u) => ({ ...u, rule: wordsOfRule(r), of: r.rule }))),
  );
  /** Rules, each with its fields after it. */
  protected readonly foundRows = computed((): FoundRow[] =>
    this.rules().flatMap((r) => [
      { rule: r.rule, name: r.words, found: r.records, few: false, first: r.first.file },
      ...r.fields.map((f) => ({ rule: null, name: f.name, found: f.found, few: f.found < r.records, first: f.sample })),
    ]),
  );
  protected readonly foreignRows = computed((): ForeignRow[] => [
    ...this.unread(),
    ...(this.trial()?.foreign ?? []).map((place) => ({ of: null, rule: '', place, found: null, sample: '' })),
  ]);
  protected readonly next = computed(() => (this.kept()?.versions[0]?.version ?? 0) + 1);
  protected readonly changed = computed(() => {
    const kept = this.kept();
    return !kept || kept.versions[0]?.text !== this.text() || kept.inUse !== this.inUse();
  });
  protected readonly found = computed(() => {
    const trial = this.trial();
    if (!trial) return '';
    const folders = this.rows().filter((r) => r.kind === 'folder').length;
    return `${count(trial.course.items.length, 'item')} in ${count(folders, 'folder')}`;
  });

  constructor() {
    combineLatest([toObservable(this.text), toObservable(this.archive)])
      .pipe(
        debounceTime(250),
        filter(([text]) => text.trim() !== ''),
        switchMap(([text]) => from(this.service.attempt(text))),
        takeUntilDestroyed(),
      )
      .subscribe((tried) => this.tried.set(tried));
    effect(() => {
      const id = this.copy();
      if (id !== undefined) {
        this.api.copyToLookInto(id).subscribe({
          next: ({ fileName: name, size }) => void this.take({ name, size, address: `/api/copies/${id}/file` }),
          error: (error: unknown) => this.refuse(error),
        });
      }
    });
    const brought = this.inHand();
    this.inHand.set(null);
    if (brought) void this.take(brought);
  }

  protected drop(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    if (event.dataTransfer) void sourcesOfDrop(event.dataTransfer).then(([first]) => this.take(first));
  }

  protected pick(files: readonly File[]): void {
    const [first] = sourcesOfInput(files);
    void this.take(first);
  }

  private async take(source: Source | undefined): Promise<void> {
    if (!source) return;
    this.refusal.set(null);
    this.busy.set(true);
    try {
      const archive = await this.service.open(source);
      this.source.set(source);
      this.archive.set(archive);
      this.peeked.set(null);
      if (this.text().trim() === '') this.text.set(archive.starter);
    } catch (error) {
      this.refuse(error);
    } finally {
      this.busy.set(false);
    }
  }

  /** A kept description, one that ships with Treenail, or what is guessed from the archive. */
  protected begin(choice: string): void {
    const [how, name = ''] = choice.split(':');
    this.said.set('');
    const text =
      how === 'kept'
        ? this.api.description(name).pipe(
            map((kept) => {
              this.show(kept);
              return kept.versions[0]?.text ?? '';
            }),
          )
        : how === 'example'
          ? of(EXAMPLE_DESCRIPTIONS.find((e) => e.name === name)?.text ?? '')
          : of(this.archive()?.starter ?? '');
    if (how !== 'kept') this.kept.set(null);
    text.subscribe({ next: (t) => this.text.set(t), error: (error: unknown) => this.refuse(error) });
  }

  protected keep(): void {
    if (this.keeping()) return;
    const after = this.kept()?.versions[0]?.version ?? 0;
    this.refusal.set(null);
    this.keeping.set(true);
    const request = this.api.keepDescription({ text: this.text(), inUse: this.inUse(), note: this.note(), after });
    request.pipe(finalize(() => this.keeping.set(false))).subscribe({
      next: (kept) => {
        this.show(kept);
        this.note.set('');
        this.said.set(
          kept.inUse
            ? `Version ${kept.versions[0]?.version} is kept. Archives of this kind are read by it from now on.`
            : `Version ${kept.versions[0]?.version} is kept, and not used yet.`,
        );
        this.list.reload();
      },
      error: (error: unknown) => this.refuse(error),
    });
  }

  private show(kept: DescriptionAnswer): void {
    this.kept.set(kept);
    this.inUse.set(kept.inUse);
  }

  protected restore(version: number): void {
    const text = this.kept()?.versions.find((v) => v.version === version)?.text;
    if (text !== undefined) this.text.set(text);
  }

  protected goTo(rule: string): void {
    const tried = this.tried();
    const line = tried?.trial ? tried.lines.get(rule) : undefined;
    if (line !== undefined) this.editor()?.goTo(line);
  }

  protected goToLine(line: number | undefined): void {
    if (line !== undefined) this.editor()?.goTo(line);
  }

  protected async peek(path: string): Promise<void> {
    try {
      this.peeked.set({ path, ...(await this.service.peek(path)) });
    } catch (error) {
      this.refuse(error);
    }
  }

  private refuse(error: unknown): void {
    this.refusal.set(
      error instanceof Refusal ? error.problem : { code: 'refused', message: wordsOf(error), action: '' },
    );
  }
}

/** `chapter.inside.0` as `chapter › inside 1`. */
function wordsOfRule({ rule }: RuleTrace): string {
  // What stands beside all records of a file goes by the file's own name.
  if (rule.startsWith('in ')) return rule;
  return rule.replace(/\.(\d+)/g, (_, n: string) => ` ${Number(n) + 1}`).replaceAll('.', ' › ');
}
