import { xml } from '../../markup/index.ts';
import type { ItemOf, RichText } from '../../model/index.ts';
import {
  DECLARATION,
  NAMESPACES,
  asIdentifier,
  attributeName,
  elementName,
  type Attributes,
  type QtiVersion,
} from './names.ts';

/** A quiz as a test, or a bank as a section that stands for itself. `refs` are paths of its items as seen from it. */
export function writeTest(
  item: ItemOf<'quiz'> | ItemOf<'bank'>,
  version: QtiVersion,
  refs: readonly { id: string; href: string }[],
  html: (text: RichText) => string,
): string {
  const el = (name: string, attributes: Attributes, ...children: string[]) =>
    xml(
      elementName(name, version),
      Object.fromEntries(Object.entries(attributes).map(([k, v]) => [attributeName(k, version), v])),
      ...children,
    );
  const { attempts, timeLimit, instructions } = item.settings;
  const rubric =
    typeof instructions === 'string'
      ? el(
          'rubricBlock',
          { class: 'instructions', view: 'candidate', ...(version === '3.0' ? { use: 'instructions' } : {}) },
          version === '3.0'
            ? el('contentBody', {}, xml('div', {}, html({ format: 'html', text: instructions })))
            : xml('div', {}, html({ format: 'html', text: instructions })),
        )
      : '';
  const section = (more: Attributes) =>
    el(
      'assessmentSection',
      { ...more, visible: 'true' },
      rubric,
      ...refs.map((r, i) =>
        el('assessmentItemRef', { identifier: `ref_${i + 1}_${asIdentifier(r.id)}`, href: r.href }),
      ),
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
