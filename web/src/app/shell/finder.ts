import { ChangeDetectionStrategy, Component, ElementRef, inject, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatAutocompleteModule, type MatAutocompleteSelectedEvent } from '@angular/material/autocomplete';
import { Router } from '@angular/router';
import type { SearchHit } from '@treenail/server/contract';
import { catchError, debounceTime, distinctUntilChanged, map, of, switchMap } from 'rxjs';
import { Slash } from '../parts/list/slash';
import { Api, wordsOf } from '../data/api';
import { MatFormField, MatSuffix } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';

const KINDS: Record<SearchHit['kind'], string> = { course: 'course', move: 'move', copy: 'kept copy', item: 'item' };

/** What was found, or what is said where nothing was. */
interface Answer {
  found: readonly SearchHit[];
  words: string;
}
const SILENCE: Answer = { found: [], words: '' };

/** The search in the top bar, reached by `/`. */
@Component({
  selector: 'tn-finder',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatAutocompleteModule, MatFormField, MatInput, MatSuffix, ReactiveFormsModule],
  template: `
    <mat-form-field class="slim" appearance="outline" subscriptSizing="dynamic">
      <input
        #box
        matInput
        type="search"
        [formControl]="words"
        [matAutocomplete]="auto"
        aria-label="Find a course, move, copy or item"
        placeholder="Find a course, copy or item"
        (focus)="here.set(true)"
        (blur)="here.set(false)"
      />
      @if (!here()) {
        <kbd matSuffix aria-hidden="true">{{ slash.isTaken() ? 'g /' : '/' }}</kbd>
      }
    </mat-form-field>
    <mat-autocomplete #auto="matAutocomplete" (optionSelected)="open($event)" [displayWith]="nothing">
      @for (found of answer().found; track found.link + found.title) {
        <mat-option [value]="found">
          {{ found.title }} <span class="quiet">{{ kinds[found.kind] }}, {{ found.detail }}</span>
        </mat-option>
      } @empty {
        @if (answer().words; as words) {
          <mat-option disabled class="says">{{ words }}</mat-option>
        }
      }
    </mat-autocomplete>
  `,
  styles: `
    :host {
      position: relative;
      display: block;
    }
    mat-form-field {
      width: 100%;
    }
    kbd {
      white-space: nowrap;
      margin-right: 8px;
      padding: 0 5px;
      border: 1px solid var(--line);
      border-radius: 3px;
      font: 11px var(--mono);
      color: var(--quiet);
      pointer-events: none;
    }
  `,
})
export class Finder {
  protected readonly slash = inject(Slash);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  protected readonly kinds = KINDS;
  protected readonly here = signal(false);
  protected readonly words = new FormControl<string | SearchHit>('', { nonNullable: true });
  protected readonly answer = toSignal(
    this.words.valueChanges.pipe(
      debounceTime(150),
      distinctUntilChanged(),
      switchMap((words) =>
        typeof words === 'string' && words.trim().length > 1
          ? this.api.search({ q: words }).pipe(
              map((found): Answer => ({ found, words: 'Nothing is called that.' })),
              catchError((error: unknown) => of<Answer>({ found: [], words: wordsOf(error) })),
            )
          : of(SILENCE),
      ),
    ),
    { initialValue: SILENCE },
  );
  protected readonly nothing = () => '';

  focus(): void {
    this.box().nativeElement.focus();
  }

  protected open(event: MatAutocompleteSelectedEvent): void {
    this.words.setValue('');
    void this.router.navigateByUrl((event.option.value as SearchHit).link);
  }
}
