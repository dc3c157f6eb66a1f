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
import type { CourseSummary, InstanceSummary } from '@treenail/server/contract';
import { auditTime, filter, interval, takeWhile } from 'rxjs';
import { count, courseName } from '@treenail/core';
import { Api, wordsOf } from '../data/api';
import { JobsService } from '../data/jobs';
import { CourseNamePipe, SizePipe, WhenPipe } from '../parts/words';
import { MoveDialog, type MoveDialogData } from './move-dialog';

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

/** The register of all courses on the connected instances. */
@Component({
  selector: 'tn-courses',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CourseNamePipe, MatButton, RouterLink, SizePipe, WhenPipe],
  templateUrl: './courses.html',
  styleUrl: './courses.scss',
  host: { '(document:keydown)': 'key($event)' },
})
export class CoursesPage {
  private readonly api = inject(Api);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);
  readonly find = input<string>();
  protected readonly words = linkedSignal(() => this.find() ?? '');
  protected readonly only = signal<number | 'no copy' | null>(null);
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
  private readonly loaded = rxResource({ stream: () => this.api.courses() });
  private readonly instanceList = rxResource({ stream: () => this.api.instances() });
  protected readonly courses = computed(() => (this.loaded.hasValue() ? this.loaded.value() : []));
  private readonly allInstances = computed((): InstanceSummary[] =>
    this.instanceList.hasValue() ? this.instanceList.value() : [],
  );
  protected readonly instances = computed(() => this.allInstances().filter((i) => i.platform !== 'files'));
  /** What the list can be narrowed to: files only where a course is known from one. */
  protected readonly origins = computed(() =>
    this.allInstances().filter((i) => i.platform !== 'files' || this.courses().some((c) => c.instance.id === i.id)),
  );
  protected readonly known = computed(() => this.loaded.hasValue());
  protected readonly failure = computed(() => (this.loaded.error() ? wordsOf(this.loaded.error()) : ''));
  protected readonly unprotected = computed(
    () => this.courses().filter((c) => c.instance.gives && !c.newestCopy).length,
  );
  protected readonly headline = computed(() => {
    if (!this.known()) return 'Courses';
    const bare = this.unprotected() > 0 ? `, ${this.unprotected()} with no kept copy` : '';
    return `${count(this.courses().length, 'course')} on ${count(this.instances().length, 'instance')}${bare}`;
  });
  protected readonly shown = computed(() => {
    const words = this.words().toLowerCase().split(/\s+/).filter(Boolean);
    const only = this.only();
    const { by, down } = this.sort();
    const value = VALUES[by];
    return this.courses()
      .filter((c) =>
        only === null ? true : only === 'no copy' ? c.instance.gives && !c.newestCopy : c.instance.id === only,
      )
      .filter((c) => {
        const text = `${courseName(c)} ${c.code} ${c.title} ${c.term} ${c.owner} ${c.instance.name}`.toLowerCase();
        return words.every((w) => text.includes(w));
      })
      .sort((a, b) => {
        const [x, y] = [value(a), value(b)];
        return (x < y ? -1 : x > y ? 1 : 0) * (down ? -1 : 1);
      });
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
        filter((job) => job.state === 'done'),
        auditTime(500),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.loaded.reload());
    // On the very first start the register is still being listed.
    interval(1000)
      .pipe(
        takeUntilDestroyed(),
        takeWhile(() => !this.listed()),
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

  protected toggle(only: number | 'no copy'): void {
    this.only.update((o) => (o === only ? null : only));
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
    const destinations = this.instances().filter((i) => i.takes && i.id !== course.instance.id);
    this.dialog
      .open<MoveDialog, MoveDialogData, number>(MoveDialog, { data: { course, destinations }, width: '460px' })
      .afterClosed()
      .subscribe((moveId) => {
        if (moveId !== undefined) void this.router.navigate(['/moves', moveId]);
      });
  }

  protected key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey || this.dialog.openDialogs.length > 0) return;
    if (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)) return;
    if (event.key === 'j') this.at.update((n) => Math.min(n + 1, this.shown().length - 1));
    else if (event.key === 'k') this.at.update((n) => Math.max(n - 1, 0));
    else if (event.key === 'Enter' && event.target === document.body) {
      const course = this.shown()[this.at()];
      if (course?.move) void this.router.navigate(['/moves', course.move.id]);
      else if (course?.instance.gives) this.start(course);
    }
  }
}
