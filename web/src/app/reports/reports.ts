import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import type { ReportSummary } from '@treenail/server/contract';
import { Api } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { Peg } from '../parts/peg';
import { count, courseName } from '@treenail/core';
import { List, ListCell, type ListColumn } from '../parts/list';
import { CourseNamePipe, WhenPipe } from '../parts/words';

/** What is counted of each, in this order. */
const OUTCOMES = ['whole', 'reworked', 'left behind', 'extra'] as const;

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** The transfer reports that the person may read: an instructor's own courses, an administrator's all. */
@Component({
  selector: 'tn-reports',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, CourseNamePipe, List, ListCell, Peg, RouterLink],
  template: `
    <h1>{{ head() }}</h1>
    <tn-awaited [of]="[loaded]" />
    @if (reports().length > 0) {
      <tn-list
        first="-checked"
        hint="Filter by course, destination"
        [noun]="['transfer report', 'transfer reports']"
        [rows]="reports()"
        [columns]="columns"
        [key]="idOf"
        [named]="nameOf"
        (opened)="open($event)"
      >
        <ng-template tnCell="course" [of]="reports()" let-report>
          <a [routerLink]="['/reports', report.moveId]"
            ><b>{{ report | courseName }}</b> {{ report.title }}</a
          >
        </ng-template>
        @for (outcome of outcomes; track outcome) {
          <ng-template [tnCell]="outcome" [of]="reports()" let-report>
            <tn-peg [outcome]="outcome" /> {{ report.totals[outcome] }}
          </ng-template>
        }
      </tn-list>
    } @else if (known()) {
      <p class="panel empty">
        When a course has been delivered and checked, its transfer report is here: what arrived whole, what did not, and
        what to look at.
      </p>
    }
  `,
  styleUrl: '../parts/list/list-screen.scss',
  styles: `
    .empty {
      padding: 24px;
    }
  `,
})
export class ReportsPage {
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly when = new WhenPipe();
  protected readonly outcomes = OUTCOMES;
  protected readonly columns: readonly ListColumn<ReportSummary>[] = [
    {
      id: 'course',
      name: 'Course',
      value: courseName,
      words: (r) => `${courseName(r)} ${r.title}`,
    },
    { id: 'destination', name: 'Now on', width: 150, value: (r) => r.destination },
    {
      id: 'checked',
      name: 'Checked',
      width: 150,
      is: 'date',
      downFirst: true,
      value: (r) => r.checkedAt,
      words: (r) => this.when.transform(r.checkedAt),
    },
    ...OUTCOMES.map((outcome): ListColumn<ReportSummary> => ({
      id: outcome,
      name: capital(outcome),
      width: 112,
      is: 'number',
      downFirst: true,
      value: (r) => r.totals[outcome],
      foot: (rows) => String(rows.reduce((sum, r) => sum + r.totals[outcome], 0)),
    })),
  ];
  protected readonly idOf = (r: ReportSummary) => r.moveId;
  protected readonly nameOf = courseName;
  protected readonly loaded = rxResource({ stream: () => this.api.reports() });
  private readonly list = lastOf(this.loaded);
  protected readonly known = computed(() => this.list() !== null);
  protected readonly reports = computed(() => this.list() ?? []);
  protected readonly head = computed(() =>
    this.known() && this.reports().length > 0 ? count(this.reports().length, 'transfer report') : 'Transfer reports',
  );

  protected open(report: ReportSummary): void {
    void this.router.navigate(['/reports', report.moveId]);
  }
}
