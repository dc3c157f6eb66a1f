import { escapeXml, xml } from '../../markup/index.ts';
import type { RichText } from '../../model/index.ts';

/** A text as QTI 1.2.1 has it; the reverse of `material.ts`. */
export function material(text: RichText): string {
  const type = text.format === 'html' ? 'text/html' : 'text/plain';
  return xml('material', {}, xml('mattext', { texttype: type }, escapeXml(text.text)));
}
