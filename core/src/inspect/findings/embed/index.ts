import type { FindingKind } from '../contract.ts';

export const embed: FindingKind = {
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
        groupKey: host,
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
