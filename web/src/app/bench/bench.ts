import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  signal,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { Router, RouterLink } from '@angular/router';
import {
  FINDING_SETTINGS,
  Refusal,
  count,
  guessNamed,
  readableSize,
  type Course,
  type JoinPlan,
  type Named,
  type Problem,
  type SplitPlan,
} from '@treenail/core';
import { Observable, catchError, firstValueFrom, forkJoin, map, of, throwError } from 'rxjs';
import type { CopySummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { KeepingService, type Keeping } from '../data/keeping';
import { CourseView } from '../inside/course-view';
import { Awaited } from '../parts/awaited';
import { SizePipe, copyWords } from '../parts/words';
import { TidyView } from '../tidy/tidy-view';
import { BenchService } from './bench.service';
import { ArchiveInHand } from '../describe/archive-in-hand';
import { give } from '../parts/list/sheet';
import { fileNameOf, keyOf, namedOf, sourceOfCopy, sourcesOfDrop, sourcesOfInput, type Dropped } from './dropped';
import { ReshapingService } from './reshaping.service';
import { KeepDialog, type KeepDialogData } from './keep-dialog';
import type { Common, Compared, Converted, HouseCalendar, Loss, Opened, Source } from './messages';
import { JoinDialog, type JoinDialogData } from '../parting/join-dialog';
import { SplitView } from '../parting/split-view';
import { RedateView } from '../redate/redate-view';
import { Shelf } from './shelf';
import { SideBySide } from './side-by-side';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatExpansionPanel, MatExpansionPanelHeader } from '@angular/material/expansion';
import { MatFormField } from '@angular/material/form-field';
import { MatOption, MatSelect } from '@angular/material/select';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatProgressBar } from '@angular/material/progress-bar';
import { Pick } from '../parts/pick';

/** What is done with the open package. */
type Work = 'inside' | 'tidy' | 're-date' | 'split' | 'beside';

/** Packages without a platform: look inside, convert, take away, keep. Nothing is sent before a copy is to be kept. */
@Component({
  selector: 'tn-bench',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseView,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatExpansionPanel,
    MatExpansionPanelHeader,
    MatFormField,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatOption,
    MatProgressBar,
    MatSelect,
    Pick,
    RedateView,
    RouterLink,
    Shelf,
    SideBySide,
    SizePipe,
    SplitView,
    TidyView,
  ],
  providers: [BenchService, ReshapingService],
  templateUrl: './bench.html',
  styleUrl: './bench.scss',
})
export class BenchPage {
  private readonly dialog = inject(MatDialog);
  private readonly keeping = inject(KeepingService);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly inHand = inject(ArchiveInHand).source;
  /** A kept copy to look into. */
  readonly copy = input<number | undefined, unknown>(undefined, { transform: (v) => (v ? Number(v) : undefined) });
  /** Another kept copy, to be held beside it. */
  readonly beside = input<number | undefined, unknown>(undefined, { transform: (v) => (v ? Number(v) : undefined) });
  /** The item of it to be shown first. */
  readonly item = input<string>();
  protected readonly service = inject(BenchService);
  protected readonly count = count;
  protected readonly over = signal(false);
  protected readonly dropped = signal<readonly Dropped[]>([]);
  /** Key of what is open; none while many lie on the Bench and none was chosen. */
  private readonly at = signal<string | null>(null);
  protected readonly open = computed(() => this.dropped().find((d) => d.key === this.at()) ?? null);
  private readonly first = signal<Opened | null>(null);
  /** At first what the directory and the definitions say, then what every file says. */
  protected readonly opened = computed(() => (this.first() ? (this.service.surveyed() ?? this.first()) : null));
  protected readonly refusal = signal<Problem | null>(null);
  protected readonly busy = signal('');
  protected readonly about = computed(() => {
    const opened = this.opened();
    return opened ? `, ${opened.label}, ${count(opened.inventory.items, 'item')}` : '';
  });
  protected readonly showLosses = signal(false);
  /** What was put on the Bench last, with what is not whole in it. */
  protected readonly made = signal<readonly { name: string; losses: readonly Loss[] }[]>([]);
  /** The format to convert to; the first that is offered until a person chooses. */
  protected readonly to = linkedSignal(() => this.opened()?.targets[0]?.id ?? '');
  protected readonly target = computed(() => this.opened()?.targets.find((t) => t.id === this.to()) ?? null);
  protected readonly kept = computed((): Keeping | null => this.keeping.all().get(this.at() ?? '') ?? null);
  protected readonly unkept = computed(() => this.dropped().filter((d) => d.glance && !this.keeping.all().has(d.key)));
  protected readonly headline = computed(() => {
    const many = this.dropped();
    if (this.opened()) return this.opened()?.course.title;
    if (many.length < 2) return 'Bench';
    const refused = many.filter((d) => d.refusal).length;
    return `${count(many.length, 'file')}${refused > 0 ? `, ${refused} can't be read` : ''}`;
  });
  protected readonly shows = signal<Work>('inside');
  protected readonly reshaping = inject(ReshapingService);
  protected readonly compared = signal<{ name: string; answer: Compared } | null>(null);
  /** The newest kept copies, and those of a course of this title whenever they were kept. */
  protected readonly copies = rxResource({
    params: () => this.opened()?.course.title ?? '',
    stream: ({ params: title }) => {
      const newest = this.api.copies({ sort: '-kept', limit: 40 });
      const like = this.api.copies({ words: title.slice(0, 200), limit: 40 });
      return forkJoin([newest, ...(title === '' ? [] : [like])]).pipe(
        map((pages) => [...new Map(pages.flatMap(({ rows }) => rows).map((c) => [c.id, c])).values()]),
      );
    },
  });
  /** What the open package can be held beside: what lies on the Bench too, and kept copies, those of the course first. */
  protected readonly others = computed(() => {
    const title = this.opened()?.course.title;
    const dropped = this.dropped()
      .filter((d) => d.key !== this.at())
      .map((d) => ({ key: d.key, name: d.source.name, source: d.source }));
    const copies = this.copies.hasValue() ? this.copies.value() : [];
    const kept = copies
      .filter((c) => !c.removed)
      .sort((a, b) => Number(b.title === title) - Number(a.title === title))
      .map((c) => ({
        key: `copy ${c.id}`,
        name: `kept: ${c.fileName}, ${copyWords(c)}`,
        source: sourceOfCopy(c),
      }));
    return [...dropped, ...kept].slice(0, 40);
  });
  protected readonly instances = rxResource({ stream: () => this.api.instances() });
  /** Where courses can be delivered: what they can't bear is found too. */
  protected readonly destinations = computed(() =>
    this.instances.hasValue() ? this.instances.value().filter((i) => i.takes) : [],
  );
  /** Identifier of the destination that is looked from; empty for none. */
  protected readonly destination = signal('');
  protected readonly totalSize = computed(() => readableSize(this.dropped().reduce((s, d) => s + d.source.size, 0)));

  /** What Treenail can't read yet may be described. */
  protected readonly describable = computed(() => UNREAD.has(this.refusal()?.code ?? ''));
  /** The settings did not come: files are read all the same, and it is said. */
  protected readonly bare = signal(false);
  private readonly descriptions = firstValueFrom(
    this.api.descriptions().pipe(
      map((all) => all.filter((d) => d.inUse).map((d) => d.text)),
      catchError(() => this.without<string[]>([])),
    ),
  );

  private readonly settings = firstValueFrom(
    this.api.findingSettings().pipe(catchError(() => this.without(FINDING_SETTINGS))),
  );

  private without<T>(instead: T): Observable<T> {
    this.bare.set(true);
    return of(instead);
  }

  protected describe(): void {
    const one = this.open();
    this.inHand.set(one?.source ?? null);
    void this.router.navigate(['/bench/describe']);
  }

  constructor() {
    effect(() => {
      const id = this.copy();
      if (id === undefined) return;
      const other = this.beside();
      const ids = [id, ...(other === undefined ? [] : [other])];
      forkJoin(ids.map((each) => this.api.copyToLookInto(each))).subscribe({
        next: (copies) => void this.takeCopies(copies),
        error: (error: unknown) =>
          this.refusal.set({ code: 'copy', message: wordsOf(error), action: 'Go back to the strongroom.' }),
      });
    });
  }

  protected drop(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    if (event.dataTransfer) void sourcesOfDrop(event.dataTransfer).then((sources) => this.take(sources));
  }

  protected pick(files: readonly File[]): void {
    void this.take(sourcesOfInput(files));
  }

  protected turnTo(view: Work): void {
    this.shows.set(view);
    if (view === 'tidy') void this.tidy();
    else if (view === 're-date') void this.redate();
    else if (view === 'split') void this.cut();
  }

  /** What the house has set: where that does not come, packages are looked at without it, and it is said. */
  private house(): Promise<HouseCalendar> {
    return this.reshaping.house().catch(() => {
      this.bare.set(true);
      return { terms: [], closed: [], zone: 'UTC' };
    });
  }

  private redate(): Promise<void> {
    return this.during('Looking for dates', async () => this.reshaping.lookForDates(await this.house()));
  }

  private cut(): Promise<void> {
    return this.during('Looking where it could be cut', async () => this.reshaping.lookForCuts(await this.house()));
  }

  protected async splitBy(plan: SplitPlan): Promise<void> {
    const target = this.target();
    if (!target) return;
    await this.during(`Splitting into ${plan.parts.length}`, async () =>
      this.put(await this.reshaping.split(plan, target.id)),
    );
  }

  protected pickToJoin(files: readonly File[]): void {
    const [source] = sourcesOfInput(files);
    if (source) void this.joinWith(source);
  }

  protected async joinWith(source: Source): Promise<void> {
    const [course, target] = [this.opened()?.course, this.target()];
    if (!course || !target) return;
    let common: Common | null = null;
    await this.during(`Looking at ${source.name}`, async () => {
      common = await this.reshaping.common(source);
    });
    const plan = common && (await this.askToJoin(course, common));
    if (!plan) return;
    await this.during(`Joining with ${source.name}`, async () =>
      this.put([await this.reshaping.join(plan, target.id)]),
    );
  }

  private askToJoin({ title, items }: Course, common: Common): Promise<JoinPlan | undefined> {
    const first = { title, items: items.length };
    const data: JoinDialogData = { first, second: common, doubles: common.doubles };
    const sized = { width: '720px', maxWidth: '92vw' };
    const opened = this.dialog.open<JoinDialog, JoinDialogData, JoinPlan>(JoinDialog, { data, ...sized });
    return firstValueFrom(opened.afterClosed());
  }

  /** What was made lies on the Bench beside what it was made of: from here it is looked into, kept, moved. */
  private put(made: readonly Converted[]): void {
    const fresh = made.map(({ blob, fileName }): Dropped => {
      const file = new File([blob], fileName.replace(/[\\/:*?"<>|]/g, '-'));
      const source: Source = { name: file.name, size: file.size, file };
      return { key: keyOf(source), source, glance: null, refusal: null };
    });
    this.dropped.update((all) => [...all, ...fresh]);
    this.made.set(made.map(({ fileName, losses }) => ({ name: fileName, losses })));
    this.close();
    void this.glanceAll();
  }

  /** A kept copy, and beside it another where there are two. */
  private async takeCopies(copies: readonly CopySummary[]): Promise<void> {
    const [first, second] = copies.map(sourceOfCopy);
    if (first) await this.take([first]);
    if (second && this.opened()) await this.compareWith(second);
  }

  /** Puts what was dropped on the Bench in place of what was there: one is opened, many are looked at one by one. */
  private async take(sources: readonly Source[]): Promise<void> {
    if (sources.length === 0) return;
    this.close();
    this.service.described = await this.descriptions;
    this.service.settings = await this.settings;
    const dropped = sources.map((source) => ({ key: keyOf(source), source, glance: null, refusal: null }));
    this.dropped.set(dropped);
    this.made.set([]);
    const [only] = dropped;
    if (only && dropped.length === 1) return this.show(only);
    await this.glanceAll();
  }

  /** Looks once at each that lies here and was not looked at. */
  private async glanceAll(): Promise<void> {
    for (const { key, source } of this.dropped().filter((d) => !d.glance && !d.refusal)) {
      // Something else was dropped meanwhile.
      if (!this.dropped().some((d) => d.key === key)) return;
      const found = await this.service.glance(source).then(
        (glance) => ({ glance }),
        (error: unknown) => ({ refusal: problemOf(error) }),
      );
      this.dropped.update((all) => all.map((d) => (d.key === key ? { ...d, ...found } : d)));
    }
  }

  protected async show(one: Dropped): Promise<void> {
    this.at.set(one.key);
    this.first.set(null);
    this.showLosses.set(false);
    this.shows.set('inside');
    this.destination.set('');
    this.compared.set(null);
    this.made.set([]);
    this.reshaping.begin();
    await this.during('Reading', async () => this.first.set(await this.service.open(one.source)));
  }

  protected async tidy(): Promise<void> {
    this.shows.set('tidy');
    await this.during('Looking for what to decide', () => this.service.tidy());
  }

  protected async destine(id: string): Promise<void> {
    this.destination.set(id);
    const name = this.destinations().find((d) => String(d.id) === id)?.name ?? 'no destination';
    await this.during(`Looking at it from ${name}`, async () => {
      const answer = id === '' ? null : await firstValueFrom(this.api.profile(Number(id)).pipe(catchError(asRefusal)));
      await firstValueFrom(this.service.destine(answer?.profile ?? null));
    });
  }

  protected pickOther(files: readonly File[]): void {
    const [source] = sourcesOfInput(files);
    if (source) void this.compareWith(source);
  }

  protected async compareWith(source: Source): Promise<void> {
    await this.during(`Comparing with ${source.name}`, async () => {
      this.compared.set({ name: source.name, answer: await this.service.compare(source) });
      this.shows.set('beside');
    });
  }

  /** Back to the list of many. */
  protected close(): void {
    this.at.set(null);
    this.first.set(null);
    this.refusal.set(null);
  }

  protected askToKeep(): void {
    const one = this.open();
    const opened = this.opened();
    if (!one || !opened?.blob) return;
    const { blob } = opened;
    const fileName = fileNameOf(one.source);
    const data = { fileName, guess: namedOf(fileName, opened.course) };
    this.dialog
      .open<KeepDialog, KeepDialogData, Named>(KeepDialog, { data, width: '520px' })
      .afterClosed()
      .subscribe((named) => {
        if (named) this.keep(one, blob, named);
      });
  }

  protected keepAll(): void {
    for (const one of this.unkept()) {
      if (one.glance?.blob) this.keep(one, one.glance.blob, guessNamed(fileNameOf(one.source), one.glance.title));
    }
  }

  private keep(one: Dropped, blob: Blob, named: Named): void {
    this.keeping.keep(one.key, blob, { fileName: fileNameOf(one.source), ...named }, 'file' in one.source);
  }

  protected async convert(target: string, label: string): Promise<void> {
    await this.during(`Converting to ${label}`, async () => {
      const { blob, fileName, losses } = await this.service.convert(target);
      give(blob, fileName);
      this.made.set([{ name: fileName, losses }]);
    });
  }

  private async during(words: string, work: () => Promise<void>): Promise<void> {
    this.busy.set(words);
    this.refusal.set(null);
    try {
      await work();
    } catch (error) {
      this.refusal.set(problemOf(error));
    } finally {
      this.busy.set('');
    }
  }
}

/** Refusals of what is no package of a known kind, though it may well be one of another. */
const UNREAD: ReadonlySet<string> = new Set(['no-manifest', 'not-a-package', 'not-a-zip']);

function asRefusal(error: unknown): Observable<never> {
  return throwError(
    () => new Refusal({ code: 'destination', message: wordsOf(error), action: 'Choose another destination.' }),
  );
}

function problemOf(error: unknown): Problem {
  if (error instanceof Refusal) return error.problem;
  // Nobody foresaw it: it is told as such, and goes where errors of the page go.
  reportError(error);
  return { code: 'unforeseen', message: wordsOf(error), action: '' };
}
