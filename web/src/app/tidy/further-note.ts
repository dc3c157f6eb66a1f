import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { count, someOf, type Course } from '@treenail/core';
import type { FurtherItem, FurtherState } from '@treenail/server/contract';
import type { Group } from './goes-by';

/** What is said beside an item of a further part; `null` where it never went. */
export interface Mark {
  readonly words: string;
  /** It changed at both sides, or nobody knows whether it did. */
  readonly conflict: boolean;
  /** Identifier of an item of which there are two versions to be seen. */
  readonly changed: string | null;
}

const THERE: Readonly<Record<NonNullable<FurtherItem['there']>, string>> = {
  same: '',
  changed: 'changed there too',
  removed: 'taken away there',
  absent: 'did not arrive',
  unknown: 'not looked at there',
};

export function markOf(item: FurtherItem | undefined): Mark | null {
  if (!item || item.since === 'new') return null;
  const there = item.there === null ? '' : THERE[item.there];
  const went = item.since === 'went' ? 'went before' : 'changed since it went';
  return {
    // Of what did not change at its source nothing did so “too”.
    words: there === '' ? went : `${went}, ${item.since === 'went' ? there.replace(' too', '') : there}`,
    conflict: item.since === 'changed' && (item.there === 'changed' || item.there === 'unknown'),
    changed: item.since === 'changed' && item.was !== null ? item.id : null,
  };
}

/** Items of a further part by what became of them since others went. */
export function groupsOf({ items }: FurtherState): Group[] {
  const groups = [
    ['never went', 'new'],
    ['changed since', 'changed'],
    ['went before', 'went'],
  ] as const;
  return groups.flatMap(([label, since]) => {
    const own = items.flatMap((item) => (item.since === since ? [item.id] : []));
    return own.length === 0 ? [] : [{ label, items: own }];
  });
}

/** How the course stands beside what went of it before, and beside what is at the destination. */
@Component({
  selector: 'tn-further-note',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p><b>A further part.</b> {{ standing() }}</p>
    @for (sentence of sentences(); track sentence) {
      <p>{{ sentence }}</p>
    }
  `,
  styles: `
    p {
      margin: 0;
    }
  `,
})
export class FurtherNote {
  readonly further = input.required<FurtherState>();
  readonly course = input.required<Course>();
  /** Whether what went goes once more. */
  readonly comesAgain = input.required<boolean>();
  protected readonly standing = computed(() => {
    const of = (since: FurtherItem['since']) => this.further().items.filter((i) => i.since === since).length;
    const went = of('went');
    return `${count(went, 'item')} of the course went before and ${went === 1 ? 'is' : 'are'} as then, ${of('changed')} changed since, ${of('new')} never went.`;
  });
  protected readonly sentences = computed((): string[] => {
    const { items, gone, unread } = this.further();
    const those = (is: (item: FurtherItem) => boolean) => items.filter(is).map((item) => item.id);
    const both = those((i) => i.since === 'changed' && i.there === 'changed');
    const overwritten = those((i) => i.there === 'changed');
    const removed = those((i) => i.there === 'removed');
    const again = this.comesAgain();
    return [
      again
        ? 'The format that it is carried in takes the place of all that stands there: what went goes once more with it.'
        : '',
      again && overwritten.length > 0
        ? `With that ${count(overwritten.length, 'item')} changed there since will be overwritten: ${this.named(overwritten)}.`
        : '',
      !again && both.length > 0
        ? `${count(both.length, 'item')} changed at both sides since: ${this.named(both)}. They do not go unless you tick them, and then take the place of what was changed there.`
        : '',
      removed.length > 0 ? `Taken away there since: ${this.named(removed)}. What goes comes there again.` : '',
      gone.length > 0
        ? `Not in the course any more, ${again ? 'and gone from there too then' : 'and still there'}: ${someOf(gone.map((g) => g.title))}.`
        : '',
      unread !== '' ? `What is there could not be looked at (${unread}): whether it changed there is not known.` : '',
    ].filter((sentence) => sentence !== '');
  });

  private named(ids: readonly string[]): string {
    return someOf(ids.map((id) => this.course().items.find((i) => i.id === id)?.title ?? id));
  }
}
