import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { map, of } from 'rxjs';
import { ADDRESSES, Api } from '../../data/api';
import { ErrandStarter } from '../../errands/errand-starter';
import { CourseView } from '../../inside/course-view';
import type { InsideSource } from '../../inside/source';
import { Awaited, lastOf } from '../../parts/awaited';
import { JobPanel } from './job-panel';
import { StepHead } from './step-head';

@Component({
  selector: 'tn-look-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, CourseView, JobPanel, MatButton, RouterLink, StepHead],
  template: `
    <tn-step-head [move]="move()">
      <a matButton="outlined" [routerLink]="['/moves', move().id, 'fit']">See the fit</a>
      <a matButton="filled" [routerLink]="['/moves', move().id, 'tidy']">Tidy</a>
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    <tn-awaited [of]="[loaded]" />
    @if (look(); as look) {
      <tn-course-view
        [course]="look.course"
        [inventory]="look.inventory"
        [notes]="look.notes"
        [source]="source"
        [first]="item()"
      />
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 12px;
    }
    tn-course-view {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class LookStep {
  private readonly api = inject(Api);
  private readonly errands = inject(ErrandStarter);
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  readonly item = input<string>();
  private readonly ready = computed(() =>
    this.move().at === 'fetch' || this.move().at === 'look' ? undefined : this.move().id,
  );
  protected readonly loaded = rxResource({ params: () => this.ready(), stream: ({ params }) => this.api.look(params) });
  protected readonly look = lastOf(this.loaded);
  private readonly id = computed(() => this.move().id);
  protected readonly source: InsideSource = {
    preview: (item, { learner, question, mended }) =>
      this.api.preview(this.id(), {
        item: item.id,
        ...(learner ? { learner: 'yes' } : {}),
        ...(mended ? { mended: 'yes' } : {}),
        ...(question === '' ? {} : { q: question }),
      }),
    mendable: () => this.look()?.mended ?? false,
    addressOf: (path, mended) => {
      const url = ADDRESSES.file(this.id(), { path, ...(mended ? { mended: 'yes' } : {}) });
      return of({ url, release: () => undefined });
    },
    search: (question) => this.api.searchTexts(this.id(), { q: question }),
    relations: () => this.api.relations(this.id()),
    exports: ['csv', 'xlsx', 'json'],
    exportInventory: (format) => location.assign(ADDRESSES.inventorySheet(this.id(), format)),
    give: (item) => {
      const { copy } = this.move();
      if (copy) this.errands.open({ copy, act: 'give', items: [item.id] }).subscribe();
    },
    playAt: (item) => {
      const copy = this.move().copy;
      return item.settings.tracked === true && copy
        ? this.api.play(copy.id, { item: item.id }).pipe(map(({ address }) => address))
        : null;
    },
  };
}
