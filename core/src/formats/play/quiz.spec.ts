import type { Question, SimpleQuestion } from '../../model/index.ts';
import { common, text } from '../../testing/made.ts';
import { renderQuiz } from './quiz.ts';

describe('A quiz that is played', () => {
  const part = (id: string, points: number | null): SimpleQuestion => ({
    id,
    title: '',
    type: 'short answer',
    prompt: text(`Ask ${id}`),
    points,
    answers: [{ text: id, caseSensitive: false, match: 'equal' }],
    feedback: {},
    files: [],
  });
  const question = (points: number, ...subquestions: SimpleQuestion[]): Question => ({
    id: 'q',
    title: 'Q',
    type: 'several parts',
    prompt: text('A scarf joint'),
    points,
    subquestions,
    feedback: {},
    files: [],
  });
  const played = (q: Question) =>
    renderQuiz({ ...common('z'), kind: 'quiz', questions: [q, { ...part('last', 1), title: 'Last' }] });

  it('judges each part of a question by its own points, under the words of the whole', () => {
    const { html, key } = played(question(5, part('a', 2), part('b', 3)));
    expect(key.map((k) => [k.points, k.parts.map((p) => p.name)])).toEqual([
      [2, ['q0']],
      [3, ['q1']],
      [1, ['q2']],
    ]);
    expect([...html.matchAll(/<legend>([^<]*)</g)].map((m) => m[1])).toEqual(['1.1', '1.2', '2']);
    expect(html.indexOf('A scarf joint')).toBeLessThan(html.indexOf('Ask a'));
  });

  it('gives each its share where the points are given together', () => {
    expect(played(question(5, part('a', null), part('b', null))).key.map((k) => k.points)).toEqual([2.5, 2.5, 1]);
  });
});
