import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import {
  KIND_LABELS,
  SETTING_LABELS,
  namedSetting,
  openSettingWords,
  type CheckedLine,
  type Line,
  type Outcome,
  type SettingName,
  type SettingValue,
} from '@treenail/core';
import { Peg } from '../parts/peg';

export interface LineWords {
  /** Said where the left side has nothing. */
  absent: string;
  outcomes: Partial<Record<Outcome, string>>;
}

/** Both versions of one line side by side, with what differs marked. */
@Component({
  selector: 'tn-line-detail',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Peg],
  template: `
    @if (line(); as line) {
      <div>
        <h3>
          {{ line.title }} <span class="quiet">{{ kinds[line.kind] }}</span>
        </h3>
        @if (line.source === null) {
          <p class="quiet">{{ says().absent }}</p>
        }
        <dl class="facts">
          @for (setting of line.settings; track setting.name) {
            <dt>{{ labels[setting.name] }}</dt>
            <dd>{{ words(setting.name, setting.was) }}</dd>
          }
        </dl>
      </div>
      <div>
        <h3>
          <tn-peg [outcome]="line.outcome" /> {{ outcomeWords(line) }}
          @if (predicted(line); as said) {
            <span class="tag due said">foretold {{ said }}</span>
          }
        </h3>
        @for (reason of line.reasons; track reason) {
          <p>{{ reason }}</p>
        }
        <dl class="facts">
          @for (setting of line.settings; track setting.name) {
            <dt>{{ labels[setting.name] }}</dt>
            <dd>
              @if (setting.outcome === 'whole') {
                {{ words(setting.name, setting.is) }}
              } @else {
                <span
                  class="tag"
                  [class.lost]="setting.outcome === 'left behind'"
                  [class.due]="setting.outcome !== 'left behind'"
                  >{{ says().outcomes[setting.outcome] ?? setting.outcome }}</span
                >
                {{ setting.reason }}
              }
            </dd>
          }
          @for (part of line.parts; track $index) {
            <dt>{{ part.title }}</dt>
            <dd>{{ part.reason }}</dd>
          }
        </dl>
      </div>
    } @else {
      <p class="quiet none">Choose a row to see both versions side by side.</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 1fr 1fr;
      overflow: auto;
      background: var(--surface);
      border: 1px solid var(--line);
      border-radius: 4px;
    }
    div {
      padding: 10px 14px;
      min-width: 0;
    }
    div + div {
      border-left: 1px solid var(--line);
    }
    p {
      margin: 2px 0;
    }
    .none {
      padding: 10px 14px;
      grid-column: 1 / -1;
    }
    .said {
      margin-left: 8px;
    }
    .facts {
      margin-top: 6px;
    }
  `,
})
export class LineDetail {
  readonly line = input.required<Line | CheckedLine | null>();
  /** Where the two sides are no source and destination, other words are used. */
  readonly says = input<LineWords>({ absent: 'Nothing of this name was sent.', outcomes: {} });
  /** Titles of the items that conditions name, by their identifiers. */
  readonly titles = input<ReadonlyMap<string, string>>(new Map());
  protected readonly kinds = KIND_LABELS;
  protected readonly labels = SETTING_LABELS;

  protected outcomeWords(line: Line | CheckedLine): string {
    const words = this.says().outcomes[line.outcome] ?? line.outcome;
    return line.as !== null && line.as !== line.kind ? `${words}, as ${KIND_LABELS[line.as]}` : words;
  }

  protected words(name: SettingName, value: SettingValue | null): string {
    return value === null ? 'not set' : openSettingWords(name, namedSetting(name, value, this.titles()));
  }

  protected predicted(line: Line | CheckedLine): string | null {
    return 'predicted' in line && line.predicted !== null && line.predicted !== line.outcome ? line.predicted : null;
  }
}
