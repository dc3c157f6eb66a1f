import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  booleanAttribute,
  input,
  output,
  viewChild,
} from '@angular/core';
import { MatButton } from '@angular/material/button';

/** A button that lets a person choose files, or a folder, of this machine. The same file may be chosen again. */
@Component({
  selector: 'tn-pick',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton],
  template: `
    <button matButton="outlined" type="button" [disabled]="disabled()" (click)="choose()">{{ words() }}</button>
    <input
      #field
      type="file"
      class="visually-hidden"
      tabindex="-1"
      [attr.aria-label]="label()"
      [multiple]="multiple()"
      [attr.webkitdirectory]="folder() ? '' : null"
      (change)="take(field)"
    />
  `,
})
export class Pick {
  /** What is chosen, for who hears it. */
  readonly label = input.required<string>();
  /** What stands on the button. */
  readonly words = input.required<string>();
  readonly multiple = input(false, { transform: booleanAttribute });
  readonly folder = input(false, { transform: booleanAttribute });
  readonly disabled = input(false);
  readonly picked = output<readonly File[]>();

  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');

  /** Asks for files, as the button does. */
  choose(): void {
    this.field().nativeElement.click();
  }

  protected take(field: HTMLInputElement): void {
    const files = [...(field.files ?? [])];
    field.value = '';
    if (files.length > 0) this.picked.emit(files);
  }
}
