import { attr, many, one, words, type Xml } from './xml.ts';

export interface ReadQuestion {
  key: string;
  label: string;
  form: 'one' | 'many' | 'word' | 'prose';
  ask: string;
  marks: number;
  options: { key: string; text: string; right: boolean }[];
  /** Words that are taken. */
  words: string[];
}

/** One question a file: QTI 2.1, 2.2 and 3.0. */
export const QUESTION_FILE = /^imsqti_item_xmlv(2p[12]|3p0)$/;

/**
 * The simulated platforms' reading of single questions: to choose one, to choose several, a word, a text. Null is what
 * they step over.
 */
export function questionOfItem(root: Xml | undefined): ReadQuestion | null {
  const item = one(root, 'assessmentItem') ?? one(root, 'qti-assessment-item');
  const named = (name: string): string => (one(root, 'assessmentItem') ? name : `qti-${dashed(name)}`);
  const body = one(item, named('itemBody'));
  const declared = many(item, named('responseDeclaration'))[0];
  const keys = many(one(declared, named('correctResponse')), named('value')).map(words);
  const choice = within(body, named('choiceInteraction'));
  const entry = within(body, named('textEntryInteraction'));
  const prose = within(body, named('extendedTextInteraction'));
  const base = {
    key: attr(item, 'identifier'),
    label: attr(item, 'title'),
    marks:
      Number(words(one(many(item, named('outcomeDeclaration'))[0], named('defaultValue'), named('value'))) || 1) || 1,
    words: [],
    options: [],
  };
  if (choice) {
    const options = many(choice, named('simpleChoice')).map((c) => ({
      key: attr(c, 'identifier'),
      text: textIn(c),
      right: keys.includes(attr(c, 'identifier')),
    }));
    const ask = textIn(one(choice, named('prompt'))) || textIn(body, choice);
    return { ...base, form: attr(declared, 'cardinality') === 'multiple' ? 'many' : 'one', ask, options };
  }
  if (entry) {
    return { ...base, form: 'word', ask: textIn(body), words: keys };
  }
  if (prose) return { ...base, form: 'prose', ask: textIn(one(prose, named('prompt'))) || textIn(body) };
  return null;
}

const dashed = (name: string): string => name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`);

/** The first element of a name, however deep. */
function within(node: Xml | undefined, name: string): Xml | undefined {
  if (!node) return undefined;
  const here = one(node, name);
  if (here) return here;
  for (const value of Object.values(node)) {
    for (const below of Array.isArray(value) ? value : typeof value === 'object' ? [value] : []) {
      const found = within(below, name);
      if (found) return found;
    }
  }
  return undefined;
}

/** The words inside, without those of one part. Habit: mark-up is lost, pictures with it. */
function textIn(node: Xml | undefined, without?: Xml): string {
  if (!node || node === without) return '';
  const parts = Object.entries(node).map(([name, value]) => {
    if (name === '#text' && typeof value === 'string') return value;
    if (name.startsWith('@')) return '';
    const below = Array.isArray(value) ? value : typeof value === 'object' ? [value] : [];
    return below.map((b) => textIn(b, without)).join(' ');
  });
  return parts.join(' ').replace(/\s+/g, ' ').trim();
}
