import {
  QUESTION_TYPES,
  Question,
  hasPartialCredit,
  limitsOf,
  mapParts,
  partsOf,
  questionOf,
  timesPoints,
} from './index.ts';

const text = (words: string) => ({ format: 'plain' as const, text: words });
const common = { id: 'q', title: 'Q', prompt: text('Which?'), points: 2, feedback: {}, files: [] };
const choice = { id: 'a', text: text('A'), correct: true };

describe('Questions', () => {
  it('have the parts of their type, and no others', () => {
    for (const type of QUESTION_TYPES) {
      const question = questionOf(type, common, {
        choices: [choice],
        answers: [{ text: 'oak', caseSensitive: false, match: 'equal' }],
        image: { file: 'plan.png' },
      });
      expect(Question.parse(question)).withContext(type).toEqual(question);
      expect('choices' in question)
        .withContext(type)
        .toBe(/choice|multiple|true|match|associate|order/.test(type));
      expect('answers' in question)
        .withContext(type)
        .toBe(/short|pattern/.test(type));
      expect(partsOf(question).image === null)
        .withContext(type)
        .toBe(type !== 'hotspot');
    }
  });

  it('are refused without a part that their type needs', () => {
    const asked: Record<string, unknown> = {
      ...common,
      type: 'matching',
      choices: [choice],
      targets: [],
      pairs: 'none',
    };
    expect(Question.safeParse(asked).success).toBeFalse();
    expect(Question.safeParse({ ...common, type: 'guessing' }).success).toBeFalse();
  });

  it('are read from courses that were kept when all had choices and answers, and other parts only if any', () => {
    const before = { ...common, choices: [], answers: [] };
    expect(Question.parse({ ...before, type: 'essay' })).toEqual({ ...common, type: 'essay' });
    expect(Question.parse({ ...before, type: 'hotspot' })).toEqual({
      ...common,
      type: 'hotspot',
      image: null,
      areas: [],
    });
    expect(Question.parse({ ...before, type: 'ordering', choices: [choice], order: ['a'] })).toEqual({
      ...common,
      type: 'ordering',
      choices: [choice],
      order: ['a'],
    });
  });

  it('are changed in those parts that they have', () => {
    const essay = questionOf('essay', common);
    expect(mapParts(essay, { choices: () => [choice] })).toEqual(essay);
    const one = questionOf('choice', common, { choices: [choice] });
    expect(mapParts(one, { choices: () => [], answers: () => [] })).toEqual(questionOf('choice', common));
  });

  it('keep only limits that some answer would go beyond', () => {
    expect(limitsOf([2, -1], false, { least: 0, most: 2 })).toEqual({ least: 0 });
    expect(limitsOf([2, 1], false, { least: 0, most: 2 })).toEqual({ most: 2 });
    expect(limitsOf([2, 1], true, { least: 0, most: 2, others: 0 })).toBeUndefined();
    expect(limitsOf([2, 1], true, { least: 0, others: -1 })).toEqual({ others: -1, least: 0 });
  });

  it('give every point so many times, also those of the blanks', () => {
    const answers = [{ text: 'oak', caseSensitive: false, match: 'equal' as const, score: 0.5 }];
    const cloze = questionOf('cloze', common, { blanks: [{ id: 'b', answers, choices: [] }] });
    expect(hasPartialCredit(cloze)).toBeTrue();
    const more = timesPoints(cloze, 4);
    expect([more.points, partsOf(more).blanks[0]?.answers[0]?.score]).toEqual([8, 2]);
    expect(timesPoints({ ...cloze, points: null }, 4).points).toBe(4);
  });
});
