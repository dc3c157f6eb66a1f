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
import { KIND_LABELS, count, mediaTypeOf, type Course, type Item } from '@treenail/core';
import type { RelationsAnswer } from '@treenail/server/contract';
import { EMPTY, Observable } from 'rxjs';
import { wordsOf } from '../data/api';
import { SizePipe } from '../parts/words';
import { Facts } from './facts';
import { PdfView } from './pdf-view';
import { Player } from './player';
import { sizesOf } from './rows';
import type { InsideSource } from './source';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatExpansionModule } from '@angular/material/expansion';

/** One item as people read it: its page, its questions, its file; its settings in words; what points at it. */
@Component({
  selector: 'tn-reading-pane',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Facts, MatButton, MatButtonToggle, MatButtonToggleGroup, MatExpansionModule, PdfView, Player, SizePipe],
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
  protected readonly mended = signal(false);
  protected readonly mendable = computed(() => this.source().mendable());
  protected readonly size = computed(() => sizesOf(this.course()).get(this.item().id) ?? 0);
  private readonly shown = rxResource({
    params: () => ({
      item: this.item(),
      source: this.source(),
      view: { learner: this.learner(), question: this.question(), mended: this.mended() && this.mendable() },
    }),
    stream: ({ params: { item, source, view } }) => (source ? source.preview(item, view) : EMPTY),
  });
  /** Where a file too long for the answer is read from; let go of when another is shown. */
  private readonly long = rxResource({
    params: () => {
      const view = this.view();
      return view?.form === 'long' ? { path: view.path, as: view.as, mended: this.mended() } : null;
    },
    // Also where there is none: a resource lets go of what it has only when it takes up another.
    stream: ({ params }) =>
      new Observable<{ as: string; url: string } | null>((told) => {
        if (!params) return told.next(null);
        const { path, as, mended } = params;
        let release = () => {};
        const subscription = this.source()
          .addressOf(path, mended)
          .subscribe({
            next: (address) => {
              ({ release } = address);
              told.next({ as, url: address.url });
            },
            error: (error: unknown) => told.error(error),
          });
        return () => {
          subscription.unsubscribe();
          release();
        };
      }),
  });
  protected readonly media = computed(() => {
    const view = this.view();
    if (view?.form === 'image' || view?.form === 'audio' || view?.form === 'video') {
      return { as: view.form, url: view.dataUrl };
    }
    return view?.form === 'long' && this.long.hasValue() ? this.long.value() : null;
  });
  protected readonly failure = computed(() => {
    const error = this.shown.error() ?? this.long.error();
    return error ? wordsOf(error) : this.notPlayed();
  });
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
  private readonly notPlayed = linkedSignal<Item, string>({ source: this.item, computation: () => '' });
  protected readonly playable = computed(() => this.source().playAt(this.item()) !== null);
  protected readonly related = computed(() => {
    const all = this.relations();
    const id = this.item().id;
    return [
      { title: 'Points at', list: all?.pointsAt[id] ?? [] },
      { title: 'Pointed at by', list: all?.pointedAtBy[id] ?? [] },
    ].filter((r) => r.list.length > 0);
  });

  protected play(): void {
    this.notPlayed.set('');
    this.source()
      .playAt(this.item())
      ?.subscribe({
        next: (address) => this.playing.set(this.sanitizer.bypassSecurityTrustResourceUrl(address)),
        error: (error: unknown) => this.notPlayed.set(wordsOf(error)),
      });
  }
}
