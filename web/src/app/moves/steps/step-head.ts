import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { MoveSummary } from '@treenail/server/contract';

/** Which course goes where; the step's acts stand at its right. */
@Component({
  selector: 'tn-step-head',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div>
      <h1>{{ move().course.code }} {{ move().course.title }}</h1>
      <p class="quiet">
        {{ move().from.name }} to {{ move().to.name }}, section {{ move().course.section }}, {{ move().course.term
        }}{{ move().part > 1 ? ', part ' + move().part : '' }}
      </p>
    </div>
    <div class="acts no-print"><ng-content /></div>
  `,
  styles: `
    :host {
      display: flex;
      justify-content: space-between;
      align-items: start;
      gap: 20px;
    }
    p {
      margin: 0;
    }
    .acts {
      display: flex;
      gap: 8px;
    }
  `,
})
export class StepHead {
  readonly move = input.required<MoveSummary>();
}
