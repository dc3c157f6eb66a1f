import { Directive, TemplateRef, inject, input } from '@angular/core';
import type { ListSource } from './rows';

/** How a list shows a column (or `acts`, what can be done with a row): `<ng-template tnCell="title" [of]="rows()" let-row>`. */
@Directive({ selector: 'ng-template[tnCell]' })
export class ListCell<T> {
  readonly tnCell = input.required<string>();
  /** The rows, or where they come from, by which the template knows what a row is. */
  readonly of = input.required<readonly T[] | ListSource<T>>();
  readonly template = inject<TemplateRef<{ $implicit: T }>>(TemplateRef);

  static ngTemplateContextGuard<T>(_cell: ListCell<T>, context: unknown): context is { $implicit: T } {
    return context !== null;
  }
}
