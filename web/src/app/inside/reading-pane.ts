import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { DomSanitizer, type SafeResourceUrl } from '@angular/platform-browser';
import {
  KIND_LABELS,
  SETTING_LABELS,
  baseName,
  count,
  mediaTypeOf,
  type Course,
  type Item,
  type SettingValue,
} from '@treenail/core';
import type { RelationsAnswer } from '@treenail/server/contract';
import { EMPTY } from 'rxjs';
import { wordsOf } from '../data/api';
import { SizePipe, WhenPipe } from '../parts/words';
import { PdfView } from './pdf-view';
import { Player } from './player';
import { sizesOf } from './rows';
import type { InsideSource } from './source';

/** One item as people read it: its page, its questions, its file; its settings in words; what points at it. */
@Component({
  selector: 'tn-reading-pane',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, PdfView, Player, SizePipe],
  templateUrl: './reading-pane.html',
  styleUrl: './reading-pane.scss',
})
export class ReadingPane {
  private readonly sanitizer = inject(DomSanitizer);
  readonly item = input.required<Item>();
  readonly course = input.required<Course>();
  readonly source = input.required<InsideSource>();
  readonly relations = input.required<RelationsAnswer | null>();
  /** What was searched for, to be marked. */
  readonly question = input('');
  readonly chosen = output<string>();
  protected readonly kinds = KIND_LABELS;
  protected readonly count = count;
  protected readonly learner = signal(false);
  protected readonly size = computed(() => sizesOf(this.course()).get(this.item().id) ?? 0);
  private readonly shown = rxResource({
    params: () => ({ item: this.item(), source: this.source(), learner: this.learner(), question: this.question() }),
    stream: ({ params: { item, source, learner, question } }) =>
      source ? source.preview(item, { learner, question }) : EMPTY,
  });
  protected readonly failure = computed(() => (this.shown.error() ? wordsOf(this.shown.error()) : ''));
  protected readonly view = computed(() => (this.shown.hasValue() ? this.shown.value() : null));
  protected readonly isPdf = computed(() => {
    const item = this.item();
    return item.kind === 'file' && mediaTypeOf(item.file) === 'application/pdf';
  });
  /** Shown in a frame without any rights: nothing of it can run, load, or reach this page. */
  protected readonly frame = computed(() => {
    const view = this.view();
    return view?.form === 'page' ? this.sanitizer.bypassSecurityTrustHtml(view.html) : null;
  });
  protected readonly playing = linkedSignal<Item, SafeResourceUrl | null>({
    source: this.item,
    computation: () => null,
  });
  protected readonly playable = computed(() => this.source().playAt(this.item()) !== null);
  protected readonly settings = computed(() => {
    const titles = new Map(this.course().items.map((i) => [i.id, `“${i.title}”`]));
    return Object.entries(this.item().settings).map(([name, value]) => ({
      name: (SETTING_LABELS as Record<string, string>)[name] ?? name,
      value: REFERS.has(name) ? withTitles(valueWords(value), titles) : valueWords(value),
    }));
  });
  protected readonly related = computed(() => {
    const all = this.relations();
    const id = this.item().id;
    return [
      { title: 'Points at', list: all?.pointsAt[id] ?? [] },
      { title: 'Pointed at by', list: all?.pointedAtBy[id] ?? [] },
    ].filter((r) => r.list.length > 0);
  });

  protected play(): void {
    this.source()
      .playAt(this.item())
      ?.subscribe((address) => this.playing.set(this.sanitizer.bypassSecurityTrustResourceUrl(address)));
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

export function valueWords(value: SettingValue): string {
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
