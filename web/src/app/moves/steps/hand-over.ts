import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { RouterLink } from '@angular/router';
import type { MoveSummary } from '@treenail/server/contract';
import { ADDRESSES, Api } from '../../data/api';
import { Awaited, lastOf } from '../../parts/awaited';
import { ReportView } from '../../reports/report-view';
import { SendMoreDialog } from '../send-more-dialog';
import { standingOf } from './standing';
import { StepHead } from './step-head';

@Component({
  selector: 'tn-hand-over-step',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatButton, ReportView, RouterLink, StepHead],
  template: `
    <tn-step-head [move]="move()">
      @if (move().canTakeBack) {
        <a matButton="outlined" [routerLink]="['/moves', move().id, 'deliver']">What was delivered</a>
      }
      @if (move().canSendMore) {
        <button matButton="outlined" (click)="sendMore()">Send more…</button>
      }
      <button matButton="outlined" (click)="print()">Print</button>
      <a matButton="filled" [href]="addresses.reportSheet(move().id)" download>Download as CSV</a>
    </tn-step-head>
    <tn-awaited [of]="[loaded]" />
    @if (report(); as report) {
      <tn-report-view [report]="report" [moveId]="move().id" />
    }
  `,
  styles: `
    :host {
      display: grid;
      align-content: start;
      gap: 14px;
    }
  `,
})
export class HandOverStep {
  private readonly api = inject(Api);
  protected readonly addresses = ADDRESSES;
  readonly move = input.required<MoveSummary>();
  readonly changed = output<MoveSummary>();
  private readonly dialog = inject(MatDialog);
  private readonly standing = standingOf(this.move);
  protected readonly loaded = rxResource({
    params: () => this.standing(),
    stream: ({ params }) => this.api.report(params.id),
  });
  protected readonly report = lastOf(this.loaded);

  protected sendMore(): void {
    this.dialog
      .open<SendMoreDialog, MoveSummary, MoveSummary>(SendMoreDialog, { data: this.move(), width: '620px' })
      .afterClosed()
      .subscribe((move) => move && this.changed.emit(move));
  }

  protected print(): void {
    window.print();
  }
}
