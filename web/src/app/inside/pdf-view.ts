import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  computed,
  effect,
  input,
  signal,
  viewChild,
} from '@angular/core';
import { count } from '@treenail/core';

/** Pages that are drawn; a preview tells what a document is, it does not replace it. */
const MOST = 30;

/** A PDF drawn page by page, without scripts and forms. */
@Component({
  selector: 'tn-pdf-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p class="quiet" role="status">{{ said() }}</p>
    <div #pages tabindex="0" role="region" [attr.aria-label]="title()"></div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    p {
      margin: 0;
      padding: 4px 16px;
    }
    div {
      flex: 1;
      overflow: auto;
      padding: 0 16px 16px;
      background: var(--sunk);
    }
  `,
})
export class PdfView {
  readonly dataUrl = input.required<string>();
  readonly title = input.required<string>();
  private readonly pages = viewChild.required<ElementRef<HTMLElement>>('pages');
  private readonly count = signal<number | null>(null);
  private readonly failed = signal(false);
  protected readonly said = computed(() => {
    const pages = this.count();
    if (this.failed()) return 'The document can not be drawn here.';
    return pages === null
      ? 'Drawing the document'
      : `${count(pages, 'page')}${pages > MOST ? `, the first ${MOST} drawn` : ''}`;
  });

  constructor() {
    effect((onCleanup) => {
      const url = this.dataUrl();
      const into = this.pages().nativeElement;
      let stopped = false;
      onCleanup(() => (stopped = true));
      this.count.set(null);
      this.failed.set(false);
      draw(
        url,
        into,
        (n) => this.count.set(n),
        () => stopped,
      ).catch(() => this.failed.set(true));
    });
  }
}

async function draw(
  url: string,
  into: HTMLElement,
  told: (pages: number) => void,
  stopped: () => boolean,
): Promise<void> {
  const pdf = await import('pdfjs-dist');
  pdf.GlobalWorkerOptions.workerPort ??= new Worker(new URL('./pdf.worker', import.meta.url), { type: 'module' });
  const bytes = Uint8Array.from(atob(url.slice(url.indexOf(',') + 1)), (c) => c.charCodeAt(0));
  const document = await pdf.getDocument({ data: bytes, isEvalSupported: false }).promise;
  into.replaceChildren();
  told(document.numPages);
  for (let n = 1; n <= Math.min(MOST, document.numPages) && !stopped(); n++) {
    const page = await document.getPage(n);
    const viewport = page.getViewport({ scale: 1.25 });
    const canvas = into.ownerDocument.createElement('canvas');
    canvas.width = viewport.width;
    canvas.height = viewport.height;
    canvas.style.cssText = 'display:block;max-width:100%;margin:12px auto 0;background:#fff';
    into.append(canvas);
    await page.render({ canvas, viewport }).promise;
  }
  await document.loadingTask.destroy();
}
