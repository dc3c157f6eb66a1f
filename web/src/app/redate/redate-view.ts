import { ChangeDetectionStrategy, Component, computed, inject, input, model, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import { MatDialog } from '@angular/material/dialog';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import {
  DATE_NAMES,
  DATE_NAME_LABELS,
  KIND_LABELS,
  clockWords,
  count,
  datesAsCalendar,
  datesAsCsv,
  datesFromCsv,
  dayOf,
  onDay,
  redated,
  type ClosedDay,
  type DateName,
  type DateRule,
  type KnownDate,
  type Moment,
  type Note,
  type RedatePlan,
  type RedateRow,
  type Term,
  type TextChoice,
  type WrittenDate,
} from '@treenail/core';
import { List, ListCell, type ListColumn, type ListKey } from '../parts/list';
import { give } from '../parts/list/sheet';
import { Pick } from '../parts/pick';
import { DateMark } from './date-mark';
import { HandDialog, type HandChoice, type HandDialogData } from './hand-dialog';
import { OthersDialog, type OthersDialogData } from './others-dialog';
import { DateRuleForm } from './rule-form';
import { DateStrips, stripAround, stripOf } from './strips';
import { goWords, isToLookAt, lookWords, notesOf } from './wording';

/** What is known of the dates of a course. */
export interface RedateData {
  dates: readonly KnownDate[];
  written: readonly WrittenDate[];
  folders: readonly { id: string; title: string }[];
  terms: readonly Term[];
  closed: readonly ClosedDay[];
  zone: string;
  today: string;
  from: string | null;
  to: string | null;
  notes: readonly Note[];
}

type Shown = 'all' | 'look' | DateName;

/** Dates that are re-dated: the rule, both strips, and every date as it was and as it will be. */
@Component({
  selector: 'tn-redate-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    DateMark,
    DateRuleForm,
    DateStrips,
    List,
    ListCell,
    MatButton,
    MatButtonToggleModule,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    Pick,
  ],
  templateUrl: './redate-view.html',
  styleUrl: './redate-view.scss',
})
export class RedateView {
  readonly data = input.required<RedateData>();
  /** What the course is called in names of files. */
  readonly called = input.required<string>();
  /** Whether anything can be decided still. */
  readonly open = input(true);
  /** What is being decided. */
  readonly draft = model.required<RedatePlan>();

  private readonly dialog = inject(MatDialog);
  protected readonly at = signal<ListKey | null>(null);
  protected readonly shown = signal<Shown>('all');
  protected readonly error = signal('');
  protected readonly notesOf = notesOf;
  private readonly redating = computed(() => {
    const { dates, written, closed, zone, today } = this.data();
    return redated(dates, this.draft(), { closed, zone, today, written });
  });
  protected readonly rows = computed(() => this.redating().rows);
  protected readonly sums = computed(() => this.redating().sums);
  protected readonly texts = computed(() => this.sums().texts);
  protected readonly goes = computed(() => goWords(this.draft(), this.sums()));
  protected readonly looks = computed(() => lookWords(this.sums()));
  protected readonly suggested = computed(() => {
    const { terms, from, to } = this.data();
    return {
      from: terms.find((t) => t.name === from) ?? terms[0] ?? null,
      to: terms.find((t) => t.name === to) ?? terms.at(-1) ?? null,
    };
  });
  protected readonly firstDay = computed(() => {
    const days = this.rows().flatMap((row) => (row.wasDay === null ? [] : [row.wasDay]));
    return days.length === 0 ? this.data().today : dayOf(Math.min(...days));
  });
  protected readonly strips = computed(() => {
    const { rule } = this.draft();
    if (rule.is === 'term' || rule.is === 'stretch') {
      const says = rule.is === 'term' ? 'as it will be, week for week' : 'as it will be, fitted to its length';
      return { before: stripOf(rule.from, 'as it was'), after: stripOf(rule.to, says) };
    }
    const plain = this.rows().filter((row) => row.words === null);
    const before = stripAround(
      plain.map((row) => row.wasDay),
      'as it was',
    );
    const after = stripAround(
      plain.map((row) => row.willDay),
      'as it will be',
    );
    return before && { before, after: after ?? before };
  });
  protected readonly parts = computed(() => {
    const rows = this.rows();
    const named = (name: DateName) => ({
      id: name as Shown,
      words: name === 'written' ? 'in texts' : DATE_NAME_LABELS[name],
      count: rows.filter((row) => row.name === name).length,
    });
    return [
      { id: 'all' as Shown, words: 'all', count: rows.length },
      { id: 'look' as Shown, words: 'to look at', count: rows.filter(isToLookAt).length },
      ...DATE_NAMES.map(named),
    ].filter((part) => part.id === 'all' || part.count > 0);
  });
  protected readonly listed = computed(() => {
    const shown = this.shown();
    if (shown === 'all') return this.rows();
    return this.rows().filter((row) => (shown === 'look' ? isToLookAt(row) : row.name === shown));
  });
  protected readonly columns: readonly ListColumn<RedateRow>[] = [
    { id: 'mark', name: 'Mark', width: 58, value: (row) => (isToLookAt(row) ? 0 : row.notes.length > 0 ? 1 : 2) },
    { id: 'item', name: 'Item', value: (row) => row.title },
    { id: 'kind', name: 'Kind', width: 112, value: (row) => KIND_LABELS[row.kind] },
    { id: 'date', name: 'Date', width: 80, value: (row) => DATE_NAME_LABELS[row.name] },
    {
      id: 'was',
      name: 'As it was',
      width: 160,
      value: (row) => row.wasDay,
      words: (row) => (row.words ? `“${row.words.phrase}”` : row.was ? clockWords(row.was, this.data().zone) : ''),
    },
    {
      id: 'will',
      name: 'As it will be',
      width: 174,
      value: (row) => row.willDay,
      words: (row) => this.willOf(row),
    },
    {
      id: 'notes',
      name: 'To look at',
      value: (row) =>
        notesOf(row)
          .map((n) => n.words)
          .join(' '),
    },
  ];
  protected readonly keyOf = (row: RedateRow) => row.key;
  protected readonly nameOf = (row: RedateRow) => `${row.title}, ${DATE_NAME_LABELS[row.name]}`;
  protected readonly besideOf = (row: RedateRow) => row.words?.sentence ?? '';

  protected willOf(row: RedateRow): string {
    const { words, will, state } = row;
    if (words) {
      if (words.becomes === null) return 'read it';
      if (words.becomes === words.phrase) return 'reads the same';
      return state === 'moved' || words.choice === 'open' ? `“${words.becomes}”` : 'left as it is';
    }
    return will === null ? 'taken away' : clockWords(will, this.data().zone);
  }

  protected turn(rule: DateRule): void {
    this.draft.update((plan) => ({ ...plan, rule }));
  }

  /** Sets dates by hand; `undefined` goes back to the rule. */
  private hand(changes: readonly (readonly [string, Moment | null | undefined])[]): void {
    this.draft.update((plan) => {
      const byHand = { ...plan.byHand };
      for (const [key, to] of changes) {
        if (to === undefined) delete byHand[key];
        else byHand[key] = to;
      }
      return { ...plan, byHand };
    });
  }

  protected shift(rows: readonly RedateRow[], by: number): void {
    const { zone } = this.data();
    this.hand(
      rows.flatMap(({ key, will, willDay }) =>
        will === null || willDay === null ? [] : [[key, onDay(will, willDay + by, zone).moment] as const],
      ),
    );
    this.stand(rows);
  }

  protected stand(rows: readonly RedateRow[]): void {
    this.at.set(rows[0]?.key ?? null);
  }

  protected toRule({ key }: RedateRow): void {
    this.hand([[key, undefined]]);
  }

  protected text({ key }: RedateRow, choice: TextChoice): void {
    this.draft.update((plan) => ({ ...plan, texts: { ...plan.texts, [key]: choice } }));
  }

  protected putAllTexts(): void {
    this.draft.update((plan) => ({
      ...plan,
      allTexts: true,
      texts: Object.fromEntries(Object.entries(plan.texts).filter(([, choice]) => choice.is === 'words')),
    }));
  }

  protected setByHand(row: RedateRow): void {
    if (!this.open()) return;
    const data: HandDialogData = { row, zone: this.data().zone };
    this.dialog
      .open<HandDialog, HandDialogData, HandChoice>(HandDialog, { data, width: '520px' })
      .afterClosed()
      .subscribe((choice) => {
        if (choice?.is === 'rule') this.toRule(row);
        else if (choice?.is === 'date') this.hand([[row.key, choice.to]]);
        else if (choice) this.text(row, choice.to);
      });
  }

  protected showOthers(): void {
    const { dates, folders, terms } = this.data();
    const data: OthersDialogData = {
      plan: this.draft(),
      dates,
      folders,
      terms,
      suggested: this.suggested(),
      firstDay: this.firstDay(),
    };
    this.dialog
      .open<OthersDialog, OthersDialogData, RedatePlan['others']>(OthersDialog, {
        data,
        width: '760px',
        maxWidth: '92vw',
      })
      .afterClosed()
      .subscribe((others) => {
        if (others) this.draft.update((plan) => ({ ...plan, others }));
      });
  }

  protected giveTable(): void {
    this.give(datesAsCsv(this.rows(), this.data().zone), 'text/csv', 'csv');
  }

  protected giveCalendar(): void {
    const text = datesAsCalendar(this.rows(), this.called(), new Date().toISOString());
    this.give(text, 'text/calendar', 'ics');
  }

  private give(text: string, type: string, ending: string): void {
    give(new Blob([text], { type }), `${this.called().replaceAll(' ', '-')}_dates.${ending}`);
  }

  protected bringBack(files: readonly File[]): void {
    this.error.set('');
    const [file] = files;
    void file?.text().then((csv) => {
      const read = datesFromCsv(csv, this.rows(), this.data().zone, file.name);
      if (read.problems.length > 0) {
        const lines = read.problems.slice(0, 8).map((p) => `Line ${p.line ?? 1}: ${p.message} ${p.action}`);
        const more = read.problems.length - lines.length;
        const all = [...lines, ...(more > 0 ? [`And ${count(more, 'line')} more.`] : [])];
        this.error.set([`Nothing was taken from ${file.name}.`, ...all].join('\n'));
        return;
      }
      this.draft.update((plan) => ({
        ...plan,
        byHand: { ...plan.byHand, ...read.byHand },
        texts: { ...plan.texts, ...read.texts },
      }));
    });
  }
}
