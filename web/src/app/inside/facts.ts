import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import {
  RULE_SETTINGS,
  SETTINGS,
  SETTING_LABELS,
  namedSetting,
  openSettingWords,
  ruleSentences,
  type Course,
  type SettingName,
  type Subject,
} from '@treenail/core';

/** What is set of an item or of a place: its rules as sentences, the rest by name. Nothing where nothing is set. */
@Component({
  selector: 'tn-facts',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (sentences().length > 0) {
      <ul class="rules" aria-label="Rules">
        @for (sentence of sentences(); track $index) {
          <li>{{ sentence }}</li>
        }
      </ul>
    }
    @if (named().length > 0) {
      <dl class="facts">
        @for (setting of named(); track setting.name) {
          <dt>{{ setting.name }}</dt>
          <dd>{{ setting.value }}</dd>
        }
      </dl>
    }
  `,
  styleUrl: './facts.scss',
})
export class Facts {
  readonly of = input.required<Pick<Subject, 'kind' | 'settings'>>();
  readonly course = input.required<Course>();
  protected readonly sentences = computed(() => ruleSentences(this.of(), this.course()));
  protected readonly named = computed(() => {
    const titles = new Map(this.course().items.map((i) => [i.id, i.title]));
    const { settings } = this.of();
    return SETTINGS.flatMap((name) => {
      const value = settings[name];
      return value === undefined || AS_SENTENCES.has(name)
        ? []
        : [{ name: SETTING_LABELS[name], value: openSettingWords(name, namedSetting(name, value, titles)) }];
    });
  });
}

const AS_SENTENCES: ReadonlySet<SettingName> = new Set(RULE_SETTINGS);
