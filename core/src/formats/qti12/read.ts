import {
  child,
  descendants,
  elements,
  escapeXml,
  fold,
  is,
  named,
  textOf,
  withChildren,
  type XmlElement,
} from '../../markup/index.ts';
import {
  sectionsWorth,
  type Item,
  type ItemOf,
  type Question,
  type Section,
  type Settings,
} from '../../model/index.ts';
import { rebasedQuestion } from '../references.ts';
import { materialOf, metadataOf, type Resolve } from './material.ts';
import { readQuestion } from './question.ts';

/**
 * Questions of QTI 1.2.1 (ASI): in the cartridge profile (IMS Common Cartridge, QTI profile, chapters 3 and 4) and wider.
 * `path` is the package path of the file; `resolve` turns a reference in a text into a package path, or `null`.
 */
export function readQuestions(root: XmlElement, path: string, resolve: Resolve): Question[] {
  return named(root, 'item').map((item) => ({
    ...readQuestion(item, resolve),
    xml: { path, start: item.start, end: item.end },
  }));
}

/** A quiz, and the banks that it draws from in its own file. */
export interface Assessment {
  questions: Question[];
  settings: Settings;
  banks: ItemOf<'bank'>[];
}

/**
 * An assessment. A section some of whose own questions are drawn (ASI Selection and Ordering, `selection_number` without
 * a `sourcebank_ref`) holds a bank, which `bankId` gives its identifier.
 */
export function readAssessment(
  assessment: XmlElement,
  path: string,
  title: string,
  resolve: Resolve,
  bankId: (section: string) => string,
): Assessment {
  const settings = readQuizSettings(assessment);
  const banks: ItemOf<'bank'>[] = [];
  const draws: [string, string][] = [];
  const without = (element: XmlElement): XmlElement =>
    withChildren(
      element,
      element.children.flatMap((part): (string | XmlElement)[] => {
        if (typeof part === 'string') return [part];
        const number = is(part, 'section') ? drawnOf(part) : null;
        if (number === null) return [without(part)];
        let id = bankId(part.attrs['ident'] ?? '');
        while (banks.some((b) => b.id === id)) id += '_';
        const name = fold(part.attrs['title'] ?? '') || `Questions of ${title}`;
        // It has no file of its own, so its texts name files as seen from the top.
        const drawn = readQuestions(part, path, resolve).map((q) => rebasedQuestion(q, resolve, null));
        banks.push({ kind: 'bank', id, title: name, definitionPath: null, settings: {}, questions: drawn });
        draws.push([id, String(number)]);
        return [];
      }),
    );
  // Most draw from nothing of their own, and are read as they are.
  const draw = descendants(assessment).some((e) => is(e, 'section') && drawnOf(e) !== null);
  const own = draw ? without(assessment) : assessment;
  const questions = readQuestions(own, path, resolve);
  Object.assign(settings, sectionsWorth(sectionsOf(own), title));
  if (draws.length > 0) settings.draws = { ...settings.draws, ...Object.fromEntries(draws) };
  return { questions, settings, banks };
}

/** Sections that ask something (ASI 3.4); those that only draw from a bank are told as such. */
function sectionsOf(holder: XmlElement): Section[] {
  return elements(holder).flatMap((element): Section[] => {
    if (!is(element, 'section')) return [];
    const parts = elements(element).flatMap((part): (string | Section)[] =>
      is(part, 'item') ? [part.attrs['ident'] ?? ''] : sectionsOf(withChildren(element, [part])),
    );
    if (parts.length === 0) return [];
    const text = materialOf(child(element, 'rubric')) ?? materialOf(child(element, 'presentation_material'));
    const order = child(element, 'selection_ordering', 'order')?.attrs['order_type'] ?? '';
    return [
      {
        id: element.attrs['ident'] ?? '',
        title: fold(element.attrs['title'] ?? ''),
        ...(text ? { text: text.format === 'html' ? text.text : escapeXml(text.text) } : {}),
        ...(/^random$/i.test(order) ? { shuffled: true as const } : {}),
        parts,
      },
    ];
  });
}

/** How many of a section's own questions are drawn; `null` where all of them are asked. */
function drawnOf(section: XmlElement): number | null {
  const selections = elements(child(section, 'selection_ordering'), 'selection');
  const [only, ...more] = selections.filter((s) => textOf(child(s, 'sourcebank_ref')).trim() === '');
  const number = Number(textOf(child(only, 'selection_number')).trim() || Number.NaN);
  const items = named(section, 'item').length;
  return more.length === 0 && number > 0 && number < items ? number : null;
}

/** Settings of an assessment: its metadata and its rubric. Times are minutes. */
function readQuizSettings(assessment: XmlElement | undefined): Settings {
  const meta = metadataOf(assessment);
  const settings: Settings = {};
  const attempts = meta['cc_maxattempts'];
  if (attempts !== undefined) settings.attempts = /^\d+$/.test(attempts) ? Number(attempts) : attempts;
  const limit = Number(meta['qmd_timelimit']);
  if (limit > 0) settings.timeLimit = limit;
  const instructions =
    materialOf(child(assessment, 'rubric')) ?? materialOf(child(assessment, 'presentation_material'));
  if (instructions) settings.instructions = instructions.text;
  const drawn = assessment ? named(assessment, 'selection') : [];
  const draws = drawn.flatMap((selection): [string, string][] => {
    const bank = textOf(child(selection, 'sourcebank_ref')).trim();
    return bank === '' ? [] : [[bank, textOf(child(selection, 'selection_number')).trim() || 'all']];
  });
  if (draws.length > 0) settings.draws = Object.fromEntries(draws);
  return settings;
}

/** Names the banks that a quiz draws from as the course does. */
export function renameDraws(item: Item, names: ReadonlyMap<string, string>): void {
  const { draws } = item.settings;
  if (typeof draws !== 'object' || Array.isArray(draws)) return;
  item.settings.draws = Object.fromEntries(
    Object.entries(draws).map(([bank, number]) => [names.get(bank) ?? bank, number]),
  );
}
