import { isOneFile, decodePercent, baseName, isLedTo, type Item, type Profile } from '../../model/index.ts';
import type { CourseLink, LinkState } from '../links.ts';
import type { FindingKind, FindingDraft, ScanContext, Spot, Suggestion } from './contract.ts';

/** Kinds of findings about where references lead. */

/** Kinds of findings about where references lead. */

export const WORDS: Record<string, string> = {
  anchor: 'link',
  image: 'picture',
  media: 'recording or film',
  style: 'style sheet or its picture',
  script: 'script',
  frame: 'frame',
};

export function spotOf(link: CourseLink): Spot {
  return { at: link.at, open: link.element?.open ?? null, close: link.element?.close ?? null, inStyle: link.inStyle };
}

export function foundAt(link: CourseLink, context: ScanContext, suggestions: Suggestion[]): FindingDraft {
  const words = link.element?.text ? ` “${link.element.text.slice(0, 60)}”` : '';
  return {
    groupKey: link.value,
    item: link.item === null ? null : (context.items.get(link.item) ?? null),
    part: link.part,
    file: link.file,
    line: link.line,
    evidence: `${WORDS[link.use] ?? 'link'}${words} to ${link.value}`,
    spot: spotOf(link),
    suggestions,
  };
}

/** Whether a text of the course can name the item. */
export function canBeLedTo(item: Item): boolean {
  return isOneFile(item) || isLedTo(item);
}

export function toItem(item: Item): Suggestion {
  return { mend: 'retarget', params: { to: `item:${item.id}` }, words: `Lead it to “${item.title}”` };
}

export function toFile(path: string): Suggestion {
  return { mend: 'retarget', params: { to: `file:${path}` }, words: `Lead it to ${path}` };
}

/** What the reference may have meant: an item of the title that its words say, a file of the name that it bears. */
export function meant(link: CourseLink, context: ScanContext): Suggestion[] {
  const words = link.element?.text.trim().toLowerCase() ?? '';
  const titled = words === '' ? [] : (context.byTitle.get(words) ?? []);
  const pages = titled.filter((i) => canBeLedTo(i) && i.id !== link.item);
  const name = decodePercent(baseName(link.value.split(/[?#]/, 1)[0] ?? '')).toLowerCase();
  const named = context.byName.get(name) ?? [];
  return [...pages.slice(0, 2).map(toItem), ...named.slice(0, 2).map((f) => toFile(f.path))];
}

export interface LinkFinding {
  id: string;
  label: string;
  weight: FindingKind['weight'];
  why: FindingKind['why'];
  mends?: readonly string[];
  states: readonly LinkState[];
  fits?: (link: CourseLink) => boolean;
  suggest: (link: CourseLink, context: ScanContext) => Suggestion[];
}

export function about(asked: LinkFinding): FindingKind {
  return {
    id: asked.id,
    label: asked.label,
    weight: asked.weight,
    mends: asked.mends ?? ['retarget', 'give-file', 'unlink', 'remove'],
    why: asked.why,
    *inCourse(context) {
      for (const link of context.links) {
        if (!asked.states.includes(link.state) || asked.fits?.(link) === false) continue;
        yield foundAt(link, context, asked.suggest(link, context));
      }
    },
  };
}

export const at = (destination: Profile | null) => destination?.label ?? 'any destination';
