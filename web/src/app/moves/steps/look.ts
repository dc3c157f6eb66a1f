import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import type { Item } from '@treenail/core';
import { Api } from '../../data/api';
import { CourseView } from '../../parts/course-view';
import { JobPanel } from './job-panel';
import { StepHead } from './step-head';

@Component({
  selector: 'tn-look-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CourseView, JobPanel, MatButton, RouterLink, StepHead],
  template: `
    <tn-step-head [move]="move()">
      <a matButton="filled" [routerLink]="['/moves', move().id, 'fit']">See the fit</a>
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    @if (look(); as look) {
      <tn-course-view
        [course]="look.course"
        [inventory]="look.inventory"
        [notes]="look.notes"
        [preview]="preview"
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
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  readonly item = input<string>();
  private readonly ready = computed(() =>
    this.move().at === 'fetch' || this.move().at === 'look' ? undefined : this.move().id,
  );
  private readonly loaded = rxResource({ params: () => this.ready(), stream: ({ params }) => this.api.look(params) });
  protected readonly look = computed(() => (this.loaded.hasValue() ? this.loaded.value() : null));
  protected readonly preview = (item: Item) => this.api.preview(this.move().id, { item: item.id });
}
