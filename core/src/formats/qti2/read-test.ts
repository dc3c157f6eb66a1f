import { descendants, elements, fold, taken, takenAs, type XmlElement } from '../../markup/index.ts';
import { warning, type Note, type Section, type Settings } from '../../model/index.ts';
import { innerHtml } from './html.ts';
import { attributeOf, id, isFor, isNamed, kid, kids, nameOf, qtiVocabulary } from './names.ts';

/** What tests of QTI 2 and 3 say beside their questions. */

/** What stands in the outcome of a test that gives what its questions give. */
const OUTCOMES = qtiVocabulary(
  'outcomeDeclaration outcomeProcessing setOutcomeValue sum testVariables',
  'identifier cardinality baseType variableIdentifier',
);

function textsIn(sections: readonly Section[]): string[] {
  return sections.flatMap(({ text, parts }) => [
    ...(text === undefined ? [] : [text]),
    ...textsIn(parts.filter((part) => typeof part !== 'string')),
  ]);
}

/** What a test or section says to those who answer; what it says to those who mark is not for them. */
function rubricsOf(holder: XmlElement): XmlElement[] {
  return elements(holder)
    .filter((e) => nameOf(e) === 'rubricBlock' && isFor('candidate', e))
    .map((rubric) => {
      void [attributeOf(rubric, 'class'), attributeOf(rubric, 'view')];
      return taken(rubric);
    });
}

function rubricText(rubric: XmlElement): string {
  return innerHtml(kid(rubric, 'contentBody') ?? rubric).trim();
}

/** A section with what it asks; nothing where it asks nothing. */
export function sectionOf(element: XmlElement, parts: Section['parts']): Section[] {
  if (parts.length === 0) return [];
  const rubrics = rubricsOf(element);
  const ordering = kid(element, 'ordering');
  return [
    {
      id: attributeOf(element, 'identifier') ?? '',
      title: fold(attributeOf(element, 'title') ?? ''),
      ...(rubrics.length > 0 ? { text: rubrics.map(rubricText).join('\n') } : {}),
      ...(ordering && attributeOf(ordering, 'shuffle') === 'true' ? { shuffled: true as const } : {}),
      parts,
    },
  ];
}

/** A test has at least one section: where that holds all others, it is the quiz itself, and its text is instructions. */
export function unwrapped(all: readonly Section[]): readonly Section[] {
  const [only, ...more] = all;
  if (!only || more.length > 0 || only.shuffled) return all;
  const inside = only.parts.filter((part) => typeof part !== 'string');
  if (inside.length === only.parts.length) return inside;
  const { id, title, parts } = only;
  return [{ id, title, parts }];
}

/** That a test gives what its questions give is what every quiz does. */
function isSumOfScores(processing: XmlElement): boolean {
  const [rule, ...more] = elements(processing);
  const [sum] = elements(rule);
  const [variables, ...others] = elements(sum);
  return (
    more.length + others.length === 0 &&
    rule !== undefined &&
    isNamed(rule, 'setOutcomeValue') &&
    sum !== undefined &&
    isNamed(sum, 'sum') &&
    variables !== undefined &&
    isNamed(variables, 'testVariables') &&
    attributeOf(variables, 'variableIdentifier') === 'SCORE' &&
    attributeOf(variables, 'weightIdentifier') === undefined
  );
}

/** Times are seconds there and minutes here. */
export function settingsOfTest(test: XmlElement, sections: readonly Section[]): Settings {
  const ofSections = new Set(textsIn(sections));
  const all = descendants(test);
  for (const rule of kids(test, 'outcomeProcessing')) if (isSumOfScores(rule)) takenAs(OUTCOMES, rule);
  for (const outcome of elements(test))
    if (nameOf(outcome) === 'outcomeDeclaration' && id(outcome) === 'SCORE') takenAs(OUTCOMES, outcome);
  const settings: Settings = {};
  const attempts = Number(
    all.filter((e) => isNamed(e, 'itemSessionControl')).map((e) => attributeOf(e, 'maxAttempts'))[0],
  );
  if (attempts > 0) settings.attempts = attempts;
  const limits = all.find((e) => isNamed(e, 'timeLimits'));
  const seconds = Number(limits && attributeOf(limits, 'maxTime'));
  if (seconds > 0) settings.timeLimit = seconds / 60;
  const rubrics = [test, ...all]
    .map((holder) => rubricsOf(holder).map(rubricText).join('\n'))
    .filter((text) => text !== '' && !ofSections.has(text));
  if (rubrics.length > 0) settings.instructions = [...new Set(rubrics)].join('\n');
  return settings;
}

/** Where a test leads on by what was answered, its questions are read in their order. */
export function branching(test: XmlElement, place: string): Note[] {
  const rule = descendants(test).find((e) => isNamed(e, 'branchRule', 'preCondition'));
  if (!rule) return [];
  return [
    warning(
      'quiz-branches',
      `${place} leads to other questions by what was answered; all of them were read, in their order.`,
      { file: place, line: rule.line },
    ),
  ];
}
