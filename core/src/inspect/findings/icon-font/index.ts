import { wholeOf, type PageElement } from '../../../markup/index.ts';
import { spotAt, type FindingKind } from '../contract.ts';
import { sourceOf } from '../page-parts.ts';

export const iconFont: FindingKind = {
  id: 'icon-font',
  label: 'Icons drawn by a font',
  weight: 'weakens',
  mends: ['replace', 'remove'],
  why: (to) => `The font stays with the old platform; ${to?.label ?? 'the destination'} shows nothing, or a box.`,
  *inPassage(passage, { settings, profile }) {
    if (passage.reading.classes.size === 0) return;
    const dead = profile?.html?.deadClasses ?? [];
    const seen = new Set<PageElement>();
    for (const [name, elements] of passage.reading.classes) {
      const symbol = settings.icons[name];
      if (symbol === undefined && !dead.some((d) => name.startsWith(d.prefix))) continue;
      for (const element of elements) {
        if ((element.name !== 'i' && element.name !== 'span') || seen.has(element)) continue;
        if (symbol === undefined && element.text !== '') continue;
        seen.add(element);
        const whole = wholeOf(element);
        yield {
          groupKey: name,
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
