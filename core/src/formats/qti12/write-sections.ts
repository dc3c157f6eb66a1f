import { drawsOf, type ItemOf, type Question, type Section } from '../../model/index.ts';
import { escapeXml, xml } from '../../markup/index.ts';
import { Uses } from '../uses.ts';
import { material } from './material-xml.ts';

/** How the questions of a quiz stand in it: by sections, and those that are drawn. */

/** All questions in one section, or in those that the quiz has; what stands in none of them follows. */
export function sectioned(quiz: ItemOf<'quiz'>, write: (question: Question) => readonly string[]): string[] {
  const left = new Uses(quiz.questions);
  const section = ({ id, title, text, shuffled, parts }: Section): string =>
    xml(
      'section',
      { ident: id, title: title === '' ? undefined : title },
      text === undefined ? '' : xml('rubric', {}, material({ format: 'html', text })),
      shuffled ? xml('selection_ordering', {}, xml('order', { order_type: 'Random' })) : '',
      ...parts.flatMap((part) => {
        if (typeof part !== 'string') return [section(part)];
        const question = left.take(part);
        return question ? write(question) : [];
      }),
    );
  const sections = (quiz.settings.sections ?? []).map(section);
  const rest = left.rest().flatMap(write);
  if (rest.length === 0 && sections.length > 0) return sections;
  return [...sections, xml('section', { ident: 'root_section' }, ...rest)];
}

/** Questions drawn from banks: one section a bank (QTI 1.2.1 ASI Selection and Ordering 3). */
export function drawing(quiz: ItemOf<'quiz'>): string[] {
  return drawsOf(quiz).map(({ bank, number }, i) =>
    xml(
      'section',
      { ident: `draw_${i + 1}` },
      xml(
        'selection_ordering',
        {},
        xml(
          'selection',
          {},
          xml('sourcebank_ref', {}, escapeXml(bank)),
          number === null ? '' : xml('selection_number', {}, String(number)),
        ),
      ),
    ),
  );
}
