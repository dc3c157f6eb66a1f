import {
  isOneFile,
  decodePercent,
  baseName,
  isLedTo,
  itemOfAddress,
  type Item,
  type Profile,
} from '../../model/index.ts';
import type { CourseLink, LinkState } from '../links.ts';
import type { FindingKind, Found, ScanContext, Spot, Suggestion } from './contract.ts';

/** Kinds of findings about where references lead. */

const WORDS: Record<string, string> = {
  anchor: 'link',
  image: 'picture',
  media: 'recording or film',
  style: 'style sheet or its picture',
  script: 'script',
  frame: 'frame',
};

function spotOf(link: CourseLink): Spot {
  return { at: link.at, open: link.element?.open ?? null, close: link.element?.close ?? null, inStyle: link.inStyle };
}

function foundAt(link: CourseLink, context: ScanContext, suggestions: Suggestion[]): Found {
  const words = link.element?.text ? ` “${link.element.text.slice(0, 60)}”` : '';
  return {
    like: link.value,
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
function canBeLedTo(item: Item): boolean {
  return isOneFile(item) || isLedTo(item);
}

export function toItem(item: Item): Suggestion {
  return { mend: 'retarget', params: { to: `item:${item.id}` }, words: `Lead it to “${item.title}”` };
}

export function toFile(path: string): Suggestion {
  return { mend: 'retarget', params: { to: `file:${path}` }, words: `Lead it to ${path}` };
}

/** What the reference may have meant: an item of the title that its words say, a file of the name that it bears. */
function meant(link: CourseLink, context: ScanContext): Suggestion[] {
  const words = link.element?.text.trim().toLowerCase() ?? '';
  const titled = words === '' ? [] : (context.byTitle.get(words) ?? []);
  const pages = titled.filter((i) => canBeLedTo(i) && i.id !== link.item);
  const name = decodePercent(baseName(link.value.split(/[?#]/, 1)[0] ?? '')).toLowerCase();
  const named = context.byName.get(name) ?? [];
  return [...pages.slice(0, 2).map(toItem), ...named.slice(0, 2).map((f) => toFile(f.path))];
}

interface LinkFinding {
  id: string;
  label: string;
  weight: FindingKind['weight'];
  why: FindingKind['why'];
  mends?: readonly string[];
  states: readonly LinkState[];
  fits?: (link: CourseLink) => boolean;
  suggest: (link: CourseLink, context: ScanContext) => Suggestion[];
}

function about(asked: LinkFinding): FindingKind {
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

const at = (destination: Profile | null) => destination?.label ?? 'any destination';

export const LINK_FINDINGS: readonly FindingKind[] = [
  about({
    id: 'link-broken',
    label: 'Links that lead nowhere',
    weight: 'breaks',
    why: (to) => `What they name is not in the package, so it can't be shown at ${at(to)}.`,
    states: ['broken'],
    fits: (link) => link.near === null && !/^(javascript|data|mailto|tel):/i.test(link.value),
    suggest: meant,
  }),
  about({
    id: 'link-written-otherwise',
    label: 'Links written otherwise than the file',
    weight: 'breaks',
    why: () =>
      'The old platform forgives capitals, doubled encoding and backslashes; most others do not, and show nothing.',
    states: ['broken'],
    fits: (link) => link.near !== null,
    suggest: (link) => (link.near ? [toFile(link.near.path)] : []),
  }),
  about({
    id: 'link-lost-place',
    label: 'Links to a place that a page does not have',
    weight: 'weakens',
    why: () => 'The page opens, but at its top.',
    mends: ['retarget', 'unlink'],
    states: ['fragment', 'inside'],
    fits: (link) => link.lost,
    suggest: (link) => (link.path === null ? [] : [toFile(link.path)]),
  }),
  about({
    id: 'link-by-old-address',
    label: 'Links to this course by its old address',
    weight: 'breaks',
    why: () => 'They lead readers back into the old platform, and nowhere once it is switched off.',
    states: ['item'],
    fits: (link) => itemOfAddress(link.value) === null,
    suggest(link, context) {
      const item = link.to === null ? undefined : context.items.get(link.to);
      if (!item) return [];
      return canBeLedTo(item)
        ? [toItem(item)]
        : [{ mend: 'unlink', params: {}, words: `Keep the words; packages have no address for a ${item.kind}` }];
    },
  }),
  about({
    id: 'link-other-course',
    label: 'Links into other courses',
    weight: 'breaks',
    why: () => 'Another course is not moved with this one; readers are sent to the old platform.',
    states: ['elsewhere'],
    suggest: meant,
  }),
  about({
    id: 'link-old-platform',
    label: 'Links back into the old platform',
    weight: 'breaks',
    why: () => 'They stop working when the old platform is switched off.',
    states: ['platform'],
    suggest: meant,
  }),
  about({
    id: 'link-repository',
    label: 'Links into the shared repository',
    weight: 'breaks',
    why: () => 'The repository belongs to the old platform. What is used from it has to be copied in.',
    mends: ['copy-in', 'retarget', 'give-file', 'unlink', 'remove'],
    states: ['repository'],
    suggest(link, context) {
      const suggestions = link.near ? [toFile(link.near.path)] : meant(link, context);
      return [...suggestions, { mend: 'copy-in', params: {}, words: 'Copy the file in' }];
    },
  }),
  about({
    id: 'link-without-scheme',
    label: 'Addresses without http or https',
    weight: 'weakens',
    why: () => 'Such an address takes the scheme of the page around it, and fails in a page that is opened as a file.',
    states: ['outside', 'platform', 'repository', 'elsewhere', 'item'],
    fits: (link) => link.value.startsWith('//'),
    suggest: (link) => [
      { mend: 'retarget', params: { to: `https:${link.value}` }, words: `Write it as https:${link.value}` },
    ],
  }),
  {
    id: 'link-outside-gone',
    label: 'Outside addresses that answer no more',
    weight: 'breaks',
    mends: ['retarget', 'give-file', 'unlink', 'remove'],
    why: () => 'They were asked, and what they name is gone.',
    *inCourse(context) {
      for (const link of context.links) {
        const answer = context.outside.get(addressAsked(link.value));
        if (link.state !== 'outside' || !answer || answer.state === 'there' || answer.state === 'unasked') continue;
        const to = answer.to;
        const found = foundAt(
          link,
          context,
          to === null ? [] : [{ mend: 'retarget', params: { to }, words: `Lead it to ${to}` }],
        );
        const weight = answer.state === 'gone' ? 'breaks' : answer.state === 'moved' ? 'clutters' : 'weakens';
        yield { ...found, evidence: `${found.evidence}: ${answer.words}`, weight };
      }
      for (const item of context.course.items) {
        if (item.kind !== 'link') continue;
        const answer = context.outside.get(addressAsked(item.url));
        if (!answer || answer.state === 'there' || answer.state === 'unasked') continue;
        yield { like: item.url, item, evidence: `web link to ${item.url}: ${answer.words}` };
      }
    },
  },
];

/** An address as it is asked: without the place in the page. */
export function addressAsked(value: string): string {
  return (value.startsWith('//') ? `https:${value}` : value).replace(/#.*$/, '');
}
