import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  numberAttribute,
  signal,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { Api } from '../data/api';
import { count, courseName, readableSize } from '@treenail/core';
import { Awaited, lastOf } from '../parts/awaited';
import { HashPipe, CourseNamePipe, SizePipe, WhenPipe } from '../parts/words';

/** The kept copies, newest first, and one of them at the right. */
@Component({
  selector: 'tn-strongroom',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, HashPipe, CourseNamePipe, MatButton, RouterLink, SizePipe, WhenPipe],
  template: `
    <header>
      <h1>{{ head() }}</h1>
      <input
        type="search"
        aria-label="Filter the copies"
        placeholder="Filter by course or file name"
        [value]="words()"
        (input)="words.set($any($event.target).value)"
      />
    </header>
    <tn-awaited [of]="[loaded]" />
    @if (copies().length > 0) {
      <div class="halves">
        <div class="panel table">
          <table class="list">
            <thead>
              <tr>
                <th>Course</th>
                <th>Term</th>
                <th>Kept</th>
                <th>From</th>
                <th class="num">Size</th>
                <th class="num">Holds</th>
              </tr>
            </thead>
            <tbody>
              @for (copy of shown(); track copy.id) {
                <tr [class.at]="copy.id === chosenId()" (click)="chosenId.set(copy.id)">
                  <td>
                    <button type="button" class="row" (click)="chosenId.set(copy.id)">
                      <b>{{ copy | courseName }}</b> {{ copy.title }}
                    </button>
                  </td>
                  <td class="quiet">{{ copy.term }}</td>
                  <td class="quiet">{{ copy.keptAt | when }}</td>
                  <td class="quiet">{{ copy.from }}</td>
                  <td class="num">{{ copy.size | size }}</td>
                  <td class="num">
                    {{ count(copy.items, 'item') }}
                    @if (copy.partial) {
                      <span class="tag due">in part</span>
                    }
                    @if (copy.personal) {
                      <span class="tag personal">personal data</span>
                    }
                  </td>
                </tr>
              } @empty {
                <tr>
                  <td colspan="6" class="quiet">
                    No copy is called that.
                    <button type="button" class="chip" (click)="words.set('')">Show all</button>
                  </td>
                </tr>
              }
            </tbody>
          </table>
        </div>
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
              <dd>{{ copy.format }}{{ copy.partial ? ', only chosen parts' : '' }}</dd>
              <dt>Size</dt>
              <dd>{{ copy.size | size }} ({{ copy.size }} bytes)</dd>
              <dt>Holds</dt>
              <dd>{{ count(copy.items, 'item') }}</dd>
              <dt>SHA-256</dt>
              <dd>
                <code>{{ copy.sha256 | hash }}</code>
              </dd>
            </dl>
            <div class="acts">
              <a matButton="filled" [href]="'/api/copies/' + copy.id + '/file'" download>Download</a>
              <a matButton="outlined" routerLink="/bench" [queryParams]="{ copy: copy.id }">Look inside</a>
              @if (copy.form === 'archive' && copy.fileName.endsWith('.zip')) {
                <a matButton="outlined" routerLink="/bench/describe" [queryParams]="{ copy: copy.id }">Describe</a>
              }
              <a matButton="outlined" routerLink="/courses" [queryParams]="{ find: copy.title }">Move the course</a>
            </div>
          </section>
        }
      </div>
    } @else if (known()) {
      <p class="panel empty">
        Every course that is fetched is kept here, byte for byte as the platform gave it.
        <a routerLink="/courses">Choose a course to move</a>
      </p>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 14px;
      padding: 18px 20px 14px;
    }
    header {
      display: flex;
      justify-content: space-between;
      gap: 20px;
    }
    input {
      width: 290px;
      height: 30px;
      padding: 0 10px;
      border: 1px solid var(--line);
      border-radius: 4px;
      background: var(--surface);
      color: var(--ink);
      font: inherit;
    }
    .halves {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 396px;
      gap: 14px;
      align-items: start;
    }
    .table {
      overflow: auto;
    }
    tr.at td {
      background: var(--spruce-pale);
    }
    .row {
      all: unset;
      cursor: pointer;
    }
    .row:focus-visible {
      outline: 2px solid var(--spruce);
    }
    td {
      white-space: nowrap;
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
    .empty {
      padding: 24px;
    }
  `,
})
export class StrongroomPage {
  readonly copy = input(undefined, { transform: (v: unknown) => (v === undefined ? undefined : numberAttribute(v)) });
  private readonly api = inject(Api);
  protected readonly loaded = rxResource({ stream: () => this.api.copies() });
  protected readonly count = count;
  protected readonly words = signal('');
  private readonly list = lastOf(this.loaded);
  protected readonly known = computed(() => this.list() !== null);
  protected readonly copies = computed(() => this.list() ?? []);
  protected readonly shown = computed(() => {
    const words = this.words().toLowerCase();
    return this.copies().filter((c) => `${courseName(c)} ${c.title} ${c.fileName}`.toLowerCase().includes(words));
  });
  protected readonly chosenId = linkedSignal(() => this.copy() ?? this.copies()[0]?.id ?? 0);
  protected readonly chosen = computed(() => this.copies().find((c) => c.id === this.chosenId()) ?? this.shown()[0]);
  protected readonly head = computed(() => {
    const copies = this.copies();
    const courses = new Set(copies.map((c) => courseName(c) || c.title)).size;
    const held = [...new Map(copies.map((c) => [c.sha256, c.size])).values()].reduce((a, b) => a + b, 0);
    return copies.length === 0
      ? 'Strongroom'
      : `${count(copies.length, 'kept copy', 'kept copies')} of ${count(courses, 'course')}, ${readableSize(held)}`;
  });
}
