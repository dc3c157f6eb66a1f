import { drawsOf, type Course, type Item, type Question } from '../model/index.ts';
import { questionNotes } from './questions.ts';

const question: Question = {
  id: 'q',
  type: 'essay',
  title: 'Q',
  prompt: { format: 'plain', text: 'Why?' },
  points: 1,
  feedback: {},
  files: [],
};
const quiz = (id: string, questions: Question[], draws?: Record<string, string>): Item => ({
  kind: 'quiz',
  id,
  title: `Quiz ${id}`,
  definitionPath: null,
  settings: draws ? { draws } : {},
  questions,
});
const bank = (id: string, questions: Question[]): Item => ({
  kind: 'bank',
  id,
  title: `Bank ${id}`,
  definitionPath: null,
  settings: {},
  questions,
});
const codes = (...items: Item[]) => {
  const course: Course = {
    title: 'C',
    origin: { format: 'cc', version: '1.3', untouched: true },
    metadata: { keywords: [] },
    outline: [],
    items,
    files: [],
  };
  return questionNotes(course).map((n) => `${n.code} ${n.item}`);
};

describe('Where questions stand', () => {
  it('is in order where quizzes have their own or draw enough', () => {
    expect(codes(quiz('a', [question]), quiz('b', [question], { x: '1' }), bank('x', [question]))).toEqual([]);
  });

  it('is named where a quiz is empty, or all of it drawn', () => {
    expect(codes(quiz('a', []), quiz('b', [], { x: 'all' }), bank('x', [question]))).toEqual([
      'quiz-empty Quiz a',
      'quiz-from-bank Quiz b',
    ]);
  });

  it('is named where a bank is not asked, not there or too small', () => {
    expect(
      codes(quiz('a', [question], { gone: '1' }), quiz('b', [question], { x: '5' }), bank('x', []), bank('y', [])),
    ).toEqual(['bank-missing Quiz a', 'bank-too-small Quiz b', 'bank-unused Bank y']);
  });

  it('is told in numbers, all of a bank as none', () => {
    const drawn = quiz('a', [], { x: '3', y: 'all' });
    expect(drawn.kind === 'quiz' && drawsOf(drawn)).toEqual([
      { bank: 'x', number: 3 },
      { bank: 'y', number: null },
    ]);
  });
});
