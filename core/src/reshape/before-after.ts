import type { Package } from '../container/index.ts';
import type { Finding } from '../inspect/index.ts';
import { splice } from '../markup/index.ts';
import {
  KIND_LABELS,
  SETTING_LABELS,
  count,
  walkOutline,
  type OutlineNode,
  type SettingName,
  type Settings,
} from '../model/index.ts';
import type { Surveyed } from './apply.ts';
import { textAt, type ChangeSet } from './changes.ts';
import type { Decision } from './decisions.ts';
import { Mending, type Supplies } from './mending.ts';

/** What one mend would do, for a person to look at before it is done. */
export interface BeforeAfter {
  before: string;
  after: string;
  /** Where `before` and `after` begin in the text; `null` where they are words. */
  line: number | null;
  /** Why it can't be done. */
  why: string | null;
}

/** Letters shown on either side of what changes. */
const AROUND = 48;

/** Tries one mend by itself. */
export async function beforeAfter(
  pkg: Package,
  { course, links }: Surveyed,
  finding: Finding,
  { mend, params }: Pick<Decision, 'mend' | 'params'>,
  supplies?: Supplies,
): Promise<BeforeAfter> {
  const mending = new Mending(pkg, course, links, supplies);
  await mending.mendTexts([{ finding, decision: { id: '', mend, params } }]);
  const [failure] = mending.failed;
  if (failure) return { before: finding.evidence, after: '', line: null, why: failure.why };
  const [cuts] = mending.changes.cuts.values();
  const source = cuts ? await textAt(pkg, mending.items, cuts) : null;
  if (!cuts || source === null)
    return { before: finding.evidence, after: words(finding, mending), line: null, why: null };
  const start = Math.max(0, Math.min(...cuts.splices.map((c) => c.start)) - AROUND);
  const end = Math.min(source.length, Math.max(...cuts.splices.map((c) => c.end)) + AROUND);
  const moved = cuts.splices.map((c) => ({ ...c, start: c.start - start, end: c.end - start }));
  const before = source.slice(start, end);
  return { before, after: splice(before, moved), line: source.slice(0, start).split('\n').length, why: null };
}

/** What becomes of an item or a file, in words. */
function words(finding: Finding, { changes, items, course }: Mending): string {
  const { item, file } = finding;
  const { leftOut } = changes;
  if (changes.withoutPeople) return 'none of them';
  if (leftOut.nodes.size > 0 || (item !== null && leftOut.items.has(item))) return 'left out';
  if (file !== null && changes.merged.has(file)) return changes.merged.get(file) ?? '';
  if (file !== null && leftOut.files.has(file)) return 'left out';
  if (file !== null && changes.renamed.has(file)) return changes.renamed.get(file) ?? '';
  if (file !== null && changes.remade.has(file)) return `${file}, without author and place`;
  if (finding.node !== null) return placeWords(finding.node, course.outline, changes);
  const before = item === null ? undefined : items.get(item);
  if (!before) return '';
  const after = changes.itemAfter(before);
  if (after.kind !== before.kind) return `${KIND_LABELS[after.kind]} “${after.title}”`;
  if (after.title !== before.title) return `“${after.title}”`;
  if ('questions' in after && 'questions' in before && after.questions.length !== before.questions.length) {
    return `${count(after.questions.length, 'question')} in place of ${before.questions.length}`;
  }
  return changeWords(before.settings, after.settings);
}

function placeWords(id: string, outline: readonly OutlineNode[], changes: ChangeSet): string {
  for (const { node } of walkOutline(outline)) {
    if (node.id === id) return changeWords(node.settings ?? {}, changes.settingsAfter(node));
  }
  return '';
}

function changeWords(before: Settings, after: Settings): string {
  const names = Object.keys({ ...before, ...after }) as SettingName[];
  const changed = names.filter((n) => JSON.stringify(before[n]) !== JSON.stringify(after[n]));
  const change = (name: SettingName) => {
    const value = after[name];
    return `${SETTING_LABELS[name]}: ${value === undefined ? 'not set' : JSON.stringify(value)}`;
  };
  return changed.map(change).join(', ');
}
