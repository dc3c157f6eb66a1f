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
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { ListCell, Table, type ListColumn } from '../parts/list';

/** A row of the report: a line, or many that say the same. */
interface Row {
  readonly line: CheckedLine;
  readonly many: readonly [CheckedLine, ...CheckedLine[]] | null;
  /** Number of its group. */
  readonly at: number;
}

/** A transfer report as a page: the counts, and a line for everything that is not whole. */
@Component({
  selector: 'tn-report-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    HashPipe,
    ListCell,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatExpansionModule,
    Peg,
    Table,
    TotalsBar,
    WhenPipe,
  ],
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
    <mat-button-toggle-group
      hideSingleSelectionIndicator
      class="filters no-print"
      aria-label="Which lines"
      [value]="only()"
      (change)="only.set($event.value)"
    >
      <mat-button-toggle [value]="null"> all that is not whole </mat-button-toggle>
      @for (outcome of outcomes(); track outcome) {
        <mat-button-toggle [value]="outcome">
          {{ outcome }}
        </mat-button-toggle>
      }
      <mat-button-toggle value="otherwise"> otherwise than foretold </mat-button-toggle>
    </mat-button-toggle-group>
    <div class="panel">
      <tn-table label="What is not as it was" [rows]="rows()" [columns]="columns" [sortable]="false">
        <ng-template tnCell="outcome" [of]="rows()" let-row>
          <span class="outcome"><tn-peg [outcome]="row.line.outcome" /> {{ row.line.outcome }}</span>
        </ng-template>
        <ng-template tnCell="item" [of]="rows()" let-row>
          @if (row.many; as many) {
            <button matButton type="button" [attr.aria-expanded]="opened().has(row.at)" (click)="toggle(row.at)">
              {{ count(many.length, labels[row.line.kind]) }} {{ opened().has(row.at) ? '▾' : '▸' }}
            </button>
          } @else {
            {{ row.line.title }}
            @if (row.line.trail.length > 0) {
              <div class="quiet">{{ row.line.trail.join(' › ') }}</div>
            }
          }
        </ng-template>
        <ng-template tnCell="kind" [of]="rows()" let-row>
          <span class="quiet">{{ kind(row.line) }}</span>
        </ng-template>
        <ng-template tnCell="why" [of]="rows()" let-row>
          @if (row.many; as many) {
            {{ alike(many) }}
          } @else {
            {{ why(row.line) }}
            @if (row.line.predicted !== null && row.line.predicted !== row.line.outcome) {
              <span class="tag due">foretold {{ row.line.predicted }}</span>
            }
          }
        </ng-template>
      </tn-table>
      @if (rows().length === 0) {
        <p class="none">{{ none() }}</p>
      }
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
    tn-table .quiet {
      font-size: 12.5px;
    }
    .none {
      padding: 8px 10px;
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
  /** A line by itself, or the head of many and, where it is opened, those after it. */
  protected readonly rows = computed(() =>
    this.groups().flatMap((group, at): Row[] => {
      const lines = group.map((line): Row => ({ line, many: null, at }));
      if (group.length === 1) return lines;
      return [{ line: group[0], many: group, at }, ...(this.opened().has(at) ? lines : [])];
    }),
  );
  protected readonly columns: readonly ListColumn<Row>[] = [
    { id: 'outcome', name: 'Outcome', value: ({ line }) => line.outcome },
    { id: 'item', name: 'Item', value: ({ line }) => line.title, width: 380 },
    { id: 'kind', name: 'Kind', value: ({ line }) => kindWords(line) },
    { id: 'why', name: 'What is not as it was', value: ({ line }) => explain(line) },
  ];
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
