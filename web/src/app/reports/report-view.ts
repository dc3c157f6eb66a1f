import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatExpansionModule } from '@angular/material/expansion';
import {
  KIND_LABELS,
  differsFromForecast,
  count,
  explain,
  kindWords,
  likeLines,
  type CheckedLine,
  type Outcome,
  type TransferReport,
} from '@treenail/core';
import { Api, wordsOf } from '../data/api';
import { Peg } from '../parts/peg';
import { TotalsBar } from '../parts/totals';
import { HashPipe, WhenPipe } from '../parts/words';

/** A transfer report as a page: the counts, and a line for everything that is not whole. */
@Component({
  selector: 'tn-report-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [HashPipe, MatButton, MatExpansionModule, Peg, TotalsBar, WhenPipe],
  template: `
    @if (report().missing.length > 0) {
      <div class="before" role="note">
        @for (sentence of report().missing; track sentence) {
          <p>{{ sentence }}</p>
        }
      </div>
    }
    <tn-totals [totals]="report().totals" />
    <p class="quiet">
      {{ otherwise() }} Sent from {{ report().source }} to {{ report().destination }}, checked
      {{ report().checkedAt | when: 'long' }}.
      <a [href]="report().place" target="_blank" rel="noopener">Open the course at {{ report().destination }}</a>
    </p>
    <div class="filters no-print">
      <button type="button" class="chip" [attr.aria-pressed]="only() === null" (click)="only.set(null)">
        all that is not whole
      </button>
      @for (outcome of outcomes(); track outcome) {
        <button type="button" class="chip" [attr.aria-pressed]="only() === outcome" (click)="only.set(outcome)">
          {{ outcome }}
        </button>
      }
      <button type="button" class="chip" [attr.aria-pressed]="only() === 'otherwise'" (click)="only.set('otherwise')">
        otherwise than foretold
      </button>
    </div>
    <div class="panel">
      <table class="list">
        <thead>
          <tr>
            <th>Outcome</th>
            <th>Item</th>
            <th>Kind</th>
            <th>What is not as it was</th>
          </tr>
        </thead>
        <tbody>
          @for (group of groups(); track $index; let at = $index) {
            @if (group.length > 1) {
              <tr class="many">
                <td class="outcome"><tn-peg [outcome]="group[0].outcome" /> {{ group[0].outcome }}</td>
                <td>
                  <button matButton type="button" [attr.aria-expanded]="opened().has(at)" (click)="toggle(at)">
                    {{ count(group.length, labels[group[0].kind]) }} {{ opened().has(at) ? '▾' : '▸' }}
                  </button>
                </td>
                <td class="quiet">{{ kind(group[0]) }}</td>
                <td>{{ alike(group) }}</td>
              </tr>
            }
            @if (group.length === 1 || opened().has(at)) {
              @for (line of group; track $index) {
                <tr>
                  <td class="outcome"><tn-peg [outcome]="line.outcome" /> {{ line.outcome }}</td>
                  <td>
                    {{ line.title }}
                    @if (line.trail.length > 0) {
                      <div class="quiet">{{ line.trail.join(' › ') }}</div>
                    }
                  </td>
                  <td class="quiet">{{ kind(line) }}</td>
                  <td>
                    {{ why(line) }}
                    @if (line.predicted !== null && line.predicted !== line.outcome) {
                      <span class="tag due">foretold {{ line.predicted }}</span>
                    }
                  </td>
                </tr>
              }
            }
          } @empty {
            <tr>
              <td colspan="4">{{ none() }}</td>
            </tr>
          }
        </tbody>
      </table>
    </div>
    @if (secrets() && moveId() !== undefined) {
      <div class="secrets no-print">
        @if (passwords(); as shown) {
          <dl class="facts">
            @for (one of shown; track $index) {
              <dt>{{ one.title }}</dt>
              <dd>
                <code>{{ one.password }}</code>
              </dd>
            }
          </dl>
        } @else {
          <button matButton="outlined" type="button" (click)="show()">Show passwords; goes into the trail</button>
        }
        @if (error()) {
          <p class="error" role="alert">{{ error() }}</p>
        }
      </div>
    }
    @if (report().open.length > 0) {
      <section class="panel open" aria-label="Findings left open">
        <h2>{{ openHead() }}</h2>
        @for (kind of report().open; track kind.label) {
          <mat-expansion-panel class="mat-elevation-z0">
            <mat-expansion-panel-header>{{ kind.label }}: {{ kind.findings.length }}</mat-expansion-panel-header>
            <ul>
              @for (finding of kind.findings; track $index) {
                <li>
                  {{ finding.title }} <span class="quiet">{{ finding.what }}</span>
                </li>
              }
            </ul>
          </mat-expansion-panel>
        }
      </section>
    }
    <p class="quiet">
      Sent: {{ report().packageFile }}, <code>{{ report().packageSha256 | hash }}</code>
      @if (report().copyFile) {
        <br />Made of the kept copy {{ report().copyFile }}, <code>{{ report().copySha256 | hash }}</code>
      }
    </p>
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
      min-width: 0;
    }
    p {
      margin: 0;
    }
    .filters {
      display: flex;
      gap: 8px;
    }
    .list td {
      vertical-align: top;
      padding: 6px 10px;
    }
    td:nth-child(2) {
      width: 32%;
    }
    td .quiet {
      font-size: 12.5px;
    }
    .outcome {
      white-space: nowrap;
    }
    .before {
      padding: 8px 14px;
      border: 1px solid var(--line);
      border-left: 3px solid var(--ochre);
      border-radius: 4px;
      background: var(--surface);
    }
    .open {
      padding: 12px 16px;
    }
    .open mat-expansion-panel {
      border-top: 1px solid var(--line);
      border-radius: 0;
    }
    ul {
      margin: 0;
      padding-left: 18px;
    }
  `,
})
export class ReportView {
  readonly report = input.required<TransferReport>();
  private readonly api = inject(Api);
  /** The move that is reported on: who may read the report may ask for its passwords. */
  readonly moveId = input<number>();
  protected readonly passwords = signal<{ title: string; password: string }[] | null>(null);
  protected readonly error = signal('');
  protected readonly secrets = computed(() =>
    this.report().lines.some((l) => l.settings.some((s) => s.name === 'password' && s.outcome !== 'whole')),
  );
  protected readonly only = signal<Outcome | 'otherwise' | null>(null);
  protected readonly why = explain;
  protected readonly kind = kindWords;
  protected readonly count = count;
  protected readonly labels = KIND_LABELS;
  protected readonly outcomes = computed(() => [...new Set(this.report().lines.map((l) => l.outcome))]);
  protected readonly lines = computed(() => {
    const only = this.only();
    return this.report().lines.filter((l) =>
      only === null ? true : only === 'otherwise' ? differsFromForecast(l) : l.outcome === only,
    );
  });
  /** Lines that say the same are one that opens. */
  protected readonly groups = computed(() => likeLines(this.lines()) as [CheckedLine, ...CheckedLine[]][]);
  protected readonly opened = signal<ReadonlySet<number>>(new Set());
  protected readonly openHead = computed(
    () =>
      `${count(
        this.report().open.reduce((sum, kind) => sum + kind.findings.length, 0),
        'finding',
      )} left open: what was found in the course before it was sent, and nobody decided on`,
  );
  /** All that was compared arrived; what was never fetched is not among it. */
  protected readonly none = computed(() =>
    this.only() !== null
      ? 'Nothing of that kind.'
      : this.report().missing.length > 0
        ? 'Everything that was sent arrived whole; see above what was known to be missing before.'
        : 'Everything that was sent arrived whole.',
  );

  protected show(): void {
    const id = this.moveId();
    if (id === undefined) return;
    this.api.passwords(id).subscribe({
      next: (passwords) => this.passwords.set(passwords),
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }

  protected toggle(at: number): void {
    this.opened.update((before) => {
      const next = new Set(before);
      if (!next.delete(at)) next.add(at);
      return next;
    });
  }

  /** What many lines have in common: their values are in the lines themselves. */
  protected alike(group: readonly CheckedLine[]): string {
    const [first] = group;
    return first ? explain({ ...first, settings: first.settings.map((s) => ({ ...s, was: null })) }) : '';
  }

  protected readonly otherwise = computed(() => {
    const n = this.report().otherwise;
    return n === 0 ? 'Everything came as it was foretold.' : `${count(n, 'line')} came otherwise than foretold.`;
  });
}
