import { ChangeDetectionStrategy, Component, computed, inject, input, numberAttribute } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { Api, wordsOf } from '../data/api';
import { CourseNamePipe } from '../parts/words';
import { ReportView } from './report-view';

@Component({
  selector: 'tn-report',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CourseNamePipe, MatButton, ReportView],
  template: `
    @if (report(); as report) {
      <header>
        <h1>{{ report.course | courseName }} {{ report.course.title }}: transfer report</h1>
        <a class="no-print" matButton="outlined" [href]="'/api/reports/' + id() + '/csv'" download>Download as CSV</a>
      </header>
      <tn-report-view [report]="report" />
    } @else if (failure()) {
      <p class="error" role="alert">{{ failure() }}</p>
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
  readonly id = input.required({ transform: numberAttribute });
  private readonly loaded = rxResource({ params: () => this.id(), stream: ({ params }) => this.api.report(params) });
  protected readonly report = computed(() => (this.loaded.hasValue() ? this.loaded.value() : null));
  protected readonly failure = computed(() => (this.loaded.error() ? wordsOf(this.loaded.error()) : ''));
}
