import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { Refusal, type Problem, count } from '@treenail/core';
import { CourseView } from '../parts/course-view';
import { SizePipe } from '../parts/words';
import { BenchService } from './bench.service';
import type { Opened } from './messages';

/** A package without a platform: look inside, convert, take it away. Nothing is uploaded. */
@Component({
  selector: 'tn-bench',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CourseView, MatButton, SizePipe],
  providers: [BenchService],
  templateUrl: './bench.html',
  styleUrl: './bench.scss',
})
export class BenchPage {
  protected readonly service = inject(BenchService);
  protected readonly count = count;
  protected readonly over = signal(false);
  protected readonly file = signal<File | null>(null);
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
  /** The format to convert to; the first that is offered until a person chooses. */
  protected readonly to = linkedSignal(() => this.opened()?.targets[0]?.id ?? '');
  protected readonly target = computed(() => this.opened()?.targets.find((t) => t.id === this.to()) ?? null);

  protected drop(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    const file = event.dataTransfer?.files[0];
    if (file) void this.open(file);
  }

  protected pick(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    if (file) void this.open(file);
    input.value = '';
  }

  protected choose(event: Event): void {
    this.to.set((event.target as HTMLSelectElement).value);
  }

  private async open(file: File): Promise<void> {
    this.file.set(file);
    this.first.set(null);
    this.showLosses.set(false);
    await this.during('Reading', async () => this.first.set(await this.service.open(file)));
  }

  protected async convert(target: string, label: string): Promise<void> {
    await this.during(`Converting to ${label}`, async () => {
      const { blob, fileName } = await this.service.convert(target);
      const url = URL.createObjectURL(blob);
      const link = document.createElement('a');
      link.href = url;
      link.download = fileName;
      link.click();
      URL.revokeObjectURL(url);
    });
  }

  private async during(words: string, work: () => Promise<void>): Promise<void> {
    this.busy.set(words);
    this.refusal.set(null);
    try {
      await work();
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      this.refusal.set(error.problem);
    } finally {
      this.busy.set('');
    }
  }
}
