import { conditionOfWords, count, plural, type Course, type Item, type Settings } from '../model/index.ts';
import { ruleSentences } from './sentences.ts';

const page = (id: string, title: string, settings: Settings = {}): Item => ({
  kind: 'page',
  id,
  title,
  definitionPath: null,
  file: `${id}.html`,
  settings,
});

function said(settings: Settings, kind: 'page' | 'automation' = 'page'): string[] {
  const item: Item =
    kind === 'page'
      ? page('x', 'X', settings)
      : { kind, id: 'x', title: 'X', definitionPath: null, settings, text: { format: 'plain', text: '' } };
  const course: Course = {
    title: 'T',
    origin: { format: 't', version: '1', untouched: true },
    metadata: { keywords: [] },
    outline: [],
    items: [item, page('q', 'Wk 2 quiz'), page('p', 'Tides')],
    files: [],
  };
  return ruleSentences(item, course);
}

describe('Words for more than one', () => {
  it('follow the rules of English', () => {
    const words = ['page', 'quiz', 'grade category', 'outside address', 'copy', 'day', 'match'];
    expect(words.map(plural)).toEqual([
      'pages',
      'quizzes',
      'grade categories',
      'outside addresses',
      'copies',
      'days',
      'matches',
    ]);
    expect([count(1, 'loss'), count(2, 'loss'), count(0, 'person', 'people')]).toEqual([
      '1 loss',
      '2 losses',
      '0 people',
    ]);
  });
});

describe('The rules of an item', () => {
  it('are sentences that name items by their titles', () => {
    expect(
      said({ visibleWhen: ['score of q at least 62.5 %', 'the tide is out', 'q, then p'].map(conditionOfWords) }),
    ).toEqual([
      'Visible after “Wk 2 quiz”, 62.5 % or more.',
      'Visible when the tide is out.',
      // What could not be read still speaks of items.
      'Visible when “Wk 2 quiz”, then “Tides”.',
    ]);
    expect(
      said({ visibleWhen: [conditionOfWords('score of q below 50 %')], onlyFor: 'Boats', doneWhen: 'handed in' }),
    ).toEqual([
      'Visible after “Wk 2 quiz”, less than 50 %.',
      'Only for the group “Boats”.',
      'Counts as done when something was handed in.',
    ]);
    expect(said({ points: 3 })).toEqual([]);
  });

  it('say of an automation whom it mails, and when', () => {
    const mails = (rule: string, audience = 'learner') =>
      said({ visibleWhen: [conditionOfWords(rule)], audience }, 'automation');
    expect(mails('score of q below 50 %')).toEqual(['Mails the learner when the score of “Wk 2 quiz” is below 50 %.']);
    expect(mails('p not opened for 14 days', 'tutor')).toEqual([
      'Mails the tutor when “Tides” was not opened for 14 days.',
    ]);
    expect(mails('absent 3 times')).toEqual(['Mails the learner when somebody was absent 3 times.']);
  });

  it('say prerequisites and sequencing in words', () => {
    expect(said({ prerequisites: 'q&p' })).toEqual(['Open once “Wk 2 quiz” is completed and “Tides” is completed.']);
    expect(said({ prerequisites: '~(q="p"|p)' })).toEqual([
      'Open once not (“Wk 2 quiz” is passed or “Tides” is completed).',
    ]);
    expect(
      said({
        sequencing: [
          'preConditionRule: skip if satisfied',
          'postConditionRule: exitAll if completed, attempted',
          'preConditionRule: disabled if always',
          'rollupRule: satisfied if satisfied',
          'something of its own',
        ],
      }),
    ).toEqual([
      'Skipped when it is satisfied.',
      'Everything is left afterwards when it is completed, was attempted.',
      'Can’t be opened.',
      'Satisfied when enough of what is in it is satisfied.',
      'something of its own.',
    ]);
  });
});
