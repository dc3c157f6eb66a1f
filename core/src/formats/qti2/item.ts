import { descendants, textOf, type XmlElement } from '../../markup/index.ts';
import { isPointing, partsOf, pointIn, type Given, type Question } from '../../model/index.ts';
import { tried } from '../trial.ts';
import { interactionsIn } from './interactions.ts';
import { scoreOf, type Responses } from './interpret.ts';
import { attributeOf, id, kid, kids, nameOf } from './names.ts';
import { ItemReader, type Resolve } from './read.ts';
import { instanceOf } from './template.ts';

/** One item. `path` is the package path that `root` was parsed from. */
export function readItem(root: XmlElement, path: string, resolve: Resolve): Question {
  const { start, end } = root;
  const instance = instanceOf(root);
  const question = { ...new ItemReader(root, resolve, instance).read(), xml: { path, start, end } };
  if (!instance) return question;
  return tried(
    question,
    (given) => {
      const answers = answered(given, instance, question);
      return answers && scoreOf(instance, answers);
    },
    wordsOf(instance),
  );
}

/** All that an answer is compared with. */
function wordsOf(root: XmlElement): string[] {
  const processing = kid(root, 'responseProcessing');
  return processing ? descendants(processing).flatMap((e) => (nameOf(e) === 'baseValue' ? [textOf(e)] : [])) : [];
}

/** An answer as the responses of the item: of gaps each by its own, else by the only interaction; `null` for one that can't be given there. */
function answered(given: Given, root: XmlElement, question: Question): Responses | null {
  if ('gaps' in given) return new Map(Object.entries(given.gaps).map(([gap, value]) => [gap, [value]]));
  const [interaction] = interactionsIn(kid(root, 'itemBody'));
  const response = (interaction && attributeOf(interaction, 'responseIdentifier')) ?? '';
  const declared = kids(root, 'responseDeclaration').find((d) => id(d) === response);
  const isOne = declared === undefined || (attributeOf(declared, 'cardinality') ?? 'single') === 'single';
  const values = isPointing(question) ? given.values.map((area) => pointOf(question, area)) : given.values;
  return isOne && values.length > 1 ? null : new Map([[response, values]]);
}

/** A point in that place, as a response says it. */
function pointOf(question: Question, place: string): string {
  const area = partsOf(question).areas.find((a) => a.id === place);
  return area ? pointIn(area).join(' ') : '';
}
