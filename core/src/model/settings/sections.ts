import * as z from 'zod';
import { count } from '../words.ts';
import { defineSetting } from './define.ts';

/** A part of a quiz: its questions stand together, under a title, a text of their own, and perhaps in random order. */
export interface Section {
  id: string;
  title: string;
  /** HTML that is shown before its questions. */
  text?: string | undefined;
  /** Its parts are shown in another order each time. */
  shuffled?: true | undefined;
  /** Identifiers of questions of the quiz, and sections within it, in their order. */
  parts: (string | Section)[];
}
export const Section: z.ZodType<Section> = z.object({
  id: z.string(),
  title: z.string(),
  text: z.string().optional(),
  shuffled: z.literal(true).optional(),
  get parts() {
    return z.array(z.union([z.string(), Section]));
  },
});

/** Questions of a section and of all that are in it. */
function questionsIn(section: Section): number {
  return section.parts.reduce((sum, part) => sum + (typeof part === 'string' ? 1 : questionsIn(part)), 0);
}

function sectionWords({ title, text, shuffled, parts, ...section }: Section): string {
  const inside = parts.filter((part) => typeof part !== 'string').map(sectionWords);
  const facts = [
    count(questionsIn({ ...section, title, parts }), 'question'),
    ...(shuffled ? ['in random order'] : []),
    ...(text === undefined ? [] : ['with a text']),
    ...(inside.length > 0 ? [`in it ${inside.join(', ')}`] : []),
  ];
  return `${title === '' ? 'without a title' : `“${title}”`} (${facts.join(', ')})`;
}

export const sections = defineSetting({
  label: 'sections',
  schema: z.array(Section),
  // Questions bear other identifiers once a platform has renumbered them; how many stand together stays.
  comparable: (all, readable) => {
    const shape = ({ title, text = '', shuffled, parts }: Section): unknown[] => [
      title,
      readable(text),
      shuffled === true,
      ...parts.map((part) => (typeof part === 'string' ? '' : shape(part))),
    ];
    return all.map(shape);
  },
  words: (all) => all.map(sectionWords).join(', '),
});

/** The sections with their texts changed, or without some questions; those that would hold none go. */
export function mapSections(
  all: readonly Section[],
  {
    text = (html) => html,
    keep = () => true,
  }: { text?: (html: string, id: string) => string; keep?: (question: string) => boolean },
): Section[] {
  return all.flatMap((section): Section[] => {
    const parts = section.parts.flatMap((part): (string | Section)[] =>
      typeof part === 'string' ? (keep(part) ? [part] : []) : mapSections([part], { text, keep }),
    );
    if (parts.length === 0) return [];
    return [{ ...section, ...(section.text === undefined ? {} : { text: text(section.text, section.id) }), parts }];
  });
}

/**
 * What of the sections of a quiz is worth saying: none of a quiz whose only section says no more than the quiz itself.
 */
export function sectionsWorth(all: readonly Section[], title: string): { sections?: Section[] } {
  const [only, ...more] = all;
  const says = ({ text, shuffled, parts, title: own }: Section) =>
    shuffled === true ||
    text !== undefined ||
    parts.some((part) => typeof part !== 'string') ||
    (own !== '' && own !== title);
  return only && (more.length > 0 || says(only)) ? { sections: [...all] } : {};
}
