import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { ADDRESSES } from '../../data/api';
import { HashPipe, SizePipe } from '../../parts/words';
import { JobPanel } from './job-panel';
import { StepHead } from './step-head';

@Component({
  selector: 'tn-build-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [HashPipe, JobPanel, MatButton, RouterLink, SizePipe, StepHead],
  template: `
    <tn-step-head [move]="move()">
      @if (move().built) {
        <a matButton="filled" [routerLink]="['/moves', move().id, 'deliver']">Go to the delivery</a>
      }
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    @if (move().built; as built) {
      <section class="panel">
        <h2>{{ built.format }}, made of {{ move().copy?.format }}</h2>
        <p class="quiet">Files that did not change were copied as compressed bytes.</p>
        <dl class="facts">
          <dt>Package</dt>
          <dd>
            <code>{{ built.fileName }}</code>
          </dd>
          <dt>Size</dt>
          <dd>{{ built.size | size }} ({{ built.size }} bytes)</dd>
          <dt>SHA-256</dt>
          <dd>
            <code>{{ built.sha256 | hash }}</code>
          </dd>
        </dl>
        <div>
          <a matButton="outlined" [href]="addresses.builtPackage(move().id)" download>Download the package</a>
        </div>
      </section>
    }
  `,
  styles: `
    :host {
      display: grid;
      align-content: start;
      gap: 14px;
    }
    section {
      display: grid;
      gap: 12px;
      padding: 16px;
    }
    p {
      margin: 0;
    }
  `,
})
export class BuildStep {
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  protected readonly addresses = ADDRESSES;
}
