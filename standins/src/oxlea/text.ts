import { escapeHtml } from '../shared/http.ts';

/** The little of CommonMark that Oxlea's own editor writes: headings, paragraphs, emphasis. */
export function asHtml(text: string): string {
  return text
    .split(/\n{2,}/)
    .map((block) => {
      const inside = escapeHtml(block.replace(/^#\s+/, '')).replace(/\*([^*]+)\*/g, '<em>$1</em>');
      return block.startsWith('# ') ? `<h1>${inside}</h1>` : `<p>${inside}</p>`;
    })
    .join('\n');
}
