import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton, MatIconButton } from '@angular/material/button';
import { Refusal, checkNamingRule, nameByRule, type Named, type Problem } from '@treenail/core';
import type { Term } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { MatAutocomplete, MatAutocompleteTrigger } from '@angular/material/autocomplete';
import { MatOption } from '@angular/material/core';
import { House } from '../data/house';
import { MatFormField, MatPrefix } from '@angular/material/form-field';
import { MatIcon } from '@angular/material/icon';
import { MatInput } from '@angular/material/input';
import { DayField } from '../parts/day-field';

const ZONES = Intl.supportedValuesOf('timeZone');

/** The terms of the house and their breaks, and the rule by which copies are named. */
@Component({
  selector: 'tn-terms-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    DayField,
    MatAutocomplete,
    MatAutocompleteTrigger,
    MatButton,
    MatFormField,
    MatIcon,
    MatIconButton,
    MatInput,
    MatOption,
    MatPrefix,
  ],
  template: `
    <section class="panel" aria-label="Term calendar">
      <header>
        <h2>Term calendar</h2>
        <button matButton="outlined" [disabled]="!loaded.hasValue()" (click)="add()">Add a term</button>
      </header>
      <tn-awaited [of]="[loaded, rule]" />
      <ul aria-label="Terms">
        @for (term of terms(); track $index; let i = $index) {
          <li>
            <mat-form-field class="slim name" appearance="outline" subscriptSizing="dynamic">
              <input #name matInput aria-label="Name" [value]="term.name" (change)="set(i, { name: name.value })" />
            </mat-form-field>
            <tn-day-field
              [label]="'First day of ' + term.name"
              [day]="term.from"
              (dayChange)="set(i, { from: $event })"
            />
            <tn-day-field [label]="'Last day of ' + term.name" [day]="term.to" (dayChange)="set(i, { to: $event })" />
            <button
              matIconButton
              type="button"
              class="tiny"
              [attr.aria-label]="'Remove ' + term.name"
              (click)="remove(i)"
            >
              <mat-icon svgIcon="close" />
            </button>
            <mat-form-field class="slim breaks" appearance="outline" subscriptSizing="dynamic">
              <span matTextPrefix class="quiet">Breaks&nbsp;</span>
              <input
                #written
                matInput
                [attr.aria-label]="'Breaks of ' + term.name"
                placeholder="Name, 2026-10-26 to 2026-10-30; …"
                [value]="breaks(term)"
                (change)="setBreaks(i, written.value)"
              />
            </mat-form-field>
          </li>
        }
      </ul>
      @if (dirty()) {
        <div class="acts"><button matButton="filled" (click)="save()">Keep the calendar</button></div>
      }
      <h2>Time zone of the house</h2>
      <form (submit)="$event.preventDefault(); saveZone(zone.value)">
        <mat-form-field class="slim rule" appearance="outline" subscriptSizing="dynamic">
          <input
            #zone
            matInput
            aria-label="Time zone of the house"
            [value]="house.zone()"
            [matAutocomplete]="zones"
            (input)="asked.set(zone.value)"
          />
          <mat-autocomplete #zones="matAutocomplete">
            @for (name of offered(); track name) {
              <mat-option [value]="name">{{ name }}</mat-option>
            }
          </mat-autocomplete>
        </mat-form-field>
        <button matButton="outlined" type="submit" [disabled]="house.zone() === ''">Keep the zone</button>
      </form>
      <p class="quiet">A day that is entered is a day of this zone: the last day of an instance ends with it.</p>
      <h2>Naming rule</h2>
      <form (submit)="$event.preventDefault(); saveRule(text.value)">
        <mat-form-field class="slim rule mono" appearance="outline" subscriptSizing="dynamic">
          <input
            #text
            matInput
            aria-label="Rule by which copies are named"
            [value]="namingRule()"
            (input)="typed.set(text.value)"
          />
        </mat-form-field>
        <button matButton="outlined" type="submit" [disabled]="!rule.hasValue()">Keep the rule</button>
      </form>
      @if (example()) {
        <p>
          A copy would be called <code>{{ example() }}</code>
        </p>
      }
      <p class="quiet">Fields: code, section, term, title (title:4 is its first four words), date, each in braces.</p>
      @if (said()) {
        <p role="status">{{ said() }}</p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </section>
  `,
  styles: `
    section {
      display: grid;
      gap: 10px;
      padding: 14px 16px;
    }
    header,
    form {
      display: flex;
      justify-content: space-between;
      gap: 8px;
    }
    ul {
      display: grid;
      gap: 10px;
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 168px 168px 24px;
      align-items: center;
      gap: 6px;
    }
    .breaks {
      grid-column: 1 / 4;
    }
    .rule {
      flex: 1;
    }
    p {
      margin: 0;
    }
  `,
})
export class TermsPanel {
  private readonly api = inject(Api);
  protected readonly house = inject(House);
  protected readonly asked = signal('');
  /** Zones that hold what was written, a few of many. */
  protected readonly offered = computed(() => {
    const asked = this.asked().toLowerCase().replace(/\s+/g, '_');
    return ZONES.filter((name) => name.toLowerCase().includes(asked)).slice(0, 40);
  });
  // What is not known is not to be written over: nothing is kept before both have come.
  protected readonly loaded = rxResource({ stream: () => this.api.terms() });
  protected readonly rule = rxResource({ stream: () => this.api.namingRule() });
  private readonly lastTerms = lastOf(this.loaded);
  private readonly lastRule = lastOf(this.rule);
  protected readonly terms = linkedSignal<Term[]>(() => this.lastTerms() ?? []);
  protected readonly namingRule = linkedSignal(() => this.lastRule() ?? '');
  protected readonly typed = linkedSignal(() => this.namingRule());
  protected readonly example = computed(() => {
    const judged = judge(this.typed());
    return typeof judged === 'string' ? nameByRule(EXAMPLE, new Date(), 'imscc', judged) : '';
  });
  protected readonly dirty = signal(false);
  protected readonly said = signal('');
  protected readonly error = signal('');

  protected breaks(term: Term): string {
    return term.breaks.map((b) => `${b.name}, ${b.from} to ${b.to}`).join('; ');
  }

  protected set(at: number, change: Partial<Term>): void {
    this.terms.update((all) => all.map((term, i) => (i === at ? { ...term, ...change } : term)));
    this.dirty.set(true);
  }

  /** Breaks as a person writes them; what is not understood is said, and nothing is changed. */
  protected setBreaks(at: number, text: string): void {
    const parts = text.split(';').map((part) => part.trim());
    const breaks = parts.filter(Boolean).map((part) => BREAK.exec(part));
    if (breaks.some((b) => b === null)) {
      this.said.set('');
      this.error.set('A break is written as its name, a comma, and its days: Reading week, 2026-10-26 to 2026-10-30.');
      return;
    }
    this.error.set('');
    this.set(at, { breaks: breaks.map((b) => ({ name: b?.[1] ?? '', from: b?.[2] ?? '', to: b?.[3] ?? '' })) });
  }

  protected remove(at: number): void {
    this.terms.update((all) => all.filter((_term, i) => i !== at));
    this.dirty.set(true);
  }

  protected add(): void {
    const last = this.terms().at(-1);
    const day = last?.to ?? new Date().toISOString().slice(0, 10);
    this.terms.update((all) => [...all, { name: 'New term', from: day, to: day, breaks: [] }]);
    this.dirty.set(true);
  }

  protected save(): void {
    this.api.setTerms(this.terms()).subscribe({
      next: (terms) => {
        this.terms.set(terms);
        this.dirty.set(false);
        this.tell('The calendar is kept.');
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  protected saveRule(rule: string): void {
    const judged = judge(rule);
    if (typeof judged !== 'string') {
      this.said.set('');
      this.error.set(`${judged.message} ${judged.action}`);
      return;
    }
    this.api.setNamingRule({ rule }).subscribe({
      next: (kept) => {
        this.namingRule.set(kept);
        this.tell('Copies kept from now on are named by this rule.');
      },
      error: (error: unknown) => this.fail(error),
    });
  }

  protected saveZone(zone: string): void {
    this.house.setZone(zone).subscribe({
      next: (kept) => this.tell(`Days are those of ${kept} from now on; dates that were set before stay as they are.`),
      error: (error: unknown) => this.fail(error),
    });
  }

  private tell(words: string): void {
    this.error.set('');
    this.said.set(words);
  }

  private fail(error: unknown): void {
    this.said.set('');
    this.error.set(wordsOf(error));
  }
}

const BREAK = /^(.+?),\s*(\d{4}-\d\d-\d\d)\s+to\s+(\d{4}-\d\d-\d\d)$/;

const EXAMPLE: Named = { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Wooden Boat Repair' };

/** The rule if it is one, or what is wrong with it. */
function judge(rule: string): string | Problem {
  try {
    return checkNamingRule(rule.trim());
  } catch (error) {
    if (error instanceof Refusal) return error.problem;
    throw error;
  }
}
