import type { Block, Question, RichText, TableCell } from '../model/index.ts';
import { escapeXml } from './xml-text.ts';

/** The pieces of an item as HTML. */

/** A text as HTML. */
export function asHtml(text: RichText): string {
  return text.format === 'html' ? text.text : `<p>${escapeXml(text.text)}</p>`;
}

/** Blocks one after the other; how questions are shown says who shows them. */
export function htmlOf(blocks: readonly Block[], ofQuestions: (questions: readonly Question[]) => string): string {
  return blocks.map((block) => (block.is === 'questions' ? ofQuestions(block.questions) : blockHtml(block))).join('');
}

function blockHtml(block: Exclude<Block, { is: 'questions' }>): string {
  switch (block.is) {
    case 'text':
      return block.text.text === '' ? '' : asHtml(block.text);
    case 'address':
      return `<p><a href="${escapeXml(block.url)}">${escapeXml(block.words)}</a></p>`;
    case 'steps':
      return `<ul>${block.steps.map((step) => `<li><label><input type="checkbox"> ${escapeXml(step)}</label></li>`).join('')}</ul>`;
    case 'table':
      return block.rows.length === 0
        ? ''
        : `<table>${block.rows.map((row) => `<tr>${row.map(cellHtml).join('')}</tr>`).join('')}</table>`;
    case 'terms':
      return `<dl>${block.entries.map(termHtml).join('')}</dl>`;
  }
}

function cellHtml({ text, first, head, span = 1, marked }: TableCell): string {
  const wide = span > 1 ? ` colspan="${span}"` : '';
  const words = marked === true ? `<mark>${escapeXml(text)}</mark>` : escapeXml(text);
  const content = first === undefined ? words : `<strong>${escapeXml(first)}</strong> ${words}`;
  if (head === undefined) return `<td${wide}>${content}</td>`;
  return `<th${wide} scope="${head === 'column' ? 'col' : 'row'}">${content}</th>`;
}

function termHtml({ term, definition, pictures }: Extract<Block, { is: 'terms' }>['entries'][number]): string {
  const shown = pictures.map((path) => `<img src="${escapeXml(path)}" alt="${escapeXml(term)}">`).join('');
  return `<dt>${escapeXml(term)}</dt><dd>${asHtml(definition)}${shown}</dd>`;
}
