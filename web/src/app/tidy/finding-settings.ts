import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatDialog, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import type { FindingSettings } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';

/** What findings look for by the habits of the house, one line a pattern. */
@Component({
  selector: 'tn-finding-settings-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatButton, MatDialogModule, MatFormField, MatInput, MatLabel],
  template: `
    <h2 mat-dialog-title>What is looked for</h2>
    <mat-dialog-content>
      <tn-awaited [of]="[loaded]" />
      @if (rules(); as rules) {
        <p class="quiet">For all courses, from the next look inside on.</p>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>What tells of a person: a name, then a pattern (a regular expression)</mat-label>
          <textarea matInput rows="4" #personal>{{ personalLines() }}</textarea>
        </mat-form-field>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>Placeholders: a pattern a line</mat-label>
          <textarea matInput rows="3" #placeholders>{{
            rules.placeholders.join(
              '
'
            )
          }}</textarea>
        </mat-form-field>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>What placeholders stand for: a name, then its value</mat-label>
          <textarea matInput rows="3" #values>{{ valueLines() }}</textarea>
        </mat-form-field>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>Authors that are nobody: the institution itself, its departments, a name a line</mat-label>
          <textarea matInput rows="2" #nobody>{{
            rules.noPersons.join(
              '
'
            )
          }}</textarea>
        </mat-form-field>
        <div class="pair">
          <mat-form-field appearance="outline" subscriptSizing="dynamic">
            <mat-label>Announcements are stale after, days</mat-label>
            <input type="number" matInput min="1" #stale [value]="rules.staleDays" />
          </mat-form-field>
          <mat-form-field appearance="outline" subscriptSizing="dynamic">
            <mat-label>Files are long from, MB, where a destination sets no limit</mat-label>
            <input type="number" matInput min="1" #oversize [value]="rules.oversizeBytes / 1e6" />
          </mat-form-field>
        </div>
        <div class="foot">
          @if (error()) {
            <p class="error" role="alert">{{ error() }}</p>
          }
          <div class="acts">
            <button matButton mat-dialog-close>Cancel</button>
            <button
              matButton="filled"
              (click)="
                save(
                  rules,
                  personal.value,
                  placeholders.value,
                  values.value,
                  nobody.value,
                  +stale.value,
                  +oversize.value
                )
              "
            >
              Look for these
            </button>
          </div>
        </div>
      }
    </mat-dialog-content>
  `,
  styles: `
    mat-dialog-content {
      display: grid;
      gap: 12px;
    }
    p {
      margin: 0;
    }
    textarea.mat-mdc-input-element {
      font: 12.5px/18px var(--mono);
    }
    .pair {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 16px;
      align-items: end;
    }
    /* What is wrong, and what can be done, stay in sight while the rest is scrolled. */
    .foot {
      position: sticky;
      bottom: -20px;
      margin-bottom: -20px;
      padding: 8px 0 20px;
      background: var(--surface);
    }
    .acts {
      display: flex;
      justify-content: flex-end;
      gap: 8px;
    }
  `,
})
export class FindingSettingsDialog {
  private readonly api = inject(Api);
  private readonly ref = inject<MatDialogRef<FindingSettingsDialog>>(MatDialogRef);
  protected readonly loaded = rxResource({ stream: () => this.api.findingSettings() });
  protected readonly rules = lastOf(this.loaded);
  protected readonly error = signal('');
  protected readonly personalLines = computed(() =>
    (this.rules()?.personal ?? []).map((p) => `${p.name}: ${p.pattern}`).join('\n'),
  );
  protected readonly valueLines = computed(() =>
    Object.entries(this.rules()?.values ?? {})
      .map(([name, value]) => `${name}: ${value}`)
      .join('\n'),
  );

  protected save(
    rules: FindingSettings,
    personal: string,
    placeholders: string,
    values: string,
    nobody: string,
    staleDays: number,
    oversizeMb: number,
  ): void {
    const nameless = [...lines(personal), ...lines(values)].find((line) => line.indexOf(':') < 1);
    if (nameless !== undefined) {
      this.error.set(`“${nameless}” has no name: write a name, a colon, and what it stands for.`);
      return;
    }
    const next: FindingSettings = {
      ...rules,
      personal: pairs(personal).map(([name, pattern]) => ({ name, pattern })),
      placeholders: lines(placeholders),
      noPersons: lines(nobody),
      values: Object.fromEntries(pairs(values).map(([name, value]) => [name.toLowerCase(), value])),
      staleDays,
      oversizeBytes: Math.round(oversizeMb * 1e6),
    };
    this.api.setFindingSettings(next).subscribe({
      next: () => this.ref.close(),
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }
}

function lines(text: string): string[] {
  return text
    .split('\n')
    .map((l) => l.trim())
    .filter((l) => l !== '');
}

/** Lines of a name and what follows its colon. */
function pairs(text: string): [string, string][] {
  return lines(text).map((line) => {
    const at = line.indexOf(':');
    return [line.slice(0, at).trim(), line.slice(at + 1).trim()];
  });
}

@Component({
  selector: 'tn-finding-settings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton],
  template: `<button matButton="outlined" (click)="open()">What is looked for</button>`,
})
export class FindingSettingsButton {
  private readonly dialog = inject(MatDialog);

  protected open(): void {
    this.dialog.open(FindingSettingsDialog, { width: '620px' });
  }
}
