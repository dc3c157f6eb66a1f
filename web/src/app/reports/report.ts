import { ChangeDetectionStrategy, Component, inject, input, numberAttribute } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { ADDRESSES, Api } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { CourseNamePipe } from '../parts/words';
import { ReportView } from './report-view';

@Component({
  selector: 'tn-report',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, CourseNamePipe, MatButton, ReportView],
  template: `
    <tn-awaited [of]="[loaded]" />
    @if (report(); as report) {
      <header>
        <h1>{{ report.course | courseName }} {{ report.course.title }}: transfer report</h1>
        <a class="no-print" matButton="outlined" [href]="addresses.reportSheet(id())" download>Download as CSV</a>
      </header>
      <tn-report-view [report]="report" [moveId]="id()" />
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 14px;
      padding: 18px 20px 14px;
    }
    header {
      display: flex;
      justify-content: space-between;
      gap: 20px;
    }
  `,
})
export class ReportPage {
  private readonly api = inject(Api);
  protected readonly addresses = ADDRESSES;
  readonly id = input.required({ transform: numberAttribute });
  protected readonly loaded = rxResource({ params: () => this.id(), stream: ({ params }) => this.api.report(params) });
  protected readonly report = lastOf(this.loaded);
}
