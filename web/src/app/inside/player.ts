import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  ElementRef,
  inject,
  input,
  signal,
  viewChild,
} from '@angular/core';
import type { SafeResourceUrl } from '@angular/platform-browser';
import * as z from 'zod';

/** What the player tells of one call of the runtime interface. */
const Call = z.object({
  treenail: z.literal('call'),
  name: z.string(),
  given: z.array(z.string()),
  answered: z.string(),
});
type Call = z.infer<typeof Call>;

/** A learning object played on an origin of its own, with the calls it makes to its player beside it. */
@Component({
  selector: 'tn-player',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <iframe
      #frame
      sandbox="allow-scripts allow-same-origin allow-forms"
      referrerpolicy="no-referrer"
      [src]="address()"
      [title]="title() + ', played'"
    ></iframe>
    <section aria-label="Calls of the runtime interface">
      <h3>What it tells its player</h3>
      @if (calls().length === 0) {
        <p class="quiet">Nothing yet.</p>
      }
      <ol tabindex="0">
        @for (call of calls(); track $index) {
          <li>
            <code>{{ call.name }}({{ call.given.join(', ') }})</code>
            <span class="quiet">{{ call.answered }}</span>
          </li>
        }
      </ol>
    </section>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 260px;
      min-height: 0;
    }
    iframe {
      width: 100%;
      height: 100%;
      border: 0;
      background: #fff;
    }
    section {
      display: flex;
      flex-direction: column;
      min-height: 0;
      padding: 8px 12px;
      border-left: 1px solid var(--line);
    }
    ol {
      flex: 1;
      margin: 4px 0 0;
      padding-left: 22px;
      overflow: auto;
    }
    code {
      overflow-wrap: anywhere;
    }
    p {
      margin: 0;
    }
  `,
})
export class Player {
  readonly address = input.required<SafeResourceUrl>();
  readonly title = input.required<string>();
  private readonly frame = viewChild.required<ElementRef<HTMLIFrameElement>>('frame');
  protected readonly calls = signal<readonly Call[]>([]);

  constructor() {
    const hear = (event: MessageEvent) => {
      // Only what comes out of our own frame is listened to.
      if (event.source !== this.frame().nativeElement.contentWindow) return;
      const call = Call.safeParse(event.data);
      if (call.success) this.calls.update((before) => [...before, call.data].slice(-500));
    };
    addEventListener('message', hear);
    inject(DestroyRef).onDestroy(() => removeEventListener('message', hear));
  }
}
