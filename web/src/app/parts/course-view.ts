import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { DomSanitizer } from '@angular/platform-browser';
import {
  KIND_LABELS,
  SETTING_LABELS,
  baseName,
  filesOf,
  subjects,
  type Course,
  type Inventory,
  type Item,
  type ItemKind,
  type Note,
  type Preview,
  type SettingValue,
  type Subject,
  count,
} from '@treenail/core';
import { EMPTY, type Observable } from 'rxjs';
import { wordsOf } from '../data/api';
import { SizePipe, WhenPipe } from './words';

/** What is in a package: counts by kind, the outline as its author built it, and a preview of what is chosen. */
@Component({
  selector: 'tn-course-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport, SizePipe],
  templateUrl: './course-view.html',
  styleUrl: './course-view.scss',
})
export class CourseView {
  private readonly sanitizer = inject(DomSanitizer);
  readonly course = input.required<Course>();
  readonly inventory = input.required<
    Omit<Inventory, 'kinds' | 'questions'> & {
      kinds: { kind: string; items: number; bytes: number }[];
      questions: { type: string; count: number }[];
    }
  >();
  readonly notes = input.required<readonly Note[]>();
  readonly preview = input.required<(item: Item) => Observable<Preview>>();
  /** Identifier of the item to open with. */
  readonly first = input<string>();
  protected readonly kinds = KIND_LABELS as Record<string, string>;
  protected readonly labels = SETTING_LABELS as Record<string, string>;
  protected readonly count = count;
  protected readonly words = signal('');
  protected readonly only = signal<string | null>(null);
  protected readonly showNotes = signal(false);
  private readonly all = computed(() => subjects(this.course()));
  protected readonly rows = computed(() => {
    const words = this.words().toLowerCase();
    const only = this.only();
    return this.all().filter((s) => s.title.toLowerCase().includes(words) && (only === null || s.kind === only));
  });
  /** Stays with its item when the same course comes again with more known of it. */
  protected readonly chosen = linkedSignal<Course, Item | null>({
    source: this.course,
    computation: (course, previous) => {
      const asked = course.items.find((i) => i.id === (previous?.value?.id ?? this.first()));
      return asked ?? this.all().find((s) => s.item?.kind === 'page')?.item ?? null;
    },
  });
  private readonly shown = rxResource({
    params: () => ({ item: this.chosen(), preview: this.preview() }),
    stream: ({ params }) => (params.item ? params.preview(params.item) : EMPTY),
  });
  protected readonly failure = computed(() => (this.shown.error() ? wordsOf(this.shown.error()) : ''));
  protected readonly view = computed(() => (this.shown.hasValue() ? this.shown.value() : null));
  /** Shown in a frame without any rights: nothing of it can run, load, or reach this page. */
  protected readonly frame = computed(() => {
    const view = this.view();
    return view?.form === 'page' ? this.sanitizer.bypassSecurityTrustHtml(view.html) : null;
  });
  protected readonly settings = computed(() => {
    const item = this.chosen();
    if (!item) return [];
    const titles = new Map(this.course().items.map((i) => [i.id, `“${i.title}”`]));
    return Object.entries(item.settings).map(([name, value]) => ({
      name: this.labels[name] ?? name,
      value: REFERS.has(name) ? withTitles(valueWords(value), titles) : valueWords(value),
    }));
  });

  /** What of students is in it, in words. */
  protected readonly personal = computed(() => {
    const found = this.course().personal;
    if (!found) return '';
    const { people, submissions, grades, posts, files } = found;
    return [
      people && count(people, 'person', 'people'),
      submissions && count(submissions, 'submission'),
      grades && count(grades, 'grade'),
      posts && count(posts, 'post'),
      files.length > 0 && count(files.length, 'file'),
    ]
      .filter(Boolean)
      .join(', ');
  });

  protected detail(subject: Subject): string {
    const { item } = subject;
    if (!item) return subject.placed ? count(subject.placed.node.children.length, 'entry', 'entries') : '';
    if (item.kind === 'quiz' || item.kind === 'bank')
      return `${KIND_LABELS[item.kind]}, ${count(item.questions.length, 'question')}`;
    return KIND_LABELS[item.kind];
  }

  protected size(item: Item): number {
    const files = new Set(filesOf(item));
    return this.course().files.reduce((sum, f) => sum + (files.has(f.path) ? f.size : 0), 0);
  }

  protected kindOf(item: Item): ItemKind {
    return item.kind;
  }

  protected toggle(kind: string): void {
    this.only.update((k) => (k === kind ? null : kind));
  }
}

/** Settings whose words name other items by their identifiers. */
const REFERS: ReadonlySet<string> = new Set([
  'visibleWhen',
  'usesRubric',
  'category',
  'gradesItem',
  'draws',
  'variants',
]);

function withTitles(words: string, titles: ReadonlyMap<string, string>): string {
  return words.replace(/[^\s,=]+/g, (word) => titles.get(word) ?? word);
}

function valueWords(value: SettingValue): string {
  if (value === true) return 'yes';
  if (Array.isArray(value)) return value.map(baseName).join(', ');
  if (typeof value === 'object') {
    return Object.entries(value)
      .map(([k, v]) => `${k}=${v}`)
      .join(', ');
  }
  if (typeof value === 'string' && /^\d{4}-\d\d-\d\dT[\d:.]+Z$/.test(value)) return WHEN.transform(value, 'long');
  return String(value)
    .replace(/<[^>]+>/g, ' ')
    .trim();
}

const WHEN = new WhenPipe();
