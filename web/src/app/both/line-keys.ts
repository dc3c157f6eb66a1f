import { Directive, input, model } from '@angular/core';

/** `[` and `]` go to the line before and the next that is not whole. */
@Directive({ selector: '[tnLineKeys]', host: { '(document:keydown)': 'pressed($event)' } })
export class LineKeys {
  readonly tnLineKeys = input.required<readonly { outcome: string }[]>();
  readonly at = model.required<number | null>();

  protected pressed(event: KeyboardEvent): void {
    if (event.key !== '[' && event.key !== ']') return;
    if (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName)) return;
    const next = nextNotWhole(this.tnLineKeys(), this.at(), event.key === ']' ? 1 : -1);
    if (next === null) return;
    event.preventDefault();
    this.at.set(next);
  }
}

/** Where the next line that is not whole stands, going on or back; `null` where there is none. */
export function nextNotWhole(lines: readonly { outcome: string }[], at: number | null, by: 1 | -1): number | null {
  for (let i = at === null ? (by > 0 ? 0 : lines.length - 1) : at + by; i >= 0 && i < lines.length; i += by) {
    if (lines[i]?.outcome !== 'whole') return i;
  }
  return null;
}
