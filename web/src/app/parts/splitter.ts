import { ChangeDetectionStrategy, Component, ElementRef, effect, inject, input, model } from '@angular/core';

/** The least share of either part. */
const LEAST = 0.15;
/** How far a key moves it. */
const STEP = 0.05;

/**
 * Parts what stands above it from what stands below, in a column of its parent's height: drawn by a pointer, moved by the
 * arrow keys, remembered in this browser under its name.
 */
@Component({
  selector: 'tn-splitter',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: '',
  styles: `
    :host {
      flex: none;
      height: 8px;
      margin: -6px 0;
      border-radius: 4px;
      background: radial-gradient(var(--timber), var(--timber)) center / 48px 3px no-repeat;
      cursor: row-resize;
      touch-action: none;
    }
    :host(:hover),
    :host(:focus-visible) {
      background-color: var(--sunk);
    }
  `,
  host: {
    role: 'separator',
    tabindex: '0',
    'aria-orientation': 'horizontal',
    'aria-label': 'How high the lower part is',
    'aria-valuemin': '15',
    'aria-valuemax': '85',
    '[attr.aria-valuenow]': 'percent()',
    '(pointerdown)': 'grasp($event)',
    '(pointermove)': 'draw($event)',
    '(keydown)': 'move($event)',
  },
})
export class Splitter {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  readonly name = input.required<string>();
  /** Share of the height that the lower part has, 0 to 1. */
  readonly share = model.required<number>();
  protected readonly percent = () => Math.round(this.share() * 100);

  constructor() {
    let read = false;
    effect(() => {
      const [place, share] = [`treenail-split-${this.name()}`, this.share()];
      const kept = read ? null : Number(localStorage.getItem(place) ?? Number.NaN);
      read = true;
      if (kept !== null && Number.isFinite(kept) && kept > 0) this.set(kept);
      else localStorage.setItem(place, String(share));
    });
  }

  protected grasp(event: PointerEvent): void {
    this.host.nativeElement.setPointerCapture(event.pointerId);
    event.preventDefault();
  }

  protected draw(event: PointerEvent): void {
    const parent = this.host.nativeElement.parentElement;
    if (!parent || !this.host.nativeElement.hasPointerCapture(event.pointerId)) return;
    const above = this.host.nativeElement.previousElementSibling?.getBoundingClientRect();
    const { bottom } = parent.getBoundingClientRect();
    if (above && bottom > above.top) this.set((bottom - event.clientY) / (bottom - above.top));
  }

  protected move(event: KeyboardEvent): void {
    const by = event.key === 'ArrowUp' ? STEP : event.key === 'ArrowDown' ? -STEP : 0;
    if (by === 0) return;
    event.preventDefault();
    this.set(this.share() + by);
  }

  private set(share: number): void {
    this.share.set(Math.min(1 - LEAST, Math.max(LEAST, share)));
  }
}
