import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { count, missingOf, readWords } from '@treenail/core';
import { ADDRESSES } from '../../data/api';
import { HashPipe, SizePipe, WhenPipe, copyWords } from '../../parts/words';
import { JobPanel } from './job-panel';
import { StepHead } from './step-head';

@Component({
  selector: 'tn-fetch-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [HashPipe, JobPanel, MatButton, RouterLink, SizePipe, StepHead, WhenPipe],
  template: `
    <tn-step-head [move]="move()">
      @if (move().copy) {
        <a matButton="filled" [routerLink]="['/moves', move().id, 'look']">Look inside</a>
      }
    </tn-step-head>
    <tn-job-panel [job]="job()" />
    @if (move().copy; as copy) {
      <section class="panel">
        <h2>Fetched and kept</h2>
        <dl class="facts">
          <dt>Kept copy</dt>
          <dd>
            <code>{{ copy.fileName }}</code>
          </dd>
          <dt>Kept</dt>
          <dd>{{ copy.keptAt | when: 'long' }}</dd>
          <dt>Format</dt>
          <dd>{{ words(copy) }}</dd>
          <dt>Size</dt>
          <dd>{{ copy.size | size }} ({{ copy.size }} bytes)</dd>
          <dt>Holds</dt>
          <dd>
            {{ holds() }}
            @for (sentence of missing(); track sentence) {
              <p class="missing">{{ sentence }}</p>
            }
          </dd>
          <dt>SHA-256</dt>
          <dd>
            <code>{{ copy.sha256 | hash }}</code>
          </dd>
        </dl>
        <div><a matButton="outlined" [href]="addresses.copyFile(copy.id)" download>Download the copy</a></div>
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
    .missing {
      margin: 2px 0 0;
      color: var(--ochre);
    }
  `,
})
export class FetchStep {
  readonly move = input.required<MoveSummary>();
  readonly job = input.required<JobSummary | null>();
  protected readonly addresses = ADDRESSES;
  protected readonly words = copyWords;
  protected readonly holds = computed(() => {
    const copy = this.move().copy;
    if (!copy) return '';
    return copy.facts.shown === null ? count(copy.items, 'item') : readWords(copy.facts);
  });
  protected readonly missing = computed(() => {
    const copy = this.move().copy;
    return copy ? missingOf(copy.facts) : [];
  });
}
