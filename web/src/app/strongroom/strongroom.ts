import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  numberAttribute,
  signal,
  viewChild,
} from '@angular/core';
import { rxResource, takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { FormControl, FormGroup, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import type { CopiesPage, CopySummary, ErrandAct } from '@treenail/server/contract';
import { auditTime, filter, tap } from 'rxjs';
import { ADDRESSES, Api, wordsOf } from '../data/api';
import { JobsService } from '../data/jobs';
import { MoveStarter } from '../courses/start-move';
import { ErrandStarter } from '../errands/errand-starter';
import { GivenList } from '../errands/given-list';
import { count, courseName, linkedName, missingOf, readWords, readableSize } from '@treenail/core';
import { Awaited, lastOf } from '../parts/awaited';
import { List, ListCell, type ListColumn, type ListKey, type ListSource } from '../parts/list';
import { HashPipe, CourseNamePipe, SizePipe, WhenPipe, copyWords } from '../parts/words';

/** The kept copies, newest first, and one of them at the right. */
@Component({
  selector: 'tn-strongroom',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CourseNamePipe,
    GivenList,
    HashPipe,
    List,
    ListCell,
    MatButton,
    MatFormFieldModule,
    MatInput,
    ReactiveFormsModule,
    RouterLink,
    SizePipe,
    WhenPipe,
  ],
  template: `
    <h1>{{ head() }}</h1>
    <tn-awaited onlyFailures [of]="[detail]" />
    <div class="halves" [class.alone]="!chosen()">
      <tn-list
        choosable
        first="-kept"
        hint="Filter by course or file name"
        [noun]="['kept copy', 'copies']"
        [pages]="pages"
        [columns]="columns"
        [key]="idOf"
        [named]="copyName"
        [(at)]="at"
        [(chosen)]="ticked"
      >
        <ng-container tnNarrow>
          @if (pair(); as two) {
            <a matButton="outlined" class="small" routerLink="/bench" [queryParams]="{ copy: two[0], beside: two[1] }"
              >Hold the two beside each other</a
            >
          } @else if (ticked().size > 0) {
            <span class="quiet">{{ pairWords() }}</span>
          }
        </ng-container>
        <ng-template tnCell="course" [of]="pages" let-copy>
          <b>{{ copy | courseName }}</b> {{ copy.title }}
        </ng-template>
        <ng-template tnCell="holds" [of]="pages" let-copy>
          @if (copy.removed) {
            <span class="tag lost">removed</span>
          } @else {
            {{ count(copy.facts.shown ?? copy.items, 'item') }}
            @if (copy.facts.counted !== null && copy.facts.counted !== copy.facts.shown) {
              <span class="tag due">of {{ copy.facts.counted }}</span>
            }
            @if (copy.damagedAt) {
              <span class="tag lost">damaged</span>
            }
          }
          @if (copy.partial) {
            <span class="tag due">in part</span>
          }
          @if (copy.personal) {
            <span class="tag personal">personal data</span>
          }
        </ng-template>
        <p tnNone>
          Every course that is fetched is kept here, byte for byte as the platform gave it.
          <a routerLink="/courses">Choose a course to move</a>
        </p>
      </tn-list>
      @if (chosen(); as copy) {
        <section class="panel one" aria-label="The chosen copy">
          <h2>{{ copy | courseName }} {{ copy.title }}</h2>
          <code>{{ copy.fileName }}</code>
          <dl class="facts">
            <dt>Kept</dt>
            <dd>{{ copy.keptAt | when: 'long' }}</dd>
            <dt>From</dt>
            <dd>{{ copy.from }}, {{ copy.term }}</dd>
            <dt>Format</dt>
            <dd>{{ whatItIs(copy) }}</dd>
            <dt>Size</dt>
            <dd>{{ copy.size | size }} ({{ copy.size }} bytes)</dd>
            <dt>Holds</dt>
            <dd>
              {{ copy.facts.shown === null ? count(copy.items, 'item') : holds(copy.facts) }}
              @for (sentence of missing(copy.facts); track sentence) {
                <p class="missing">{{ sentence }}</p>
              }
            </dd>
            @if (copy.facts.linked?.came?.length && !copy.removed) {
              <dt>Beside it</dt>
              <dd>
                @for (file of copy.facts.linked?.came; track file.address; let at = $index) {
                  <p class="beside">
                    <a [href]="addresses.linkedFile(copy.id, at)" download>{{ nameOf(file.address) }}</a>
                    <span class="quiet">{{ file.size | size }}</span>
                  </p>
                }
              </dd>
            }
            <dt>SHA-256</dt>
            <dd>
              <code>{{ copy.sha256 | hash }}</code>
            </dd>
          </dl>
          @if (before(); as before) {
            <p class="quiet">
              Kept before <a [routerLink]="['/moves', before.moveId]">move {{ before.moveId }}</a> went into “{{
                before.title
              }}”: by it that delivery can be taken back.
            </p>
          }
          @if (copy.removed; as removed) {
            <p role="note">Removed {{ removed.at | when: 'long' }}: {{ removed.why }}</p>
          } @else {
            @if (copy.damagedAt; as at) {
              <p class="error" role="alert">
                Its bytes are no more what they were, found {{ at | when: 'long' }}. Keep the same file again to mend
                it, or fetch the course anew.
              </p>
            }
            <div class="acts">
              <button matButton="filled" (click)="errand(copy, 'restore')">Restore…</button>
              <button matButton="outlined" (click)="errand(copy, 'give')">Give…</button>
              <a matButton="outlined" routerLink="/bench" [queryParams]="{ copy: copy.id }">Look inside</a>
              <a matButton="outlined" [href]="addresses.copyFile(copy.id)" download>Download</a>
              @if (copy.form === 'archive' && copy.fileName.endsWith('.zip')) {
                <a matButton="outlined" routerLink="/bench/describe" [queryParams]="{ copy: copy.id }">Describe</a>
              }
              <button matButton="outlined" (click)="move(copy)">Move from this copy…</button>
              <button matButton="outlined" (click)="removing.set(copy.id)">Remove…</button>
            </div>
            @if (removing() === copy.id) {
              <form class="removal" [formGroup]="removal" (ngSubmit)="remove(copy)">
                <p>
                  The {{ copy.size | size }} of this copy will be gone from the strongroom.
                  {{ alone() ? 'It is the only copy of the course that is kept.' : '' }}
                  {{ before() ? 'The delivery that it was kept before can not be taken back then.' : '' }} That it was
                  kept, and why it was removed, stays.
                </p>
                <mat-form-field appearance="outline">
                  <mat-label>Why it is removed; goes into the trail</mat-label>
                  <input matInput formControlName="reason" />
                </mat-form-field>
                <div class="acts">
                  <button type="button" matButton="outlined" (click)="removing.set(0)">Leave it</button>
                  <button type="submit" matButton="filled" class="destructive" [disabled]="removal.invalid">
                    Remove this copy
                  </button>
                </div>
              </form>
            }
          }
          @if (error()) {
            <p class="error" role="alert">{{ error() }}</p>
          }
          <tn-given-list [copy]="copy.id" />
        </section>
      }
    </div>
  `,
  styleUrl: '../parts/list/list-screen.scss',
  styles: `
    .halves {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 396px;
      grid-template-rows: minmax(0, 1fr);
      gap: 14px;
      flex: 1;
      min-height: 0;
    }
    .halves.alone {
      grid-template-columns: minmax(0, 1fr);
    }
    @media (max-width: 960px) {
      .halves,
      .halves.alone {
        grid-template-columns: minmax(0, 1fr);
        grid-template-rows: minmax(320px, 1fr) auto;
      }
    }
    .one {
      align-content: start;
      overflow: auto;
    }
    .one {
      display: grid;
      gap: 12px;
      padding: 16px;
    }
    .one code {
      overflow-wrap: anywhere;
    }
    .acts {
      flex-wrap: wrap;
      white-space: nowrap;
      display: flex;
      gap: 8px;
    }
    .one p {
      margin: 0;
    }
    .beside {
      display: flex;
      gap: 8px;
    }
    .one .missing {
      color: var(--ochre);
    }
    .removal {
      display: grid;
      gap: 8px;
    }
  `,
})
export class StrongroomPage {
  readonly copy = input(undefined, { transform: (v: unknown) => (v === undefined ? undefined : numberAttribute(v)) });
  private readonly api = inject(Api);
  protected readonly addresses = ADDRESSES;
  private readonly starter = inject(MoveStarter);
  private readonly errands = inject(ErrandStarter);
  private readonly given = viewChild(GivenList);
  private readonly copies = viewChild<List<CopySummary>>(List);
  /** What was told of the strongroom as a whole last. */
  private readonly sums = signal<CopiesPage['sums'] | null>(null);
  /** The newest of those that were told first. */
  private readonly newest = signal<number | null>(null);
  protected readonly pages: ListSource<CopySummary> = (asked) =>
    this.api.copies(asked).pipe(
      tap(({ sums, rows }) => {
        this.sums.set(sums);
        this.newest.update((before) => before ?? rows[0]?.id ?? null);
      }),
    );
  protected readonly whatItIs = copyWords;
  protected readonly holds = readWords;
  protected readonly nameOf = linkedName;
  protected readonly missing = missingOf;
  protected readonly removing = signal(0);
  protected readonly removal = new FormGroup({
    reason: new FormControl('', {
      nonNullable: true,
      validators: [Validators.required, Validators.minLength(3), Validators.maxLength(300)],
    }),
  });
  protected readonly error = signal('');
  protected readonly count = count;
  private readonly when = new WhenPipe();
  protected readonly columns: readonly ListColumn<CopySummary>[] = [
    {
      id: 'course',
      name: 'Course',
      value: courseName,
      words: (c) => `${courseName(c)} ${c.title}`,
    },
    { id: 'term', name: 'Term', width: 98, value: (c) => c.term },
    {
      id: 'kept',
      name: 'Kept',
      width: 138,
      is: 'date',
      downFirst: true,
      value: (c) => c.keptAt,
      words: (c) => this.when.transform(c.keptAt),
    },
    { id: 'from', name: 'From', value: (c) => c.from, width: 118 },
    {
      id: 'form',
      name: 'What it is',
      aside: true,
      value: (c) => `${c.form === 'archive' ? 'archive' : 'standard'}, ${c.format}`,
      width: 150,
    },
    { id: 'file', name: 'File', value: (c) => c.fileName, aside: true },
    {
      id: 'size',
      name: 'Size',
      width: 76,
      is: 'number',
      downFirst: true,
      value: (c) => c.size,
      words: (c) => readableSize(c.size),
    },
    { id: 'holds', name: 'Holds', width: 130, is: 'number', downFirst: true, value: (c) => c.facts.shown ?? c.items },
  ];
  protected readonly idOf = (c: CopySummary) => c.id;
  protected readonly copyName = (c: CopySummary) => `${courseName(c)} ${c.title}`;
  protected readonly at = linkedSignal<ListKey | null>(() => this.copy() ?? this.newest());
  /** The copy that the person is at, whether the list shows it or not. */
  protected readonly detail = rxResource({
    params: () => (this.at() === null ? undefined : Number(this.at())),
    stream: ({ params }) => this.api.copy(params),
  });
  private readonly told = lastOf(this.detail);
  protected readonly chosen = computed((): CopySummary | null => {
    const [id, told] = [this.at(), this.told()];
    return told?.id === id
      ? told
      : (this.copies()
          ?.sorted()
          .find((c) => c.id === id) ?? null);
  });
  protected readonly ticked = signal<ReadonlySet<ListKey>>(new Set());
  /** Identifiers of the two that were chosen, the older first; `null` where it is not two, or one of them is gone. */
  protected readonly pair = computed(() => {
    const rows = (this.copies()?.chosenRows() ?? []).filter((c) => !c.removed);
    const [first, second] = [...rows].sort((a, b) => a.keptAt.localeCompare(b.keptAt) || a.id - b.id);
    return rows.length === 2 && this.ticked().size === 2 && first && second ? [first.id, second.id] : null;
  });
  protected readonly pairWords = computed(() => {
    if (this.ticked().size === 1) return 'Choose another to hold the two beside each other';
    if (this.ticked().size > 2) return 'Two at a time can be held beside each other';
    return 'A copy that was removed can’t be looked into';
  });
  /** The delivery that the copy was kept before, where that can be taken back by it. */
  protected readonly before = computed(() => (this.told()?.id === this.at() ? (this.told()?.before ?? null) : null));
  protected readonly alone = computed(() => this.told()?.id === this.at() && this.told()?.others === 0);
  protected readonly head = computed(() => {
    const { kept, courses, bytes } = this.sums() ?? { kept: 0, courses: 0, bytes: 0 };
    return kept === 0
      ? 'Strongroom'
      : `${count(kept, 'kept copy', 'kept copies')} of ${count(courses, 'course')}, ${readableSize(bytes)}`;
  });

  constructor() {
    // What is kept meanwhile comes into the list by itself.
    inject(JobsService)
      .changed$.pipe(
        filter((job) => job.state === 'done' && (job.kind === 'fetch' || job.kind === 'intake')),
        auditTime(500),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.copies()?.refresh());
  }

  protected errand(copy: CopySummary, act: ErrandAct): void {
    this.errands.open({ copy, act }).subscribe(() => this.given()?.again());
  }

  protected move(copy: CopySummary): void {
    this.error.set('');
    this.starter.fromCopy(copy).subscribe({
      next: (found) => {
        if (!found)
          this.error.set('Its course is not in the register any more. Refresh the register, or keep the file anew.');
      },
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }

  protected remove(copy: CopySummary): void {
    if (this.removal.invalid) return;
    this.error.set('');
    this.api.removeCopy(copy.id, this.removal.getRawValue()).subscribe({
      next: () => {
        this.removing.set(0);
        this.removal.reset();
        this.copies()?.refresh();
        this.detail.reload();
      },
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }
}
