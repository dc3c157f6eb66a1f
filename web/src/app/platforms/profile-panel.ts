import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import {
  KIND_LABELS,
  LIMIT_LABELS,
  SETTING_LABELS,
  SubjectKind,
  profileChanges,
  withArticle,
  type KindRule,
  type Profile,
  type SettingName,
} from '@treenail/core';
import type { PlatformSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { WhenPipe } from '../parts/words';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatOption, MatSelect } from '@angular/material/select';
import { ListCell, Table, type ListColumn } from '../parts/list';

type LimitName = keyof Profile['limits'];

/** Limits that are numbers. */
type NumberLimit = Exclude<LimitName, 'nameCharacters' | 'belowItems'>;
const NUMBERS = (Object.keys(LIMIT_LABELS) as LimitName[]).filter(
  (n): n is NumberLimit => n !== 'nameCharacters' && n !== 'belowItems',
);

/** What a destination can hold: to be read, and to be set right where experience says otherwise. */
@Component({
  selector: 'tn-profile-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, ListCell, MatButton, MatFormField, MatInput, MatLabel, MatOption, MatSelect, Table, WhenPipe],
  templateUrl: './profile-panel.html',
  styleUrl: './profile-panel.scss',
})
export class ProfilePanel {
  private readonly api = inject(Api);
  readonly platform = input.required<PlatformSummary>();
  readonly changed = output();
  protected readonly kinds = SubjectKind.options;
  protected readonly labels = KIND_LABELS;
  protected readonly limitLabels = LIMIT_LABELS;
  protected readonly limitNames = NUMBERS;
  protected readonly loaded = rxResource({
    params: () => this.platform().id,
    stream: ({ params }) => this.api.profile(params),
  });
  private readonly last = lastOf(this.loaded);
  protected readonly answer = linkedSignal(() => this.last());
  protected readonly draft = linkedSignal<Profile | null>(() => this.answer()?.profile ?? null);
  protected readonly changes = computed(() => {
    const [before, after] = [this.answer()?.profile, this.draft()];
    return before && after ? profileChanges(before, after) : [];
  });
  protected readonly columns: readonly ListColumn<SubjectKind>[] = [
    { id: 'kind', name: 'Kind', value: (kind) => KIND_LABELS[kind] },
    { id: 'arrives', name: 'Arrives', value: (kind) => this.ruleOf(kind), width: 172 },
    { id: 'why', name: 'Why, and what it loses', value: (kind) => this.reasonOf(kind) },
  ];
  protected readonly error = signal('');
  protected readonly busy = signal(false);
  protected readonly withArticle = withArticle;

  protected ruleOf(kind: SubjectKind): string {
    const rule = this.draft()?.kinds[kind];
    return !rule ? 'whole' : rule.carry === 'never' ? 'never' : (rule.ways[0]?.as ?? 'whole');
  }

  protected reasonOf(kind: SubjectKind): string {
    const rule = this.draft()?.kinds[kind];
    return !rule ? '' : rule.carry === 'never' ? rule.reason : (rule.ways[0]?.reason ?? '');
  }

  /** What becomes of its settings, in words; '' where all are held, and where it does not arrive as what it is. */
  protected lost(kind: SubjectKind): string {
    if (this.ruleOf(kind) !== 'whole') return '';
    const { settings, keeps } = this.draft() ?? {};
    const words = (names: readonly string[]) => names.map((name) => SETTING_LABELS[name as SettingName]).join(', ');
    const lost = words(Object.keys(settings?.[kind] ?? {}));
    if (!keeps) return lost && `loses ${lost}`;
    const kept = words(keeps[kind] ?? []);
    return kept ? `loses all settings but ${kept}` : 'loses all settings';
  }

  protected setRule(kind: SubjectKind, value: string): void {
    this.draft.update((profile) => {
      if (!profile) return profile;
      const { [kind]: before, ...others } = profile.kinds;
      if (value === 'whole') return { ...profile, kinds: others };
      const reason = before ? this.reasonOf(kind) : `as it was seen at ${this.platform().name}`;
      const rule: KindRule =
        value === 'never'
          ? { carry: 'never', reason }
          : { carry: 'as', ways: [{ as: SubjectKind.parse(value), reason, drops: [] }] };
      return { ...profile, kinds: { ...others, [kind]: rule } };
    });
  }

  /** What can not be taken does not stay in the field either. */
  protected setReason(kind: SubjectKind, field: HTMLInputElement): void {
    const reason = field.value.trim();
    this.draft.update((profile) => {
      const rule = profile?.kinds[kind];
      if (!profile || !rule || reason === '') return profile;
      const changed: KindRule =
        rule.carry === 'never'
          ? { carry: 'never', reason }
          : { ...rule, ways: rule.ways.map((way, i) => (i === 0 ? { ...way, reason } : way)) };
      return { ...profile, kinds: { ...profile.kinds, [kind]: changed } };
    });
    field.value = this.reasonOf(kind);
  }

  protected setLimit(name: NumberLimit, field: HTMLInputElement): void {
    const at = Number(field.value);
    this.draft.update((profile) => {
      if (!profile) return profile;
      const { [name]: before, ...others } = profile.limits;
      if (!Number.isInteger(at) || at <= 0) return { ...profile, limits: others };
      const reason = before?.reason ?? `as it was seen at ${this.platform().name}`;
      return { ...profile, limits: { ...others, [name]: { at, reason } } };
    });
    field.value = String(this.draft()?.limits[name]?.at ?? '');
  }

  protected setCharacters(not: string): void {
    this.draft.update((profile) => {
      if (!profile) return profile;
      const { nameCharacters: before, ...others } = profile.limits;
      if (not === '') return { ...profile, limits: others };
      const reason = before?.reason ?? `leaves out files whose names have any of them, as it was seen`;
      return { ...profile, limits: { ...others, nameCharacters: { not, reason } } };
    });
  }

  protected undo(): void {
    this.draft.set(this.answer()?.profile ?? null);
  }

  protected save(note: string): void {
    const profile = this.draft();
    if (!profile || this.busy()) return;
    if (note.trim() === '') {
      this.error.set('Write why it is changed: others will rely on it.');
      return;
    }
    this.error.set('');
    this.busy.set(true);
    this.api.changeProfile(this.platform().id, { profile, note: note.trim() }).subscribe({
      next: (answer) => {
        this.busy.set(false);
        this.answer.set(answer);
        this.changed.emit();
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
