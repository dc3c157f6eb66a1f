import { Injectable, signal } from '@angular/core';
import type { Source } from '../bench/messages';

/** The archive that a person brings along from the Bench, where it could not be read. */
@Injectable({ providedIn: 'root' })
export class ArchiveInHand {
  readonly source = signal<Source | null>(null);
}
