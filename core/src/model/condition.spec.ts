import fc from 'fast-check';
import {
  Condition,
  conditionOfWords,
  conditionWords,
  itemsOfCondition,
  renamedCondition,
  writtenCondition,
} from './condition.ts';
import { momentOf } from './moment.ts';
import { Settings } from './settings/index.ts';

const id = fc.stringMatching(/^[a-z0-9_-]{1,8}$/);
const percent = fc.integer({ min: 0, max: 1000 }).map((n) => n / 10);
const written = fc.oneof(
  fc.record({ is: fc.constant('score' as const), item: id, side: fc.constantFrom('at least', 'below'), percent }),
  fc.record({ is: fc.constant('not visited' as const), item: id, days: fc.nat(400) }),
  fc.record({ is: fc.constant('absent' as const), times: fc.nat(40) }),
  fc.record({
    is: fc.constant('date' as const),
    side: fc.constantFrom('from', 'until'),
    at: fc.constantFrom('2026-10-01', '2026-10-01T09:00', '2026-10-01T08:00:00Z').map(momentOf),
  }),
  fc.record({
    is: fc.constant('unread' as const),
    words: fc.constantFrom('the tide is out', 'score of q about 60 %', ''),
  }),
) as fc.Arbitrary<Condition>;
const { any } = fc.letrec<{ any: Condition; group: Condition }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 3 },
    written,
    fc.record({ is: fc.constantFrom('done' as const, 'visited' as const), item: id }) as fc.Arbitrary<Condition>,
    fc.record({
      is: fc.constant('date' as const),
      side: fc.constantFrom('from', 'until'),
      at: fc.constantFrom('2026-10-01', '2026-10-01T09:00', '2026-10-01T08:00:00Z').map(momentOf),
    }) as fc.Arbitrary<Condition>,
    fc.record({ is: fc.constant('member' as const), group: id }) as fc.Arbitrary<Condition>,
    tie('group'),
  ),
  group: fc.record({
    is: fc.constantFrom('all of' as const, 'any of' as const, 'none of' as const),
    conditions: fc.array(tie('any'), { maxLength: 3 }),
  }),
}));

describe('A condition', () => {
  it('that is written down in words is read from them again, parts of a per cent too', () => {
    fc.assert(fc.property(written, (one) => expect(conditionOfWords(writtenCondition(one))).toEqual(one)));
    expect(conditionOfWords('score of q at least 62.5 %')).toEqual({
      is: 'score',
      item: 'q',
      side: 'at least',
      percent: 62.5,
    });
    expect(conditionOfWords('score of q at least sixty')).toEqual({ is: 'unread', words: 'score of q at least sixty' });
  });

  it('is data that comes through JSON, and says every item that it speaks of', () => {
    fc.assert(
      fc.property(any, (one) => {
        expect(Condition.parse(JSON.parse(JSON.stringify(one)))).toEqual(one);
        const items = itemsOfCondition(one);
        expect(new Set(items).size).toBe(items.length);
        const named = renamedCondition(one, (item) => `<${item}>`);
        expect(itemsOfCondition(named)).toEqual(items.map((item) => `<${item}>`));
        const words = conditionWords(one, (item) => `<${item}>`);
        for (const item of items) expect(words).toContain(`<${item}>`);
        expect(conditionWords(named)).toBe(words);
      }),
    );
  });

  it('reads as a sentence goes on', () => {
    const score: Condition = { is: 'score', item: 'q', side: 'below', percent: 50 };
    const words = (one: Condition) => conditionWords(one, () => '“The quiz”');
    expect(words(score)).toBe('the score of “The quiz” is below 50 %');
    expect(words({ is: 'not visited', item: 'p', days: 1 })).toBe('“The quiz” was not opened for 1 day');
    expect(
      words({
        is: 'all of',
        conditions: [
          score,
          {
            is: 'any of',
            conditions: [
              { is: 'done', item: 'p' },
              { is: 'member', group: 'Boats' },
            ],
          },
        ],
      }),
    ).toBe('the score of “The quiz” is below 50 % and (“The quiz” is done or somebody is in the group “Boats”)');
    expect(words({ is: 'date', side: 'from', at: momentOf('2026-09-14') })).toBe('it is after Mon 14 Sep 2026');
  });

  it('that was kept in words before is data once its settings are read', () => {
    const data = [{ is: 'score', item: 'q', side: 'at least', percent: 60 }];
    expect(Settings.parse({ visibleWhen: ['score of q at least 60 %'], points: 3 })).toEqual({
      visibleWhen: data,
      points: 3,
    } as Settings);
    expect(Settings.parse({ visibleWhen: 'the tide is out' })).toEqual({
      visibleWhen: [{ is: 'unread', words: 'the tide is out' }],
    });
    expect(Settings.parse({ visibleWhen: data })).toEqual({ visibleWhen: data } as Settings);
    expect(Settings.safeParse({ visibleWhen: [{ is: 'score' }] }).success).toBeFalse();
    expect(Settings.safeParse({ nothing: 1 }).success).toBeFalse();
    expect(Settings.safeParse({ points: [{ is: 'done', item: 'q' }] }).success).toBeFalse();
  });
});
