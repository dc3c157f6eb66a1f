import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { STEP_NAMES, type MoveStep, type MoveSummary } from '@treenail/server/contract';
import { WhenPipe } from '../parts/words';

/** The steps of a move as pegs on a plank, each with its line of result. */
@Component({
  selector: 'tn-spine',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterLink, WhenPipe],
  template: `
    <nav aria-label="Steps of the move">
      @for (step of move().steps; track step.step) {
        <a
          [class]="step.state"
          [class.shown]="step.step === shown()"
          [routerLink]="step.state === 'ahead' ? null : ['/moves', move().id, step.step]"
          [attr.aria-current]="step.step === shown() ? 'step' : null"
          [attr.aria-disabled]="step.state === 'ahead' ? true : null"
        >
          <i aria-hidden="true"></i>
          <span>
            <b>{{ names[step.step] }}</b>&ngsp;<span class="visually-hidden">{{ step.state }}</span
            >&ngsp;<small
              >{{ step.result }}
              @if (step.by && (step.state === 'done' || step.state === 'open')) {
                <span class="by">{{ step.by }}, {{ step.at! | when: 'day' }}</span>
              }
            </small>
          </span>
        </a>
      }
    </nav>
  `,
  styles: `
    :host {
      display: block;
      padding: 16px 12px 16px 20px;
      overflow: auto;
    }
    nav {
      position: relative;
      display: grid;
      gap: 14px;
      padding-bottom: 24px;
    }
    nav::before {
      content: '';
      position: absolute;
      left: 6px;
      top: 0;
      bottom: 0;
      width: 10px;
      border-radius: 4px;
      background: linear-gradient(90deg, var(--timber), var(--timber-dark) 160%);
    }
    a {
      position: relative;
      display: grid;
      grid-template-columns: 22px minmax(0, 1fr);
      gap: 8px;
      color: var(--ink);
      text-decoration: none;
      min-height: 38px;
    }
    i {
      width: 22px;
      height: 22px;
      border-radius: 50%;
      background: var(--ground);
      border: 2px solid var(--timber-dark);
    }
    .done i {
      background: radial-gradient(circle, var(--spruce) 0 3px, var(--ground) 3.5px 4.5px, var(--spruce) 5px);
      border-color: var(--spruce);
    }
    .open i {
      border: 5px double var(--ochre);
    }
    .here i,
    .working i {
      border: 5px solid var(--spruce);
    }
    .working i {
      animation: pulse 1.6s ease-in-out infinite alternate;
    }
    .failed i {
      border: 5px solid var(--lead);
    }
    .shown b {
      color: var(--spruce);
    }
    small {
      display: block;
      font-size: 12.5px;
      line-height: 17px;
      color: var(--quiet);
    }
    .by {
      display: block;
      font-size: 11.5px;
    }
    .failed small {
      color: var(--lead);
    }
    @keyframes pulse {
      to {
        border-color: var(--timber-dark);
      }
    }
  `,
})
export class Spine {
  readonly move = input.required<MoveSummary>();
  readonly shown = input.required<MoveStep>();
  protected readonly names: Record<MoveStep, string> = STEP_NAMES;
}
