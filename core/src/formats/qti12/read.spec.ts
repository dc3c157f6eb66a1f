import { parseXml, plainText, taken, untakenIn } from '../../markup/index.ts';
import { partsOf } from '../../model/index.ts';
import { withParts } from '../../testing/made.ts';
import { withMaterial } from './material-refs.ts';
import { readQuestions } from './read.ts';

/** Items of QTI 1.2.1 beyond the cartridge profile, as other programs write them. */
function read(presentation: string, processing: string, meta = '') {
  const text = `<questestinterop><item ident="q" title="T">${meta}<presentation><flow>${presentation}</flow></presentation><resprocessing>${processing}</resprocessing></item></questestinterop>`;
  const [question] = readQuestions(parseXml(text, 'q.xml'), 'q.xml', (reference) => `qti/${reference}`);
  if (!question) throw new Error('no question');
  return withParts(question);
}
const say = (words: string) => `<material><mattext>${words}</mattext></material>`;
const label = (id: string, more = '') => `<response_label ident="${id}"${more}>${say(`label ${id}`)}</response_label>`;
const top = (n: number) =>
  `<outcomes><decvar varname="SCORE" vartype="Integer" minvalue="0" maxvalue="${n}"/></outcomes>`;
const when = (test: string, score: number, action = 'Set') =>
  `<respcondition><conditionvar>${test}</conditionvar><setvar varname="SCORE" action="${action}">${score}</setvar></respcondition>`;
const equal = (id: string, respident = 'R', more = '') => `<varequal respident="${respident}"${more}>${id}</varequal>`;

describe('Reading items of QTI 1.2 beyond the cartridge profile', () => {
  it('takes points for each choice from conditions that add', () => {
    const q = read(
      `${say('Which?')}<response_lid ident="R" rcardinality="Multiple"><render_choice>${label('A')}${label('B')}${label('C')}</render_choice></response_lid>`,
      top(5) + when(equal('A'), 2, 'Add') + when(equal('B'), 3, 'Add') + when(equal('C'), -1, 'Add'),
    );
    expect([q.type, q.points]).toEqual(['multiple response', 5]);
    expect(q.choices.map((c) => [c.id, c.correct, c.score])).toEqual([
      ['A', true, 2],
      ['B', true, 3],
      ['C', false, -1],
    ]);
  });

  it('reads an order', () => {
    const q = read(
      `${say('In which order?')}<response_lid ident="R" rcardinality="Ordered"><render_choice>${label('A')}${label('B')}${label('C')}</render_choice></response_lid>`,
      top(1) + when(equal('C', 'R', ' index="1"') + equal('A', 'R', ' index="2"') + equal('B', 'R', ' index="3"'), 1),
    );
    expect([q.type, q.order]).toEqual(['ordering', ['C', 'A', 'B']]);
  });

  it('reads what is matched, by a list for each source and by groups', () => {
    const lists = read(
      ['S1', 'S2']
        .map(
          (s) =>
            `<response_lid ident="${s}" rcardinality="Single">${say(`source ${s}`)}<render_choice>${label('T1')}${label('T2')}</render_choice></response_lid>`,
        )
        .join(''),
      top(2) + when(equal('T2', 'S1'), 1, 'Add') + when(equal('T1', 'S2'), 1, 'Add'),
    );
    expect([lists.type, lists.choices.map((c) => plainText(c.text.text)), lists.targets?.map((t) => t.id)]).toEqual([
      'matching',
      ['source S1', 'source S2'],
      ['T1', 'T2'],
    ]);
    expect(lists.pairs).toEqual([
      { choice: 'S1', target: 'T2', score: 1 },
      { choice: 'S2', target: 'T1', score: 1 },
    ]);
    const groups = read(
      `${say('Match')}<response_grp ident="R" rcardinality="Multiple"><render_extension>${label('S1', ' match_group="T1,T2" match_max="1"')}${label('T1')}${label('T2')}</render_extension></response_grp>`,
      top(1) + when('<varsubset respident="R">S1,T2</varsubset>', 1),
    );
    expect([groups.type, groups.pairs]).toEqual(['matching', [{ choice: 'S1', target: 'T2' }]]);
  });

  it('reads numbers, exact and in a range', () => {
    const response = `${say('How many?')}<response_num ident="R" rcardinality="Single"><render_fib fibtype="Decimal"/></response_num>`;
    expect(read(response, top(1) + when(equal('7'), 1)).numbers).toEqual([{ value: 7, low: 7, high: 7 }]);
    const range = '<and><vargte respident="R">6.5</vargte><varlte respident="R">7.5</varlte></and>';
    expect(read(response, top(1) + when(range, 1)).numbers).toEqual([{ value: 7, low: 6.5, high: 7.5 }]);
  });

  it('reads open ends of a range, what is said to one answer, and where the words of the question stand', () => {
    const number = `${say('How many?')}<response_num ident="R" rcardinality="Single"><render_fib fibtype="Decimal"/></response_num>`;
    const open = '<and><vargt respident="R">6</vargt><varlte respident="R">8</varlte></and>';
    expect(read(number, top(1) + when(open, 1)).numbers).toEqual([{ value: 7, low: 6, high: 8, open: 'low' }]);
    const text = `${say('What wood?')}<response_str ident="R" rcardinality="Single"><render_fib fibtype="String"/></response_str>`;
    const told = `<respcondition continue="Yes"><conditionvar>${equal('oak')}</conditionvar><displayfeedback feedbacktype="Response" linkrefid="f"/></respcondition>`;
    const reply = `<itemfeedback ident="f"><flow_mat>${say('Hard to split')}</flow_mat></itemfeedback>`;
    const q = read(
      text,
      `${top(1)}${told}${when(equal('oak'), 1)}${when(equal('elm'), 1)}</resprocessing>${reply}<resprocessing>`,
    );
    expect(q.answers.map((a) => [a.text, a.feedback?.text])).toEqual([
      ['oak', 'Hard to split'],
      ['elm', undefined],
    ]);
    expect(q.xml?.path).toBe('q.xml');
    expect(q.xml?.start).toBe('<questestinterop>'.length);
  });

  it('takes the least that points come to where an answer would come below it, and that choices are shuffled', () => {
    const choices = `${say('Which?')}<response_lid ident="R" rcardinality="Multiple"><render_choice shuffle="Yes">${label('A')}${label('B')}</render_choice></response_lid>`;
    const taken = read(choices, top(2) + when(equal('A'), 2, 'Add') + when(equal('B'), -1, 'Add'));
    expect([taken.scoring, taken.shuffled]).toEqual([{ least: 0 }, true]);
    const weighted =
      '<itemmetadata><qtimetadata><qtimetadatafield><fieldlabel>cc_weighting</fieldlabel><fieldentry>20</fieldentry></qtimetadatafield></qtimetadata></itemmetadata>';
    const below = top(2).replace('minvalue="0"', 'minvalue="-0.5"');
    const twenty = read(choices, below + when(equal('A'), 2, 'Add') + when(equal('B'), -1, 'Add'), weighted);
    expect([twenty.points, twenty.choices.map((c) => c.score), twenty.scoring]).toEqual([20, [20, -10], { least: -5 }]);
    const never = read(choices, top(3) + when(equal('A'), 2, 'Add') + when(equal('B'), 1, 'Add'));
    expect(never.scoring).toBeUndefined();
  });

  it('reads a text with several gaps', () => {
    const gap = (id: string) =>
      `<response_str ident="${id}" rcardinality="Single"><render_fib fibtype="String"/></response_str>`;
    const q = read(
      `${say('A ')}${gap('G1')}${say(' joins two ')}${gap('G2')}${say('.')}`,
      top(2) +
        when(equal('treenail', 'G1', ' case="No"'), 1, 'Add') +
        when(equal('timbers', 'G2', ' case="Yes"'), 1, 'Add'),
    );
    expect([q.type, q.prompt.text]).toEqual(['cloze', 'A \u27e6G1\u27e7 joins two \u27e6G2\u27e7.']);
    expect(q.blanks?.map((b) => b.answers)).toEqual([
      [{ text: 'treenail', caseSensitive: false, match: 'equal', score: 1 }],
      [{ text: 'timbers', caseSensitive: true, match: 'equal', score: 1 }],
    ]);
  });

  it('reads places on a picture', () => {
    const q = read(
      `${say('Where?')}<response_xy ident="R" rcardinality="Single"><render_hotspot><material><matimage imagtype="image/png" uri="map.png" width="300" height="200"/></material><response_label ident="A" rarea="Rectangle">10,20,30,40</response_label><response_label ident="B" rarea="Ellipse">50,60,7,9</response_label></render_hotspot></response_xy>`,
      top(4) + when(equal('B'), 4),
    );
    expect([q.type, q.image, q.points]).toEqual(['hotspot', { file: 'qti/map.png', width: 300, height: 200 }, 4]);
    expect(q.areas?.map((a) => [a.id, a.shape, a.coords, a.correct])).toEqual([
      ['A', 'rect', [10, 20, 30, 40], false],
      ['B', 'ellipse', [50, 60, 7, 9], true],
    ]);
  });

  it('takes a hundred that nothing declares for per cent, not for points', () => {
    const q = read(
      `${say('?')}<response_lid ident="R" rcardinality="Single"><render_choice>${label('A')}${label('B')}</render_choice></response_lid>`,
      when(equal('A'), 100),
    );
    expect([q.type, q.points, q.choices.map((c) => c.correct)]).toEqual(['choice', null, [true, false]]);
  });
});

describe('Material that QTI 1.2 refers to', () => {
  it('stands where it is referred to, and is told where it leads nowhere', () => {
    const text = `<questestinterop><item ident="q" title="T"><presentation><material_ref linkrefid="M"/><response_lid ident="R" rcardinality="Single"><render_choice><response_label ident="A"><material><matref linkrefid="W"/></material></response_label><response_label ident="B"><material_ref linkrefid="gone"/></response_label></render_choice></response_lid></presentation><resprocessing>${when(equal('A'), 1)}</resprocessing></item><item ident="p"><presentation><material ident="M"><mattext>Which way</mattext> <mattext label="W">north</mattext></material></presentation></item></questestinterop>`;
    const root = taken(parseXml(text, 'q.xml'));
    const [q] = readQuestions(withMaterial(root), 'q.xml', (reference) => reference);
    expect([q?.prompt.text, q && partsOf(q).choices.map((c) => c.text.text)]).toEqual([
      'Which waynorth',
      ['north', ''],
    ]);
    expect([...untakenIn(root)].map((one) => one.name)).toEqual(['material_ref']);
  });
});
