import { decodeText } from '../../markup/index.ts';
import type { Package } from '../../container/index.ts';
import { PAGE_PART, type Settings } from '../../model/index.ts';
import { ChangeSet } from '../changes.ts';
import type { Asked } from '../mending.ts';
import { calendarWith, calendarsIn } from './calendar-files.ts';
import { settingsWith, withoutTaken, type WrittenDate } from './known.ts';
import type { RedateRow } from './redate.ts';

/** What re-dating asks for: dates as rows say, and words in texts by their findings. */
export interface Redates {
  rows: readonly RedateRow[];
  written: readonly WrittenDate[];
}

/** Mends that write new dates into texts. */
export function datesInTexts({ rows, written }: Redates): Asked[] {
  const findings = new Map(written.map(({ finding }) => [finding.key, finding]));
  return rows.flatMap((row): Asked[] => {
    const finding = findings.get(row.key);
    if (!finding || row.state !== 'moved' || row.words?.becomes == null) return [];
    const decision = { id: 're-date', mend: 'new-date', params: { text: row.words.becomes } };
    return [{ finding, decision }];
  });
}

/** Puts the dates of items, places, the course and its calendars where rows say. */
export async function putDates(changes: ChangeSet, pkg: Package, { rows }: Redates): Promise<void> {
  const moved = rows.filter((row) => row.state !== 'holds' && row.words === null);
  for (const [subject, own] of bySubject(moved.filter((row) => row.name !== 'on'))) {
    const change = (settings: Settings) =>
      withoutTaken(own.reduce((after, row) => settingsWith(after, pathOf(row), row.will), settings));
    const [first] = own;
    if (!first) continue;
    if (subject === 'course') changes.changeCourse(change);
    else if (first.item !== null) {
      changes.change(first.item, (item) => ({ ...item, settings: change(item.settings) }));
    } else if (first.node !== null) changes.changePlace(first.node, change);
  }
  const byKey = new Map(moved.map((row) => [row.key, row]));
  for (const path of calendarsIn(moved)) {
    const source = decodeText(await pkg.bytes(path));
    const text = calendarWith(source, path, byKey);
    changes.cut({ item: null, part: PAGE_PART, file: path }, [{ start: 0, end: source.length, text }]);
  }
}

const pathOf = ({ key }: RedateRow) => key.slice(key.lastIndexOf(' ') + 1);

function bySubject(rows: readonly RedateRow[]): Map<string, RedateRow[]> {
  const found = new Map<string, RedateRow[]>();
  for (const row of rows) {
    const subject = row.key.slice(0, row.key.lastIndexOf(' '));
    const list = found.get(subject);
    if (list) list.push(row);
    else found.set(subject, [row]);
  }
  return found;
}
