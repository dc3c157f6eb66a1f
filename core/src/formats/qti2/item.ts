import { descendants, textOf, type XmlElement } from '../../markup/index.ts';
import type { Given, Question } from '../../model/index.ts';
import { tried } from '../trial.ts';
import { scoreOf, type Responses } from './interpret.ts';
import { attributeOf, id, kid, kids, nameOf } from './names.ts';
import { INTERACTION, ItemReader, type Resolve } from './read.ts';

/** One item. `path` is the package path that `root` was parsed from. */
export function readItem(root: XmlElement, path: string, resolve: Resolve): Question {
  const { start, end } = root;
  const question = { ...new ItemReader(root, resolve).read(), xml: { path, start, end } };
  return tried(
    question,
    (given) => {
      const answers = answered(given, root);
      return answers && scoreOf(root, answers);
    },
    wordsOf(root),
  );
}

/** All that an answer is compared with. */
function wordsOf(root: XmlElement): string[] {
  const processing = kid(root, 'responseProcessing');
  return processing ? descendants(processing).flatMap((e) => (nameOf(e) === 'baseValue' ? [textOf(e)] : [])) : [];
}

/** An answer as the responses of the item: of gaps each by its own, else by the only interaction; `null` for one that can't be given there. */
function answered(given: Given, root: XmlElement): Responses | null {
  if ('gaps' in given) return new Map(Object.entries(given.gaps).map(([gap, value]) => [gap, [value]]));
  const body = kid(root, 'itemBody');
  const interaction = body && descendants(body).find((e) => INTERACTION.test(nameOf(e)));
  const response = (interaction && attributeOf(interaction, 'responseIdentifier')) ?? '';
  const declared = kids(root, 'responseDeclaration').find((d) => id(d) === response);
  const isOne = declared === undefined || (attributeOf(declared, 'cardinality') ?? 'single') === 'single';
  return isOne && given.values.length > 1 ? null : new Map([[response, given.values]]);
}
