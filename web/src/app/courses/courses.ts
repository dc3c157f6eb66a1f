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
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { Router, RouterLink } from '@angular/router';
import type { CourseFilter, CourseSummary, InstanceSummary, SavedFilterSummary } from '@treenail/server/contract';
import { auditTime, filter, interval, takeWhile, type Observable } from 'rxjs';
import { count, courseName } from '@treenail/core';
import { ADDRESSES, Api, wordsOf } from '../data/api';
import { JobsService } from '../data/jobs';
import { Awaited, lastOf } from '../parts/awaited';
import { CourseNamePipe, SizePipe, WhenPipe } from '../parts/words';
import { FetchDialog, type FetchDialogData } from './fetch-dialog';
import { STEP_NAMES } from '../moves/step-names';
import { MoveStarter } from './start-move';

type Column = 'code' | 'term' | 'title' | 'instance' | 'size' | 'changedAt' | 'copy';

const VALUES: Record<Column, (c: CourseSummary) => string | number> = {
  code: (c) => courseName(c),
  term: (c) => c.term,
  title: (c) => c.title.toLowerCase(),
  instance: (c) => c.instance.name,
  size: (c) => c.size,
  changedAt: (c) => c.changedAt,
  copy: (c) => c.newestCopy?.keptAt ?? '',
};

const LACKS: { id: NonNullable<CourseFilter['lacks']>; name: string }[] = [
  { id: 'no copy', name: 'no kept copy' },
  { id: 'old copy', name: 'copy older than the course' },
  { id: 'cut-off', name: 'cut-off ahead' },
];
const SOON_MS = 60 * 86_400_000;

function isLacking(course: CourseSummary, what: NonNullable<CourseFilter['lacks']>): boolean {
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
  imports: [Awaited, CourseNamePipe, MatButton, RouterLink, SizePipe, WhenPipe],
  templateUrl: './courses.html',
  styleUrl: './courses.scss',
  host: { '(document:keydown)': 'key($event)' },
})
export class CoursesPage {
  private readonly api = inject(Api);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);
  private readonly starter = inject(MoveStarter);
  protected readonly steps: Record<string, string> = STEP_NAMES;
  private readonly when = new WhenPipe();
  readonly find = input<string>();
  protected readonly words = linkedSignal(() => this.find() ?? '');
  protected readonly instance = signal<number | null>(null);
  protected readonly lacking = signal<CourseFilter['lacks']>(null);
  protected readonly chosen = signal<ReadonlySet<number>>(new Set());
  protected readonly naming = signal(false);
  protected readonly filterList = rxResource({ stream: () => this.api.filters() });
  protected readonly saved = linkedSignal<SavedFilterSummary[]>(() =>
    this.filterList.hasValue() ? this.filterList.value() : [],
  );
  protected readonly sort = signal<{ by: Column; down: boolean }>({ by: 'code', down: false });
  protected readonly at = signal(-1);
  protected readonly error = signal('');
  protected readonly count = count;
  protected readonly columns: { by: Column; name: string; num?: boolean }[] = [
    { by: 'code', name: 'Course' },
    { by: 'title', name: 'Title' },
    { by: 'term', name: 'Term' },
    { by: 'instance', name: 'On' },
    { by: 'size', name: 'Size', num: true },
    { by: 'changedAt', name: 'Changed' },
    { by: 'copy', name: 'Newest kept copy' },
  ];
  protected readonly loaded = rxResource({ stream: () => this.api.courses() });
  protected readonly instanceList = rxResource({ stream: () => this.api.instances() });
  private readonly list = lastOf(this.loaded);
  protected readonly courses = computed(() => this.list() ?? []);
  private readonly listedInstances = lastOf(this.instanceList);
  private readonly allInstances = computed((): InstanceSummary[] => this.listedInstances() ?? []);
  protected readonly instances = computed(() => this.allInstances().filter((i) => i.fetches || i.takes));
  /** What the list can be narrowed to: files only where a course is known from one. */
  protected readonly origins = computed(() =>
    this.allInstances().filter((i) => i.fetches || i.takes || this.courses().some((c) => c.instance.id === i.id)),
  );
  protected readonly known = computed(() => this.list() !== null);
  /** Nothing is connected that courses could come from. */
  protected readonly bare = computed(() => this.listedInstances() !== null && this.instances().length === 0);
  /** How many lack what; a cut-off counts once it is within sixty days. */
  protected readonly lacks = computed(() =>
    LACKS.map(({ id, name }) => ({ id, name, count: this.courses().filter((c) => isLacking(c, id)).length })),
  );
  protected readonly unprotected = computed(() => this.courses().filter((c) => isLacking(c, 'no copy')).length);
  protected readonly headline = computed(() => {
    if (!this.known()) return 'Courses';
    const bare = this.unprotected() > 0 ? `, ${this.unprotected()} with no kept copy` : '';
    return `${count(this.courses().length, 'course')} on ${count(this.instances().length, 'instance')}${bare}`;
  });
  protected readonly shown = computed(() => {
    const words = this.words().toLowerCase().split(/\s+/).filter(Boolean);
    const [instance, lacking] = [this.instance(), this.lacking()];
    const { by, down } = this.sort();
    const value = VALUES[by];
    return this.courses()
      .filter((c) => instance === null || c.instance.id === instance)
      .filter((c) => lacking === null || isLacking(c, lacking))
      .filter((c) => {
        const text = `${courseName(c)} ${c.code} ${c.title} ${c.term} ${c.owner} ${c.instance.name}`.toLowerCase();
        return words.every((w) => text.includes(w));
      })
      .sort((a, b) => {
        const [x, y] = [value(a), value(b)];
        return (x < y ? -1 : x > y ? 1 : 0) * (down ? -1 : 1);
      });
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
    () =>
      this.instances().length > 0 && this.instances().every((i) => i.listedAt !== null) && this.courses().length > 0,
  );
  protected readonly totalSize = computed(() => this.shown().reduce((sum, c) => sum + c.size, 0));

  constructor() {
    inject(JobsService)
      .changed$.pipe(
        filter((job) => job.state === 'done' || job.state === 'failed' || job.kind === 'fetch'),
        auditTime(500),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.loaded.reload());
    // On the very first start the register is still being listed.
    interval(1000)
      .pipe(
        takeUntilDestroyed(),
        takeWhile(() => !this.listed() && !this.bare()),
      )
      .subscribe(() => {
        this.loaded.reload();
        this.instanceList.reload();
      });
    effect(() => {
      if (this.at() >= this.shown().length) this.at.set(this.shown().length - 1);
    });
  }

  protected sortBy(by: Column): void {
    this.sort.update((s) => ({
      by,
      down: s.by === by ? !s.down : by === 'size' || by === 'changedAt' || by === 'copy',
    }));
  }

  protected filtered(): boolean {
    return this.words() !== '' || this.instance() !== null || this.lacking() !== null;
  }

  protected showAll(): void {
    this.apply({ words: '', instance: null, lacks: null });
  }

  protected apply({ words, instance, lacks }: CourseFilter): void {
    this.words.set(words);
    this.instance.set(instance);
    this.lacking.set(lacks);
  }

  protected save(name: string): void {
    this.naming.set(false);
    if (name.trim() === '') return;
    const filter = { words: this.words(), instance: this.instance(), lacks: this.lacking() };
    this.tell(this.api.saveFilter({ name, filter }), (all) => this.saved.set(all));
  }

  protected forget(filter: SavedFilterSummary): void {
    this.tell(this.api.removeFilter(filter.id), (all) => this.saved.set(all));
  }

  private tell<T>(work: Observable<T>, done: (answer: T) => void): void {
    this.error.set('');
    work.subscribe({ next: done, error: (error: unknown) => this.error.set(wordsOf(error)) });
  }

  protected readonly fetchable = computed(() =>
    this.courses().filter((c) => this.chosen().has(c.id) && c.instance.fetches),
  );
  protected readonly allShown = computed(() => {
    const shown = this.shown();
    return shown.length > 0 && shown.every((c) => this.chosen().has(c.id));
  });

  protected choose(courses: readonly CourseSummary[], on: boolean): void {
    this.chosen.update((before) => {
      const next = new Set(before);
      for (const { id } of courses) {
        if (on) next.add(id);
        else next.delete(id);
      }
      return next;
    });
  }

  protected listLink(format: 'csv' | 'xlsx'): string {
    const ids = this.chosen().size > 0 ? [...this.chosen()] : this.filtered() ? this.shown().map((c) => c.id) : null;
    return ADDRESSES.courseSheet(format, ids ? { ids: ids.join(',') } : {});
  }

  protected fetch(courses: readonly CourseSummary[]): void {
    this.dialog
      .open<FetchDialog, FetchDialogData, number>(FetchDialog, { data: { courses }, width: '620px' })
      .afterClosed()
      .subscribe((started) => {
        if (started === undefined) return;
        this.chosen.set(new Set());
        this.loaded.reload();
      });
  }

  protected retry(jobId: number): void {
    this.tell(this.api.retryJob(jobId), () => this.loaded.reload());
  }

  protected refresh(): void {
    this.api.refreshCourses().subscribe({
      next: () => {
        interval(700)
          .pipe(takeWhile((n) => n < 4))
          .subscribe(() => {
            this.loaded.reload();
            this.instanceList.reload();
          });
      },
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }

  protected start(course: CourseSummary): void {
    this.starter.open(course, this.instances());
  }

  protected key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey || this.dialog.openDialogs.length > 0) return;
    if (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)) return;
    if (event.key === 'j') this.at.update((n) => Math.min(n + 1, this.shown().length - 1));
    else if (event.key === 'k') this.at.update((n) => Math.max(n - 1, 0));
    else if (event.key === 'x') {
      const course = this.shown()[this.at()];
      if (course) this.choose([course], !this.chosen().has(course.id));
    } else if (event.key === 'Enter' && event.target === document.body) {
      const course = this.shown()[this.at()];
      if (course?.move) void this.router.navigate(['/moves', course.move.id]);
      else if (course?.instance.gives) this.start(course);
    }
  }
}
