import type { FindingKind } from '../contract.ts';
import { foundIn } from '../page-parts.ts';

export const styleClass: FindingKind = {
  id: 'style-class',
  label: 'Style classes that mean nothing there',
  weight: 'clutters',
  mends: ['remove-class'],
  why(to) {
    const [rule] = to?.html?.deadClasses ?? [];
    return rule && to ? `${to.label} ${rule.reason}.` : 'Their style sheet stays with the old platform.';
  },
  *inPassage(passage, { profile, settings }) {
    const dead = profile?.html?.deadClasses ?? [];
    if (dead.length === 0) return;
    for (const [name, elements] of passage.reading.classes) {
      if (settings.icons[name] !== undefined || !dead.some((d) => name.startsWith(d.prefix))) continue;
      for (const element of elements) {
        if ((element.name === 'i' || element.name === 'span') && element.text === '') continue;
        yield foundIn(passage, element, `class ${name} of a ${element.name}`, {
          groupKey: name,
          suggestions: [{ mend: 'remove-class', params: { name }, words: `Take the class ${name} off` }],
        });
      }
    }
  },
};
