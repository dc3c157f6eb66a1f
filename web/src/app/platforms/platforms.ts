import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatSelectModule } from '@angular/material/select';
import { MatCheckbox } from '@angular/material/checkbox';
import { RouterLink } from '@angular/router';
import { count, type QuietHours } from '@treenail/core';
import type { PlatformChange, PlatformSummary } from '@treenail/server/contract';
import { House } from '../data/house';
import { endOf } from '../parts/days';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { WhenPipe, daysUntil } from '../parts/words';
import { AddDialog } from './add-dialog';
import { ExportsDialog } from './exports-dialog';
import { ProfilePanel } from './profile-panel';
import { ClosedDaysPanel } from './closed-days-panel';
import { TermsPanel } from './terms-panel';
import { ListCell, Table, type ListColumn } from '../parts/list';
import { DayField } from '../parts/day-field';
import { MatInput } from '@angular/material/input';

/** Minutes that one can choose to wait. */
const PATIENCES = [15, 60, 240, 840, 1440, 4320];

/** How old a number is that a platform told. */
function ageWords(checkedAt: string): string {
  const minutes = Math.floor((Date.now() - Date.parse(checkedAt)) / 60_000);
  return minutes < 1
    ? 'just now'
    : minutes < 60
      ? `${minutes} min ago`
      : `${count(Math.floor(minutes / 60), 'hour')} ago`;
}

/** The connected instances: how they are, what threatens them, what they can hold; and the calendar of the house. */
@Component({
  selector: 'tn-platforms',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    DayField,
    ListCell,
    MatButton,
    MatCheckbox,
    MatFormFieldModule,
    MatInput,
    MatSelectModule,
    ProfilePanel,
    RouterLink,
    Table,
    ClosedDaysPanel,
    TermsPanel,
    WhenPipe,
  ],
  templateUrl: './platforms.html',
  styleUrl: './platforms.scss',
})
export class PlatformsPage {
  private readonly house = inject(House);
  private readonly api = inject(Api);
  private readonly dialog = inject(MatDialog);
  protected readonly count = count;
  protected readonly loaded = rxResource({ stream: () => this.api.platforms() });
  private readonly list = lastOf(this.loaded);
  protected readonly platforms = computed(() => this.list() ?? []);
  protected readonly known = computed(() => this.list() !== null);
  protected readonly error = signal('');
  protected readonly chosenId = linkedSignal<PlatformSummary[], number | null>({
    source: this.platforms,
    computation: (list, before) => list.find((p) => p.id === before?.value)?.id ?? list[0]?.id ?? null,
  });
  protected readonly chosen = computed(() => this.platforms().find((p) => p.id === this.chosenId()) ?? null);
  protected readonly headline = computed(() => {
    if (!this.known()) return 'Platforms';
    const silent = this.platforms().filter((p) => p.health?.ok === false).length;
    const trouble = silent > 0 ? `, ${silent} of them ${silent === 1 ? 'does' : 'do'} not work` : '';
    return `${count(this.platforms().length, 'connected instance')}${trouble}`;
  });
  protected readonly columns: readonly ListColumn<PlatformSummary>[] = [
    { id: 'instance', name: 'Instance', value: (p) => p.name },
    {
      id: 'platform',
      name: 'Platform',
      value: (p) => `${p.label}, ${[p.gives ? 'gives' : '', p.takes ? 'takes' : ''].filter(Boolean).join(' and ')}`,
    },
    { id: 'health', name: 'Health', value: (p) => this.health(p) },
    { id: 'queue', name: 'Export queue', value: (p) => p.health?.queue ?? null },
    { id: 'courses', name: 'Courses', is: 'number', value: (p) => p.courses },
    { id: 'bare', name: 'No kept copy', is: 'number', value: (p) => p.withoutCopy },
    { id: 'gone', name: 'Gone after', value: (p) => p.cutOff?.at ?? null },
  ];
  /** The last day that a person has entered, ISO 8601; '' where none. */
  protected readonly last = signal('');
  protected readonly checking = signal(false);
  protected readonly entering = signal(false);
  protected readonly quietWords = quietWords;

  protected health({ health }: PlatformSummary): string {
    if (!health) return 'not asked yet';
    if (!health.ok) return 'does not work';
    return `answers in ${health.took} ms`;
  }

  protected queue({ health, gives }: PlatformSummary): string {
    if (!health?.ok || !gives) return '';
    const old = ageWords(health.checkedAt);
    return health.queue === 0
      ? `empty ${old}`
      : `${count(health.queue, 'job')}, about ${Math.ceil((health.queue * health.each) / 60)} min, ${old}`;
  }

  /** The choices, and what is set if it is none of them. */
  protected patienceOf({ patienceMinutes }: PlatformSummary): { minutes: number; words: string }[] {
    const minutes = [...new Set([...PATIENCES, patienceMinutes])].sort((a, b) => a - b);
    return minutes.map((m) => ({
      minutes: m,
      words: m < 60 ? count(m, 'minute') : m % 1440 === 0 ? count(m / 1440, 'day') : count(m / 60, 'hour'),
    }));
  }

  /** Usual hours, and what is set if it is none of them. */
  protected quietChoices({ quiet }: PlatformSummary): string[] {
    return [...new Set([NO_HOURS, ...HOURS, quietWords(quiet)])];
  }

  protected quietOf(words: string): QuietHours | null {
    const [from = '', to = ''] = words.split(' to ');
    return words === NO_HOURS ? null : { from, to };
  }

  protected retryAll(platform: PlatformSummary): void {
    this.error.set('');
    this.api.retryAll(platform.id).subscribe({
      next: () => this.done(),
      error: (error: unknown) => this.failed(error),
    });
  }

  protected showExports(platform: PlatformSummary): void {
    this.dialog.open<ExportsDialog, PlatformSummary>(ExportsDialog, { data: platform, width: '720px' });
  }

  /** How soon an instance is gone; nothing where there is time. */
  protected left(at: string): string {
    const days = daysUntil(at);
    if (Date.parse(at) < Date.now()) return 'gone';
    return days === 0 ? 'today' : days < 60 ? `${count(days, 'day')} left` : '';
  }

  protected add(): void {
    this.dialog
      .open<AddDialog, undefined, number>(AddDialog, { width: '520px' })
      .afterClosed()
      .subscribe((id) => {
        if (id === undefined) return;
        this.loaded.reload();
        this.chosenId.set(id);
      });
  }

  protected check(platform: PlatformSummary): void {
    this.checking.set(true);
    this.api.checkPlatform(platform.id).subscribe({
      next: () => this.done(),
      error: (error: unknown) => this.failed(error),
    });
  }

  protected replaceToken(platform: PlatformSummary, credential: string): void {
    if (credential === '') this.error.set('Enter the new token first.');
    else this.change(platform, { credential });
  }

  protected setCutOff(platform: PlatformSummary, date: string, why: string): void {
    const at = endOf(date, this.house.zone());
    if (date === '' || why.trim() === '') this.error.set('Enter the last day, and why it will be gone after it.');
    else if (at === null)
      this.error.set('The time zone of the house could not be had: reload the page, and try again.');
    else {
      this.last.set('');
      this.change(platform, { cutOff: { at, why } });
    }
  }

  protected change(platform: PlatformSummary, change: PlatformChange): void {
    this.error.set('');
    this.api.changePlatform(platform.id, change).subscribe({
      next: () => this.done(),
      error: (error: unknown) => this.failed(error),
    });
  }

  protected changed(): void {
    this.loaded.reload();
  }

  private done(): void {
    this.checking.set(false);
    this.entering.set(false);
    this.loaded.reload();
  }

  private failed(error: unknown): void {
    this.checking.set(false);
    this.error.set(wordsOf(error));
  }
}

const NO_HOURS = 'none';
const HOURS = ['20:00 to 07:00', '22:00 to 06:00', '00:00 to 05:00'];

function quietWords(quiet: QuietHours | null): string {
  return quiet ? `${quiet.from} to ${quiet.to}` : NO_HOURS;
}
