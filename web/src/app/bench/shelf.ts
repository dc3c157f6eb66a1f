import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import { KeepingService, type Keeping } from '../data/keeping';
import { SizePipe } from '../parts/words';
import type { Dropped } from './bench';

/** Many files on the Bench: what each is, what is wrong with it, whether it is kept. */
@Component({
  selector: 'tn-shelf',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, SizePipe],
  template: `
    <table class="list">
      <thead>
        <tr>
          <th>File</th>
          <th class="num">Size</th>
          <th>Course</th>
          <th>Format</th>
          <th class="num">Items</th>
          <th class="num">Notes</th>
          <th>Kept</th>
        </tr>
      </thead>
      <tbody>
        @for (one of dropped(); track one.key) {
          <tr>
            <td>
              @if (one.glance) {
                <button type="button" class="name" (click)="chosen.emit(one)">{{ one.source.name }}</button>
              } @else {
                {{ one.source.name }}
              }
            </td>
            <td class="num">{{ one.source.size | size }}</td>
            @if (one.refusal; as refusal) {
              <td colspan="4">
                <span class="error">{{ refusal.message }}</span> {{ refusal.action }}
              </td>
            } @else if (one.glance; as glance) {
              <td>{{ glance.title }}</td>
              <td class="quiet">{{ glance.label }}</td>
              <td class="num">{{ glance.items }}</td>
              <td class="num">{{ glance.notes || '' }}</td>
            } @else {
              <td colspan="4" class="quiet">being read</td>
            }
            <td>
              @if (keeping(one); as kept) {
                @switch (kept.state) {
                  @case ('kept') {
                    <a routerLink="/strongroom">kept</a>
                  }
                  @case ('refused') {
                    <span class="error">{{ kept.problem.message }}</span>
                  }
                  @default {
                    {{ words(kept) }}
                  }
                }
              }
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    .name {
      padding: 0;
      border: 0;
      background: none;
      color: var(--spruce);
      font: inherit;
      text-decoration: underline;
      cursor: pointer;
    }
  `,
})
export class Shelf {
  private readonly service = inject(KeepingService);
  readonly dropped = input.required<readonly Dropped[]>();
  readonly chosen = output<Dropped>();
  protected readonly words = keepingWords;

  protected keeping(one: Dropped): Keeping | null {
    return this.service.all().get(one.key) ?? null;
  }
}

export function keepingWords(keeping: Keeping): string {
  switch (keeping.state) {
    case 'sending':
      return `sending, ${keeping.total === 0 ? 0 : Math.floor((100 * keeping.done) / keeping.total)} %`;
    case 'reading':
      return 'arrived, being read';
    case 'kept':
      return 'kept in the strongroom';
    case 'refused':
      return keeping.problem.message;
  }
}
