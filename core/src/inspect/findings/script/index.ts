import { PLAYER_MARK, PLAYER_PATH } from '../../../markup/player.ts';
import type { FindingKind } from '../contract.ts';
import { foundIn, sourceOf } from '../page-parts.ts';

export const script: FindingKind = {
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
          groupKey: isScript ? (src ?? 'written in the page') : handlers.join(' '),
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
