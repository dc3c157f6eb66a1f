import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { ADDRESSES, Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { Awaited, lastOf } from '../parts/awaited';
import { SizePipe, WhenPipe } from '../parts/words';

/** What was restored and given of a kept copy: when, by whom, and where to. */
@Component({
  selector: 'tn-given-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, RouterLink, SizePipe, WhenPipe],
  template: `
    <tn-awaited onlyFailures [of]="[loaded]" />
    @if (given().length > 0) {
      <h3>Restored and given</h3>
      <ul>
        @for (one of given(); track one.at + one.words) {
          <li>
            @if (one.move; as move) {
              {{ move.act === 'restore' ? 'Restored' : 'Given' }}: {{ one.words }}, to {{ move.to }} by
              <a [routerLink]="['/moves', move.id]">move {{ move.id }}</a>
            } @else if (one.file; as file) {
              Given: {{ one.words }}, as
              <a [href]="addresses.givenFile(one.id)" download>{{ file.fileName }}</a>
              <span class="quiet"> {{ file.format }}, {{ file.size | size }}</span>
              @for (loss of file.losses; track loss) {
                <p class="missing">{{ loss }}</p>
              }
            } @else {
              {{ one.words }}:
              @if (one.trouble) {
                <span class="missing">no file could be made of it. {{ one.trouble }}</span>
              } @else {
                a file is being made
              }
            }
            <span class="quiet">{{ one.at | when }}{{ one.by ? ', ' + one.by : '' }}</span>
          </li>
        }
      </ul>
    }
  `,
  styles: `
    h3 {
      margin: 4px 0;
      font-size: 14px;
    }
    ul {
      margin: 0;
      padding-left: 18px;
      display: grid;
      gap: 4px;
    }
    p {
      margin: 0;
    }
    .missing {
      color: var(--ochre);
    }
    a {
      overflow-wrap: anywhere;
    }
  `,
})
export class GivenList {
  private readonly api = inject(Api);
  private readonly jobs = inject(JobsService);
  protected readonly addresses = ADDRESSES;
  readonly copy = input.required<number>();
  protected readonly loaded = rxResource({
    params: () => this.copy(),
    stream: ({ params }) => this.api.given(params),
  });
  private readonly told = lastOf(this.loaded);
  protected readonly given = computed(() => this.told()?.given ?? []);
  /** Jobs that make files; when one of them gets on, what it made is asked for. */
  private readonly making = computed(() =>
    this.jobs
      .jobs()
      .filter((job) => job.kind === 'give')
      .map((job) => `${job.id} ${job.state}`)
      .join(),
  );

  constructor() {
    effect(() => {
      this.making();
      untracked(() => this.again());
    });
  }

  /** Asks once more: something was given. */
  again(): void {
    this.loaded.reload();
  }
}
