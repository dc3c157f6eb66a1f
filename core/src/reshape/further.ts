import { isLedTo, isOneFile, type Condition, type Course, type Moment, type StandsThere } from '../model/index.ts';
import type { ChangeSet } from './changes.ts';
import { mergeParts, seamOf, type Seam } from './merge.ts';

/** Parts of a course that follow one another to the same place. */

/**
 * All that has been sent of a course: what went before, and what goes now, in the order of the course that both are of.
 * What goes now takes the place of what went under its name; what went and is not in the course any more stands last.
 */
export function sentSoFar(before: Course, now: Course, source: Course): Course {
  const sent = mergeParts(now, before, joined(joined(seamOf(source), seamOf(now)), seamOf(before)));
  delete sent.there;
  return sent;
}

/** Two seams as one: what only the second has stands where its neighbours do, or at the end. */
function joined(first: Seam, second: Seam): Seam {
  const more = (a: readonly string[], b: readonly string[]) => [...new Set([...a, ...b])];
  const known = new Set<string>();
  const note = (places: Seam['outline']) => {
    for (const { id, children } of places) {
      known.add(id);
      note(children);
    }
  };
  note(first.outline);
  const extra = new Map<string | null, Seam['outline']>();
  const gather = (places: Seam['outline'], above: string | null) => {
    for (const place of places) {
      if (known.has(place.id)) gather(place.children, place.id);
      else
        extra.set(above, [...(extra.get(above) ?? []), { id: place.id, children: unknownOf(place.children, known) }]);
    }
  };
  gather(second.outline, null);
  const put = (places: Seam['outline'], above: string | null): Seam['outline'] => [
    ...places.map(({ id, children }) => ({ id, children: put(children, id) })),
    ...(extra.get(above) ?? []),
  ];
  return {
    outline: put(first.outline, null),
    items: more(first.items, second.items),
    files: more(first.files, second.files),
  };
}

function unknownOf(places: Seam['outline'], known: ReadonlySet<string>): Seam['outline'] {
  return places.flatMap(({ id, children }) => (known.has(id) ? [] : [{ id, children: unknownOf(children, known) }]));
}

/**
 * A part as it goes to where others went before: items and files that stand there as the source has them are not among
 * what is written, and what leads to them leads there. `sent` is all that went, `source` the course that the part is of.
 */
export function besideWhatWent(part: Course, sent: Course, source: Course): Course {
  const goes = new Set(part.items.map((item) => item.id));
  const items = sent.items
    .filter((item) => !goes.has(item.id))
    .map((item) => ({ id: item.id, path: isOneFile(item) ? item.file : isLedTo(item) ? item.definitionPath : null }));
  const held = new Map(sent.files.flatMap((f) => (f.sha256 === undefined ? [] : [[f.path, f.sha256]])));
  // What an item is has to come with it.
  const own = new Set(part.items.flatMap((item) => (isOneFile(item) ? [item.file] : [])));
  const asWent = (f: Course['files'][number]) =>
    !own.has(f.path) && f.sha256 !== undefined && held.get(f.path) === f.sha256;
  const files = [...source.files, ...part.files].filter((f) => f.role === 'content' && asWent(f));
  const there: StandsThere = {
    items,
    files: [...new Map(files.map(({ path, sha256 = '' }) => [path, { path, sha256 }])).values()],
  };
  const stays = new Set(there.files.map((f) => f.path));
  return { ...part, files: part.files.filter((f) => !stays.has(f.path)), there };
}

/**
 * Hides all that goes until a time: a condition at each topmost place, beside what else it hangs on. What stands in no
 * outline is not seen there, and is left as it is.
 */
export function hideUntil(course: Course, out: ReadonlySet<string>, at: Moment, changes: ChangeSet): void {
  const condition: Condition = { is: 'date', side: 'from', at };
  const hidden = (settings: Course['items'][number]['settings']) => ({
    ...settings,
    visibleWhen: [
      ...(settings.visibleWhen ?? []).filter((c) => JSON.stringify(c) !== JSON.stringify(condition)),
      condition,
    ],
  });
  const first = new Set<string>();
  for (const node of course.outline) {
    if (node.item !== undefined && !first.has(node.item)) {
      first.add(node.item);
      if (out.has(node.item)) continue;
      const { item } = node;
      changes.change(item, (one) => ({ ...one, settings: hidden(one.settings) }));
    } else if (node.heading !== true) changes.changePlace(node.id, hidden);
  }
}
