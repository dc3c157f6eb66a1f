import { child, elements, escapeXml, is, textOf, type XmlElement } from '../../markup/index.ts';
import { blankMark, type RichText } from '../../model/index.ts';

export const RESPONSES = ['response_lid', 'response_str', 'response_num', 'response_xy', 'response_grp'];

/** What holds material, and says nothing itself. */
const HOLDERS = [
  'material',
  'flow',
  'flow_mat',
  'flow_label',
  'presentation_material',
  'hint',
  'hintmaterial',
  'solution',
  'solutionmaterial',
  'render_choice',
  'render_fib',
  'render_hotspot',
  'response_label',
  ...RESPONSES,
];

export const identOf = (element: XmlElement | undefined) => element?.attrs['ident'] ?? '';

/** The text of all material below an element, stopping at the elements named, or with a mark for each response. */
export function materialOf(
  element: XmlElement | undefined,
  { stopAt = [], marks = false }: { stopAt?: readonly string[]; marks?: boolean } = {},
): RichText | undefined {
  if (!element) return undefined;
  const texts: { text: string; html: boolean }[] = [];
  const look = (at: XmlElement) => {
    for (const inner of elements(at)) {
      if (is(inner, 'mattext')) {
        texts.push({ text: textOf(inner), html: inner.attrs['texttype']?.toLowerCase() === 'text/html' });
      } else if (is(inner, 'matimage') && !stopAt.includes('matimage')) {
        const { uri = '', label = '' } = inner.attrs;
        texts.push({ text: `<img src="${escapeXml(uri)}" alt="${escapeXml(label)}">`, html: true });
      } else if (is(inner, 'matemtext')) {
        texts.push({ text: `<em>${escapeXml(textOf(inner))}</em>`, html: true });
      } else if (is(inner, 'matbreak')) {
        texts.push({ text: '<br>', html: true });
      } else if (is(inner, 'mataudio', 'matvideo')) {
        const { uri = '' } = inner.attrs;
        const tag = inner.name === 'mataudio' ? 'audio' : 'video';
        if (uri !== '') texts.push({ text: `<${tag} controls src="${escapeXml(uri)}"></${tag}>`, html: true });
      } else if (is(inner, 'mat_extension')) texts.push({ text: textOf(inner), html: true });
      else if (marks && RESPONSES.includes(inner.name)) texts.push({ text: blankMark(identOf(inner)), html: false });
      else if (!stopAt.includes(inner.name) && inner.name !== 'altmaterial') {
        is(inner, ...HOLDERS);
        look(inner);
      }
    }
  };
  look(element);
  if (texts.length === 0) return undefined;
  const html = texts.some((t) => t.html);
  return {
    format: html ? 'html' : 'plain',
    text: texts.map((t) => (html && !t.html ? escapeXml(t.text) : t.text)).join(''),
  };
}

/** What a text refers to by the cartridge's base token. */
export function referencesIn(text: string): string[] {
  if (!text.includes('=')) return [];
  return [...text.matchAll(/(?:src|href)\s*=\s*["']([^"']+)["']/gi)].map((m) => m[1] ?? '');
}

/** Turns a reference in a text into a package path, or `null`. */
export type Resolve = (reference: string) => string | null;

export function metadataOf(element: XmlElement | undefined): Record<string, string> {
  const fields: Record<string, string> = {};
  for (const field of elements(child(element, 'qtimetadata'), 'qtimetadatafield')) {
    fields[textOf(child(field, 'fieldlabel')).trim().toLowerCase()] = textOf(child(field, 'fieldentry')).trim();
  }
  return fields;
}
