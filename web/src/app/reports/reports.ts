import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import { Api } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { Peg } from '../parts/peg';
import { count } from '@treenail/core';
import { CourseNamePipe, WhenPipe } from '../parts/words';

/** The transfer reports that the person may read: an instructor's own courses, an administrator's all. */
@Component({
  selector: 'tn-reports',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, CourseNamePipe, Peg, RouterLink, WhenPipe],
  template: `
    <h1>{{ head() }}</h1>
    <tn-awaited [of]="[loaded]" />
    @if (reports().length > 0) {
      <div class="panel">
        <table class="list">
          <thead>
            <tr>
              <th>Course</th>
              <th>Now on</th>
              <th>Checked</th>
              <th class="num">Whole</th>
              <th class="num">Reworked</th>
              <th class="num">Left behind</th>
              <th class="num">Extra</th>
            </tr>
          </thead>
          <tbody>
            @for (report of reports(); track report.moveId) {
              <tr>
                <td>
                  <a [routerLink]="['/reports', report.moveId]"
                    ><b>{{ report | courseName }}</b> {{ report.title }}</a
                  >
                </td>
                <td class="quiet">{{ report.destination }}</td>
                <td class="quiet">{{ report.checkedAt | when }}</td>
                <td class="num"><tn-peg outcome="whole" /> {{ report.totals.whole }}</td>
                <td class="num"><tn-peg outcome="reworked" /> {{ report.totals.reworked }}</td>
                <td class="num"><tn-peg outcome="left behind" /> {{ report.totals['left behind'] }}</td>
                <td class="num"><tn-peg outcome="extra" /> {{ report.totals.extra }}</td>
              </tr>
            }
          </tbody>
        </table>
      </div>
    } @else if (known()) {
      <p class="panel empty">
        When a course has been delivered and checked, its transfer report is here: what arrived whole, what did not, and
        what to look at.
      </p>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 14px;
      padding: 18px 20px 14px;
    }
    .panel {
      overflow: auto;
    }
    .empty {
      padding: 24px;
    }
  `,
})
export class ReportsPage {
  private readonly api = inject(Api);
  protected readonly loaded = rxResource({ stream: () => this.api.reports() });
  private readonly list = lastOf(this.loaded);
  protected readonly known = computed(() => this.list() !== null);
  protected readonly reports = computed(() => this.list() ?? []);
  protected readonly head = computed(() =>
    this.known() && this.reports().length > 0 ? count(this.reports().length, 'transfer report') : 'Transfer reports',
  );
}
