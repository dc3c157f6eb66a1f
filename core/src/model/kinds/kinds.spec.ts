import { ITEM_KINDS, Item, KIND_LABELS, SUBJECT_KINDS, kindOf, textsOf } from '../index.ts';

const text = { format: 'plain', text: 'Words' };
const common = { id: 'x', title: 'X', settings: {}, text };
const item = (kind: string, more: object) => ({ ...common, definitionPath: null, kind, ...more });
/** As it was kept before. */
const before = (kind: string, more: object) => ({ ...common, place: null, print: 'p', kind, ...more });

describe('Kinds of items', () => {
  it('have each a label, in one list with the places of the outline', () => {
    expect(SUBJECT_KINDS).toEqual(['course', 'folder', 'heading', 'occurrence', ...ITEM_KINDS]);
    expect(ITEM_KINDS.map((kind) => kindOf({ kind }).kind)).toEqual(ITEM_KINDS);
    expect(KIND_LABELS.tool).toBe('external tool');
  });

  it('are read from courses that were kept when some of them were lines of a table', () => {
    const read = (kind: string, rows: string[][]) => Item.parse(before(kind, { rows })) as object;
    expect(read('checklist', [['one'], ['two']])).toEqual(
      item('checklist', { steps: ['one', 'two'], fingerprint: 'p' }),
    );
    expect(read('attendance', [['L', 'Late', '50']])).toEqual(
      item('attendance', { fingerprint: 'p', marks: [{ code: 'L', label: 'Late', percent: 50 }] }),
    );
    const cells = [
      ['Care', 'Good', '5', 'Neat'],
      ['Speed', 'Good', '3', 'Quick'],
      ['Care', 'Poor', '1', 'Rough'],
    ];
    const care = [
      { title: 'Good', points: 5, text: 'Neat' },
      { title: 'Poor', points: 1, text: 'Rough' },
    ];
    expect(read('rubric', cells)).toEqual(
      item('rubric', {
        fingerprint: 'p',
        criteria: [
          { title: 'Care', levels: care },
          { title: 'Speed', levels: [{ title: 'Good', points: 3, text: 'Quick' }] },
        ],
      }),
    );
    expect(read('groups', [['North']])).toEqual(item('groups', { names: ['North'], fingerprint: 'p' }));
    expect(read('column', [])).toEqual(item('column', { fingerprint: 'p' }));
    expect(Item.safeParse(before('checklist', { rows: 'none' })).success).toBe(false);
  });

  it('name every text that may bear mark-up', () => {
    const definition = { format: 'html', text: '<p>A rope</p>' };
    const entries = [{ term: 'Sheet', definition, pictures: ['p/sheet.png'] }];
    const glossary = Item.parse(item('glossary', { entries }));
    expect(textsOf(glossary).map((t) => t.part)).toEqual(['text', 'entry Sheet']);
    expect([kindOf(glossary).files(glossary), kindOf(glossary).shows(glossary)]).toEqual([
      ['p/sheet.png'],
      ['p/sheet.png'],
    ]);
    expect(kindOf(glossary).fingerprint(glossary, (t) => t.text)).toBe('Words\nSheet\t<p>A rope</p>');
  });

  it('are shown to authors, and where learners may read them as a page too', () => {
    const pages = ITEM_KINDS.filter((kind) => kindOf({ kind }).asPage !== null);
    expect(pages).toEqual(['link', 'tool', 'assignment', 'discussion', 'quiz', 'glossary']);
  });
});
