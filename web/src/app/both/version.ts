import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { DomSanitizer } from '@angular/platform-browser';
import { readableSize, type Preview } from '@treenail/core';
import type { FileFact } from './files';

/** What is shown of one side: a preview, or why there is none. */
export interface Shown {
  readonly preview: Preview | null;
  readonly why: string;
}

/** One version of an item: its files, those that the other has not marked, and what a person reads of it. */
@Component({
  selector: 'tn-version',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (files().length > 0) {
      <ul>
        @for (file of files(); track file.name) {
          <li [class.differs]="compared() && !isSame(file)">
            {{ file.name }}
            @if (file.size !== null) {
              <span class="quiet">{{ size(file.size) }}</span>
            }
          </li>
        }
      </ul>
    }
    @if (drawn(); as drawn) {
      @switch (drawn.as) {
        @case ('page') {
          <iframe sandbox="" [title]="name()" [srcdoc]="drawn.html"></iframe>
        }
        @case ('text') {
          <pre tabindex="0">{{ drawn.text }}</pre>
        }
        @case ('image') {
          <img [src]="drawn.url" [alt]="name()" />
        }
        @default {
          @if (drawn.why) {
            <p class="quiet">Not shown: {{ drawn.why }}.</p>
          }
        }
      }
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      flex: 1;
      gap: 6px;
      min-height: 0;
    }
    ul {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 14px;
      margin: 0;
      padding: 0;
      list-style: none;
    }
    .differs {
      color: var(--ochre);
    }
    iframe {
      flex: 1 0 180px;
      width: 100%;
      border: 1px solid var(--line);
      border-radius: 2px;
      background: #fff;
    }
    pre {
      margin: 0;
      white-space: pre-wrap;
      overflow-wrap: anywhere;
      font: 12.5px/18px var(--mono);
    }
    img {
      max-width: 100%;
      align-self: start;
    }
    p {
      margin: 2px 0;
    }
  `,
})
export class Version {
  private readonly sanitizer = inject(DomSanitizer);
  /** Which version it is. */
  readonly name = input.required<string>();
  readonly shown = input.required<Shown | null>();
  readonly files = input.required<readonly FileFact[]>();
  /** Files of the other version. */
  readonly others = input.required<readonly FileFact[]>();
  /** Whether there is another version that files could be missing in. */
  readonly compared = input.required<boolean>();
  protected readonly size = readableSize;
  protected readonly drawn = computed(() => {
    const shown = this.shown();
    switch (shown?.preview?.form) {
      case 'page':
        // Shown in a frame without any rights: nothing of it can run, load, or reach this page.
        return { as: 'page', html: this.sanitizer.bypassSecurityTrustHtml(shown.preview.html) } as const;
      case 'text':
        return { as: 'text', text: shown.preview.text } as const;
      case 'image':
        return { as: 'image', url: shown.preview.dataUrl } as const;
      case 'none':
        return { as: 'none', why: shown.preview.why } as const;
      case undefined:
        return { as: 'none', why: shown?.why ?? '' } as const;
      default:
        return { as: 'none', why: 'it is told apart by name, size and SHA-256' } as const;
    }
  });

  /** A file that the other version has too, byte for byte. */
  protected isSame({ sha256 }: FileFact): boolean {
    return sha256 !== null && this.others().some((other) => other.sha256 === sha256);
  }
}
