import { xml } from '../../markup/index.ts';
import type { ItemOf, RichText, Section } from '../../model/index.ts';
import { Uses } from '../uses.ts';
import {
  DECLARATION,
  NAMESPACES,
  asIdentifier,
  attributeName,
  elementName,
  type Attributes,
  type QtiVersion,
} from './names.ts';

/** An item as a test or section refers to it: its path is as seen from there. */
export interface ItemRef {
  id: string;
  href: string;
}

/** Questions that a test draws from a bank: so many of its items, or, by its section, all of them (`null`). */
export interface Draw {
  bank: string;
  title: string;
  number: number | null;
  /** The bank's section as seen from the test. */
  href: string;
  refs: readonly ItemRef[];
}

/** A quiz as a test, or a bank as a section that stands for itself. */
export function writeTest(
  item: ItemOf<'quiz'> | ItemOf<'bank'>,
  version: QtiVersion,
  refs: readonly ItemRef[],
  draws: readonly Draw[],
  html: (text: RichText) => string,
): string {
  const el = (name: string, attributes: Attributes, ...children: string[]) =>
    xml(
      elementName(name, version),
      Object.fromEntries(Object.entries(attributes).map(([k, v]) => [attributeName(k, version), v])),
      ...children,
    );
  const { attempts, timeLimit, instructions, sections = [] } = item.settings;
  const rubric = (text: string | undefined) => {
    if (text === undefined) return '';
    const content = xml('div', {}, html({ format: 'html', text }));
    return el(
      'rubricBlock',
      { class: 'instructions', view: 'candidate', ...(version === '3.0' ? { use: 'instructions' } : {}) },
      version === '3.0' ? el('contentBody', {}, content) : content,
    );
  };
  const itemRef = ({ id, href }: ItemRef, prefix: string) =>
    el('assessmentItemRef', { identifier: `${prefix}_${asIdentifier(id)}`, href });
  const itemRefs = (list: readonly ItemRef[], prefix: string) =>
    list.map((ref, i) => itemRef(ref, `${prefix}_${i + 1}`));
  const left = new Uses(refs);
  const taken = new Set(['section', ...draws.map((draw) => asIdentifier(draw.bank))]);
  const part = ({ id, title, text, shuffled, parts }: Section): string => {
    let identifier = asIdentifier(id);
    while (taken.has(identifier)) identifier += '_';
    taken.add(identifier);
    return el(
      'assessmentSection',
      { identifier, title, visible: 'true' },
      shuffled ? el('ordering', { shuffle: 'true' }) : '',
      rubric(text),
      ...parts.flatMap((one, i) => {
        if (typeof one !== 'string') return [part(one)];
        const ref = left.take(one);
        return ref ? [itemRef(ref, `${identifier}_${i + 1}`)] : [];
      }),
    );
  };
  const sectioned = sections.map(part);
  const section = (more: Attributes) =>
    el(
      'assessmentSection',
      { ...more, visible: 'true' },
      rubric(instructions),
      ...sectioned,
      ...itemRefs(left.rest(), 'ref'),
    );
  // It bears the bank's identifier, so that it is known for a part of it.
  const drawn = ({ bank, title, number, href, refs }: Draw, i: number) =>
    number === null
      ? el('assessmentSectionRef', { identifier: asIdentifier(bank), href })
      : el(
          'assessmentSection',
          { identifier: asIdentifier(bank), title, visible: 'true' },
          el('selection', { select: number }),
          ...itemRefs(refs, `draw_${i + 1}`),
        );
  const identifier = asIdentifier(item.id);
  if (item.kind === 'bank') return DECLARATION + section({ xmlns: NAMESPACES[version], identifier, title: item.title });
  return (
    DECLARATION +
    el(
      'assessmentTest',
      { xmlns: NAMESPACES[version], identifier, title: item.title },
      el('outcomeDeclaration', { identifier: 'SCORE', cardinality: 'single', baseType: 'float' }),
      typeof timeLimit === 'number' ? el('timeLimits', { maxTime: timeLimit * 60 }) : '',
      el(
        'testPart',
        { identifier: 'part', navigationMode: 'nonlinear', submissionMode: 'individual' },
        typeof attempts === 'number' ? el('itemSessionControl', { maxAttempts: attempts }) : '',
        section({ identifier: 'section', title: item.title }),
        ...draws.map(drawn),
      ),
      el(
        'outcomeProcessing',
        {},
        el(
          'setOutcomeValue',
          { identifier: 'SCORE' },
          el('sum', {}, el('testVariables', { variableIdentifier: 'SCORE' })),
        ),
      ),
    )
  );
}
