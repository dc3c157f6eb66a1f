import { wholeOf, type PageElement } from '../../markup/index.ts';
import { PLAYER_MARK, PLAYER_PATH } from '../../markup/player.ts';
import { patternOf } from '../patterns.ts';
import type { Passage } from '../reading.ts';
import { excerpt, lineOf, spotAt, type FindingKind, type Found, type ScanContext } from './contract.ts';

/** Kinds of findings about what stands in pages and other texts. */

function foundIn(passage: Passage, element: PageElement, evidence: string, more: Partial<Found> = {}): Found {
  return {
    item: passage.item,
    part: passage.part,
    file: passage.file,
    line: element.line,
    evidence,
    spot: spotAt(element.open, element),
    ...more,
  };
}

const sourceOf = (passage: Passage, element: PageElement) => {
  const { start, end } = wholeOf(element);
  return excerpt(passage.source.slice(start, Math.min(end, start + 400)));
};

const placeholder: FindingKind = {
  id: 'placeholder',
  label: 'Placeholders that nothing fills in',
  weight: 'breaks',
  mends: ['replace', 'remove'],
  why: () => 'The old platform put a name or a date in their place; elsewhere readers see the brackets.',
  *inPassage(passage, context) {
    if (!passage.source.includes('{') && !passage.source.includes('%%')) return;
    for (const source of context.house.placeholders) {
      for (const match of patternOf(source).in(passage.source)) {
        const { text } = match;
        const value = valueOf(text, context);
        yield {
          like: text,
          item: passage.item,
          part: passage.part,
          file: passage.file,
          line: lineOf(passage.source, match.index),
          evidence: text,
          spot: spotAt({ start: match.index, end: match.index + text.length }),
          suggestions:
            value === undefined
              ? []
              : [{ mend: 'replace', params: { text: value }, words: `Put “${value}” in its place` }],
        };
      }
    }
  },
};

/** What a placeholder stands for: the institution's word for it, or the course's own title or code. */
function valueOf(text: string, { house, course }: ScanContext): string | undefined {
  const name = text.replace(/[^\p{L}\p{N}.:_-]/gu, '').toLowerCase();
  const own: Record<string, string | undefined> = {
    'course.title': course.title,
    'course.code': course.metadata.catalogEntry,
  };
  return house.values[name] ?? own[name];
}

const embed: FindingKind = {
  id: 'embed',
  label: 'Frames of other sites',
  weight: 'weakens',
  mends: ['to-link', 'remove'],
  why(to) {
    const rule = to?.html?.embeds;
    return rule ? `${to.label} ${rule.reason}.` : 'Many destinations show no frame of a site that they do not know.';
  },
  *inPassage(passage, context) {
    const allowed = context.profile?.html?.embeds?.hosts ?? [];
    for (const link of passage.links) {
      const name = link.element?.name;
      if ((name !== 'iframe' && name !== 'embed' && name !== 'object') || link.state === 'inside') continue;
      const host = /^(?:https?:)?\/\/([^/?#]+)/i.exec(link.value)?.[1]?.toLowerCase() ?? '';
      if (allowed.includes(host)) continue;
      yield {
        like: host,
        item: passage.item,
        part: passage.part,
        file: passage.file,
        line: link.line,
        evidence: `frame of ${link.value}`,
        spot: { at: link.at, open: link.element?.open ?? null, close: link.element?.close ?? null, inStyle: false },
        suggestions: [{ mend: 'to-link', params: {}, words: 'Put a link to it in its place' }],
      };
    }
  },
};

const script: FindingKind = {
  id: 'script',
  label: 'Scripts in pages',
  weight: 'weakens',
  mends: ['remove'],
  why(to) {
    const rule = to?.html?.scripts;
    return rule ? `${to.label} ${rule}.` : 'Most destinations take scripts out, and what they drew is missing.';
  },
  *inPassage(passage) {
    for (const element of passage.reading.scripts) {
      const src = element.attrs['src'];
      const handlers = Object.keys(element.attrs).filter((n) => n.startsWith('on'));
      const isScript = element.name === 'script';
      if (isScript && (isData(element.attrs['type']) || isPlayer(element.attrs))) continue;
      yield foundIn(
        passage,
        element,
        isScript
          ? src === undefined
            ? sourceOf(passage, element)
            : `script ${src}`
          : `${handlers.join(', ')} of a ${element.name}`,
        {
          like: isScript ? (src ?? 'written in the page') : handlers.join(' '),
          suggestions: [
            { mend: 'remove', params: {}, words: isScript ? 'Take the script out' : 'Take the handlers out' },
          ],
        },
      );
    }
  },
};

/** A block of data is no script: no browser runs it (HTML Living Standard, 4.12.1). */
function isData(type: string | undefined): boolean {
  return type !== undefined && /^application\/(ld\+)?json$/i.test(type.trim());
}

/** The player that Treenail writes into pages that report: it is told of once, not at every page. */
function isPlayer({ src, [PLAYER_MARK]: mark }: Readonly<Record<string, string>>): boolean {
  return mark === 'player' && src !== undefined && PLAYER_PATH.test(src);
}

const player: FindingKind = {
  id: 'own-player',
  label: 'Pages that report by Treenail’s own player',
  weight: 'clutters',
  mends: [],
  why: () =>
    'It goes along with the package and is written anew with it; where no scripts are shown, nothing is reported.',
  *inCourse({ links }) {
    const loading = links.filter((l) => l.use === 'script' && l.path !== null && PLAYER_PATH.test(l.path));
    const [first] = loading;
    if (!first) return;
    yield {
      title: first.path ?? '',
      file: first.path,
      evidence: `${loading.length === 1 ? '1 page loads' : `${loading.length} pages load`} ${first.path ?? ''}`,
    };
  },
};

const icon: FindingKind = {
  id: 'icon-font',
  label: 'Icons drawn by a font',
  weight: 'weakens',
  mends: ['replace', 'remove'],
  why: (to) => `The font stays with the old platform; ${to?.label ?? 'the destination'} shows nothing, or a box.`,
  *inPassage(passage, { house, profile }) {
    if (passage.reading.classes.size === 0) return;
    const dead = profile?.html?.deadClasses ?? [];
    const seen = new Set<PageElement>();
    for (const [name, elements] of passage.reading.classes) {
      const symbol = house.icons[name];
      if (symbol === undefined && !dead.some((d) => name.startsWith(d.prefix))) continue;
      for (const element of elements) {
        if ((element.name !== 'i' && element.name !== 'span') || seen.has(element)) continue;
        if (symbol === undefined && element.text !== '') continue;
        seen.add(element);
        const whole = wholeOf(element);
        yield {
          like: name,
          item: passage.item,
          part: passage.part,
          file: passage.file,
          line: element.line,
          evidence: sourceOf(passage, element),
          spot: spotAt(whole, element),
          suggestions:
            symbol === undefined
              ? []
              : [{ mend: 'replace', params: { text: symbol }, words: `Put ${symbol} in its place` }],
        };
      }
    }
  },
};

const deadStyle: FindingKind = {
  id: 'style-class',
  label: 'Style classes that mean nothing there',
  weight: 'clutters',
  mends: ['remove-class'],
  why(to) {
    const [rule] = to?.html?.deadClasses ?? [];
    return rule && to ? `${to.label} ${rule.reason}.` : 'Their style sheet stays with the old platform.';
  },
  *inPassage(passage, { profile, house }) {
    const dead = profile?.html?.deadClasses ?? [];
    if (dead.length === 0) return;
    for (const [name, elements] of passage.reading.classes) {
      if (house.icons[name] !== undefined || !dead.some((d) => name.startsWith(d.prefix))) continue;
      for (const element of elements) {
        if ((element.name === 'i' || element.name === 'span') && element.text === '') continue;
        yield foundIn(passage, element, `class ${name} of a ${element.name}`, {
          like: name,
          suggestions: [{ mend: 'remove-class', params: { name }, words: `Take the class ${name} off` }],
        });
      }
    }
  },
};

const altless: FindingKind = {
  id: 'picture-without-words',
  label: 'Pictures without words for those who can not see them',
  weight: 'weakens',
  mends: ['set-alt', 'remove'],
  why: () => 'A screen reader says the name of the file, or nothing. Public bodies are bound by law to do better.',
  *inPassage(passage) {
    for (const image of passage.reading.images) {
      const { alt, src, role } = image.attrs;
      if (alt !== undefined || role === 'presentation' || src === undefined) continue;
      const title = image.attrs['title']?.trim();
      yield foundIn(passage, image, `picture ${src}`, {
        like: src,
        suggestions: [
          ...(title ? [{ mend: 'set-alt', params: { text: title }, words: `Say “${title}”` }] : []),
          { mend: 'set-alt', params: { text: '' }, words: 'Say that it is only ornament' },
        ],
      });
    }
  },
};

const table: FindingKind = {
  id: 'table-without-header',
  label: 'Tables without header cells',
  weight: 'weakens',
  mends: ['head-table'],
  why: () => 'A screen reader reads a row of numbers without saying what they are.',
  *inPassage(passage) {
    for (const one of passage.reading.tables) {
      if (one.rows < 2 || one.headers > 0 || one.attrs['role'] === 'presentation') continue;
      yield foundIn(passage, one, `table of ${one.rows} rows: ${excerpt(one.text, 80)}`, {
        like: 'first row',
        spot: spotAt(wholeOf(one), one),
        suggestions: [{ mend: 'head-table', params: {}, words: 'Make its first row the header' }],
      });
    }
  },
};

const headings: FindingKind = {
  id: 'heading-jump',
  label: 'Headings that skip a level',
  weight: 'weakens',
  mends: ['level-heading'],
  why: () => 'Whoever goes from heading to heading takes it that something is missing between them.',
  *inPassage(passage) {
    let before = 0;
    for (const heading of passage.reading.headings) {
      const level = Number(heading.name[1]);
      if (before > 0 && level > before + 1) {
        const to = before + 1;
        yield foundIn(passage, heading, `“${excerpt(heading.text, 80)}” is of level ${level} under one of ${before}`, {
          like: `${before} to ${level}`,
          suggestions: [{ mend: 'level-heading', params: { level: String(to) }, words: `Make it level ${to}` }],
        });
        before = to;
      } else before = level;
    }
  },
};

export const PAGE_FINDINGS: readonly FindingKind[] = [
  player,
  placeholder,
  embed,
  script,
  icon,
  deadStyle,
  altless,
  table,
  headings,
];
