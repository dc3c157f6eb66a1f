import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatSelectModule } from '@angular/material/select';
import { count, someOf, type Along } from '@treenail/core';
import type { AlongAnswer, MoveSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { Deciding } from './deciding';

/** How what goes is to arrive: seen or hidden, with first posts, its external tools those that are connected there. */
@Component({
  selector: 'tn-goes-along',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatCheckbox, MatFormFieldModule, MatSelectModule],
  template: `
    <tn-awaited onlyFailures [of]="[loaded]" />
    @if (along(); as along) {
      <div class="line">
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>Learners see</mat-label>
          <mat-select [value]="along.now.shown" [disabled]="shut()" (selectionChange)="set({ shown: $event.value })">
            <mat-option value="as it was">{{
              along.hidden === 0 ? 'all of it, as it was' : 'what they saw; ' + count(along.hidden, 'thing') + ' hidden'
            }}</mat-option>
            @if (along.hidden > 0) {
              <mat-option value="shown">all of it</mat-option>
            }
            <mat-option value="hidden">nothing of it yet</mat-option>
          </mat-select>
        </mat-form-field>
        @if (along.posts > 0) {
          <mat-checkbox [checked]="along.now.posts" [disabled]="shut()" (change)="set({ posts: $event.checked })"
            >first posts of {{ count(along.posts, 'discussion') }} go too</mat-checkbox
          >
        }
        @for (tool of along.tools; track tool.address) {
          @if (tool.known; as known) {
            <span class="quiet">{{ some(tool.titles) }}: connected there as {{ known }}</span>
          } @else if (along.connected; as connected) {
            <mat-form-field appearance="outline" subscriptSizing="dynamic">
              <mat-label>{{ some(tool.titles) }} starts</mat-label>
              <mat-select
                [value]="along.now.tools[tool.address] ?? ''"
                [disabled]="shut()"
                (selectionChange)="lead(tool.address, $event.value)"
              >
                <mat-option value="">{{ hostOf(tool.address) }}, not connected there</mat-option>
                @for (other of connected; track other.address) {
                  <mat-option [value]="other.address">{{ other.name }}, connected there</mat-option>
                }
              </mat-select>
            </mat-form-field>
          } @else {
            <span class="quiet">{{ some(tool.titles) }}: not known whether it is connected there</span>
          }
        }
      </div>
      @if (along.trouble) {
        <p class="due">{{ along.trouble }}</p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    }
  `,
  styles: `
    .line {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 14px;
    }
    mat-form-field {
      width: 318px;
    }
    p {
      margin: 4px 0 0;
    }
    .due {
      color: var(--ochre);
    }
  `,
})
export class GoesAlong {
  private readonly api = inject(Api);
  private readonly deciding = inject(Deciding);
  readonly move = input.required<MoveSummary>();
  readonly open = input.required<boolean>();
  /** Something was decided: what is told of the course is behind. */
  readonly changed = output();
  protected readonly count = count;
  protected readonly some = someOf;
  protected readonly loaded = rxResource({
    params: () => this.move().id,
    stream: ({ params }) => this.api.along(params),
  });
  private readonly told = lastOf(this.loaded);
  private readonly taken = signal<AlongAnswer | null>(null);
  protected readonly along = computed(() => this.taken() ?? this.told());
  protected readonly busy = signal(false);
  protected readonly shut = computed(() => this.busy() || !this.open());
  protected readonly error = signal('');

  protected hostOf(address: string): string {
    return URL.parse(address)?.host ?? address;
  }

  protected lead(address: string, to: string): void {
    const tools = { ...this.along()?.now.tools };
    if (to === '') delete tools[address];
    else tools[address] = to;
    this.set({ tools });
  }

  protected set(change: Partial<Along>): void {
    const now = this.along()?.now;
    if (!now) return;
    this.busy.set(true);
    this.error.set('');
    this.deciding.during(this.move().id, this.api.setAlong(this.move().id, { ...now, ...change })).subscribe({
      next: (along) => {
        this.busy.set(false);
        this.taken.set(along);
        this.changed.emit();
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
