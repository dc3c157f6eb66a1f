import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  inject,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatChipListbox, MatChipOption } from '@angular/material/chips';
import { MatDialog } from '@angular/material/dialog';
import { MatFormField } from '@angular/material/form-field';
import { MatIcon } from '@angular/material/icon';
import { MatInput } from '@angular/material/input';
import { MatOption, MatSelect } from '@angular/material/select';
import { Router, RouterLink } from '@angular/router';
import {
  STEP_NAMES,
  type CourseFilter,
  type CourseSummary,
  type InstanceSummary,
  type Lack,
  type SavedFilterSummary,
} from '@treenail/server/contract';
import { auditTime, filter, interval, map, takeWhile, type Observable } from 'rxjs';
import { count, courseName, readableSize } from '@treenail/core';
import { Api, wordsOf } from '../data/api';
import { JobsService } from '../data/jobs';
import { Awaited, lastOf } from '../parts/awaited';
import { List, ListCell, inAddress, type ListColumn, type ListKey, type ListSource } from '../parts/list';
import { Undo } from '../parts/undo';
import { CourseNamePipe, WhenPipe } from '../parts/words';
import { FetchDialog, type FetchDialogData } from './fetch-dialog';
import { MoveStarter } from './start-move';

const LACKS: { id: Lack; name: string }[] = [
  { id: 'no copy', name: 'no kept copy' },
  { id: 'old copy', name: 'copy older than the course' },
  { id: 'cut-off', name: 'cut-off ahead' },
];
const SOON_MS = 60 * 86_400_000;

function isLacking(course: CourseSummary, what: Lack): boolean {
  const { instance, newestCopy, changedAt, cutOff } = course;
  if (!instance.gives) return false;
  if (what === 'no copy') return newestCopy === null;
  if (what === 'old copy') return newestCopy !== null && newestCopy.keptAt < changedAt;
  return cutOff !== null && Date.parse(cutOff.at) - Date.now() < SOON_MS;
}

/** The register of all courses on the connected instances. */
@Component({
  selector: 'tn-courses',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseNamePipe,
    List,
    ListCell,
    MatButton,
    MatChipListbox,
    MatChipOption,
    MatFormField,
    MatIcon,
    MatIconButton,
    MatInput,
    MatOption,
    MatSelect,
    RouterLink,
    WhenPipe,
  ],
  templateUrl: './courses.html',
  styleUrls: ['../parts/list/list-screen.scss', './courses.scss'],
})
export class CoursesPage {
  private readonly api = inject(Api);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);
  private readonly starter = inject(MoveStarter);
  private readonly back = inject(Undo);
  private readonly screen = inject(DestroyRef);
  protected readonly steps: Record<string, string> = STEP_NAMES;
  private readonly when = new WhenPipe();
  private readonly register = viewChild<List<CourseSummary>>(List);
  /** Identifier of an instance; '' is any. */
  protected readonly instance = inAddress('instance');
  /** One of `LACKS`; '' is none. */
  protected readonly lacking = inAddress('lacks');
  protected readonly chosen = signal<ReadonlySet<ListKey>>(new Set());
  protected readonly naming = signal(false);
  protected readonly filterList = rxResource({ stream: () => this.api.filters() });
  protected readonly saved = linkedSignal<SavedFilterSummary[]>(() =>
    this.filterList.hasValue() ? this.filterList.value() : [],
  );
  protected readonly error = signal('');
  protected readonly count = count;
  protected readonly columns: readonly ListColumn<CourseSummary>[] = [
    { id: 'course', name: 'Course', width: 106, value: courseName, foot: 'told' },
    { id: 'title', name: 'Title', value: (c) => c.title },
    { id: 'term', name: 'Term', width: 108, value: (c) => c.term },
    { id: 'instance', name: 'On', width: 142, value: (c) => c.instance.name },
    { id: 'owner', name: 'Owner', width: 170, value: (c) => c.owner, aside: true },
    {
      id: 'size',
      name: 'Size',
      width: 74,
      is: 'number',
      downFirst: true,
      value: (c) => c.size,
      words: (c) => readableSize(c.size),
      foot: 'told',
    },
    {
      id: 'changed',
      name: 'Changed',
      width: 104,
      is: 'date',
      downFirst: true,
      value: (c) => c.changedAt,
      words: (c) => this.when.transform(c.changedAt, 'day'),
    },
    {
      id: 'copy',
      name: 'Newest kept copy',
      width: 226,
      is: 'date',
      downFirst: true,
      value: (c) => c.newestCopy?.keptAt ?? null,
      words: (c) => (c.newestCopy ? this.when.transform(c.newestCopy.keptAt) : ''),
    },
    {
      id: 'lacks',
      name: 'Lacks',
      width: 190,
      aside: true,
      value: (c) =>
        LACKS.filter(({ id }) => isLacking(c, id))
          .map(({ name }) => name)
          .join(', '),
    },
    {
      id: 'gone',
      name: 'Gone after',
      is: 'date',
      width: 112,
      aside: true,
      value: (c) => c.cutOff?.at ?? null,
      words: (c) => (c.cutOff ? this.when.transform(c.cutOff.at, 'day') : ''),
    },
  ];
  protected readonly idOf = (c: CourseSummary) => c.id;
  protected readonly nameOf = courseName;
  protected readonly whole = rxResource({ stream: () => this.api.register() });
  /** What was told of the register as a whole last. */
  private readonly sums = lastOf(this.whole);
  protected readonly pages = computed((): ListSource<CourseSummary> => {
    const instance = this.instance() === '' ? undefined : Number(this.instance());
    const lacks = LACKS.find((l) => l.id === this.lacking())?.id;
    return (asked) =>
      this.api.courses({ ...asked, instance, lacks }).pipe(
        map(({ rows, total, sums }) => {
          return { rows, total, foot: { course: count(total, 'course'), size: readableSize(sums.size) } };
        }),
      );
  });
  protected readonly instanceList = rxResource({ stream: () => this.api.instances() });
  private readonly listedInstances = lastOf(this.instanceList);
  private readonly allInstances = computed((): InstanceSummary[] => this.listedInstances() ?? []);
  protected readonly instances = computed(() => this.allInstances().filter((i) => i.fetches || i.takes));
  /** What the list can be narrowed to: files only where a course is known from one. */
  protected readonly origins = computed(() =>
    this.allInstances().filter((i) => i.fetches || i.takes || this.sums()?.on.includes(i.id)),
  );
  protected readonly known = computed(() => this.sums() !== null);
  protected readonly all = computed(() => this.sums()?.courses ?? 0);
  /** Nothing is connected that courses could come from. */
  protected readonly bare = computed(() => this.listedInstances() !== null && this.instances().length === 0);
  /** How many lack what; a cut-off counts once it is within sixty days. */
  protected readonly lacks = computed(() =>
    LACKS.map(({ id, name }) => ({ id, name, count: this.sums()?.lacks[id] ?? 0 })),
  );
  protected readonly unprotected = computed(() => this.sums()?.lacks['no copy'] ?? 0);
  protected readonly headline = computed(() => {
    if (!this.known()) return 'Courses';
    const bare = this.unprotected() > 0 ? `, ${this.unprotected()} with no kept copy` : '';
    return `${count(this.all(), 'course')} on ${count(this.instances().length, 'instance')}${bare}`;
  });
  protected readonly troubled = computed(() => this.instances().filter((i) => i.trouble !== null));
  protected readonly freshness = computed(() => {
    const times = this.instances().flatMap((i) => i.listedAt ?? []);
    if (times.length < this.instances().length) return 'the instances are being listed';
    const oldest = times.sort()[0];
    return oldest === undefined
      ? ''
      : `listed ${this.when.transform(oldest, 'long')} or later, and anew every five minutes`;
  });
  /** Whether every instance has been listed, as far as is known here. */
  private readonly listed = computed(
    () => this.instances().length > 0 && this.instances().every((i) => i.listedAt !== null) && this.all() > 0,
  );

  constructor() {
    inject(JobsService)
      .changed$.pipe(
        filter((job) => job.state === 'done' || job.state === 'failed' || job.kind === 'fetch'),
        auditTime(500),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.refreshed());
    // On the very first start the register is still being listed.
    interval(1000)
      .pipe(
        takeUntilDestroyed(),
        takeWhile(() => !this.listed() && !this.bare()),
      )
      .subscribe(() => {
        this.refreshed();
        this.instanceList.reload();
      });
  }

  protected filtered(): boolean {
    return (this.register()?.words() ?? '') !== '' || this.instance() !== '' || this.lacking() !== '';
  }

  protected apply({ words, instance, lacks }: CourseFilter): void {
    this.register()?.words.set(words);
    this.instance.set(String(instance ?? ''));
    this.lacking.set(lacks ?? '');
  }

  protected save(name: string): void {
    this.naming.set(false);
    if (name.trim() === '') return;
    const filter: CourseFilter = {
      words: this.register()?.words() ?? '',
      instance: this.instance() === '' ? null : Number(this.instance()),
      lacks: LACKS.find((l) => l.id === this.lacking())?.id ?? null,
    };
    this.tell(this.api.saveFilter({ name, filter }), (all) => this.saved.set(all));
  }

  protected forget(filter: SavedFilterSummary): void {
    this.tell(this.api.removeFilter(filter.id), (all) => {
      this.saved.set(all);
      this.back.offer(this.screen, `The filter “${filter.name}” is forgotten`, () =>
        this.tell(this.api.saveFilter({ name: filter.name, filter: filter.filter }), (kept) => this.saved.set(kept)),
      );
    });
  }

  private tell<T>(work: Observable<T>, done: (answer: T) => void): void {
    this.error.set('');
    work.subscribe({ next: done, error: (error: unknown) => this.error.set(wordsOf(error)) });
  }

  protected readonly fetchable = computed(() =>
    (this.register()?.chosenRows() ?? []).filter((c) => c.instance.fetches),
  );
  protected fetch(courses: readonly CourseSummary[]): void {
    this.dialog
      .open<FetchDialog, FetchDialogData, number>(FetchDialog, { data: { courses }, width: '620px' })
      .afterClosed()
      .subscribe((started) => {
        if (started === undefined) return;
        this.chosen.set(new Set());
        this.refreshed();
      });
  }

  protected retry(jobId: number): void {
    this.tell(this.api.retryJob(jobId), () => this.refreshed());
  }

  /** What is seen is asked for anew. */
  private refreshed(): void {
    this.register()?.refresh();
    this.whole.reload();
  }

  protected refresh(): void {
    this.api.refreshCourses().subscribe({
      next: () => {
        interval(700)
          .pipe(takeWhile((n) => n < 4))
          .subscribe(() => {
            this.refreshed();
            this.instanceList.reload();
          });
      },
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }

  protected start(course: CourseSummary): void {
    this.starter.open(course, this.instances());
  }

  protected open(course: CourseSummary): void {
    if (course.move) void this.router.navigate(['/moves', course.move.id]);
    else if (course.instance.gives) this.start(course);
  }
}
