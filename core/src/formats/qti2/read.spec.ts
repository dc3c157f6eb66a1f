import { parseXml, plainText } from '../../markup/index.ts';
import { withParts } from '../../testing/made.ts';
import { readItem } from './item.ts';

/** Items as other programs write them, by the standard's own examples of each interaction and rule. */
function read(inside: string) {
  const text = `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="q" title="T" adaptive="false" timeDependent="false">${inside}</assessmentItem>`;
  return withParts(readItem(parseXml(text, 'q.xml'), 'q.xml', (reference) => `items/${reference}`));
}
const template = (name: string) =>
  `<responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/${name}"/>`;
const outcome = (max?: number) =>
  `<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"${max === undefined ? '' : ` normalMaximum="${max}"`}/>`;

describe('Reading items of QTI 2', () => {
  it('takes partial credit from a mapping', () => {
    const q = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="identifier"><correctResponse><value>H</value><value>O</value></correctResponse><mapping lowerBound="0" upperBound="2" defaultValue="-2"><mapEntry mapKey="H" mappedValue="1"/><mapEntry mapKey="O" mappedValue="1"/><mapEntry mapKey="Cl" mappedValue="-1"/></mapping></responseDeclaration>${outcome()}
      <itemBody><choiceInteraction responseIdentifier="RESPONSE" shuffle="true" maxChoices="0"><prompt>Which are in water?</prompt><simpleChoice identifier="H">Hydrogen</simpleChoice><simpleChoice identifier="Cl">Chlorine</simpleChoice><simpleChoice identifier="O">Oxygen</simpleChoice></choiceInteraction></itemBody>${template('map_response')}`,
    );
    expect([q.type, q.points]).toEqual(['multiple response', 2]);
    expect(q.choices.map((c) => [c.id, c.correct, c.score])).toEqual([
      ['H', true, 1],
      ['Cl', false, -1],
      ['O', true, 1],
    ]);
  });

  describe('that ask several things', () => {
    const declared = (id: string, baseType: string, value: string) =>
      `<responseDeclaration identifier="${id}" cardinality="single" baseType="${baseType}"><correctResponse><value>${value}</value></correctResponse></responseDeclaration>`;
    const match = (id: string) => `<match><variable identifier="${id}"/><correct identifier="${id}"/></match>`;
    const number =
      '<equal toleranceMode="absolute" tolerance="1"><variable identifier="LENGTH"/><correct identifier="LENGTH"/></equal>';
    const add = (test: string, points: number) =>
      `<responseCondition><responseIf>${test}<setOutcomeValue identifier="SCORE"><sum><variable identifier="SCORE"/><baseValue baseType="float">${points}</baseValue></sum></setOutcomeValue></responseIf></responseCondition>`;
    const body =
      '<p>A scarf joint.</p><choiceInteraction responseIdentifier="WOOD" maxChoices="1"><prompt>Of which wood?</prompt><simpleChoice identifier="A">Ash</simpleChoice><simpleChoice identifier="B">Oak</simpleChoice></choiceInteraction><p>How long? <textEntryInteraction responseIdentifier="LENGTH"/> cm</p><extendedTextInteraction responseIdentifier="WHY"><prompt>Why?</prompt></extendedTextInteraction>';
    const item = (rules: string) =>
      read(
        `${declared('WOOD', 'identifier', 'B')}${declared('LENGTH', 'float', '40')}<responseDeclaration identifier="WHY" cardinality="single" baseType="string"/>${outcome()}<itemBody>${body}</itemBody><responseProcessing>${rules}</responseProcessing>`,
      );

    it('keeps each with its type, its words and its points', () => {
      const q = item(add(match('WOOD'), 2) + add(number, 3));
      expect([q.type, q.points]).toEqual(['several parts', 5]);
      expect(q.prompt.text).toBe(
        '<p>A scarf joint.</p>\u27e6WOOD\u27e7<p>How long? \u27e6LENGTH\u27e7 cm</p>\u27e6WHY\u27e7',
      );
      expect(q.subquestions?.map((p) => [p.id, p.type, p.prompt.text, p.points])).toEqual([
        ['WOOD', 'choice', 'Of which wood?', 2],
        ['LENGTH', 'numeric', '', 3],
        ['WHY', 'essay', 'Why?', null],
      ]);
      const [wood, length] = q.subquestions ?? [];
      expect(wood?.type === 'choice' && wood.choices.map((c) => [c.correct, c.score])).toEqual([
        [false, undefined],
        [true, undefined],
      ]);
      expect(length?.type === 'numeric' && length.numbers).toEqual([
        { value: 40, low: 39, high: 41, tolerance: 'absolute' },
      ]);
    });

    it('says where points are given only for all of them together', () => {
      const whole = `<responseCondition><responseIf><and>${match('WOOD')}${number}</and><setOutcomeValue identifier="SCORE"><baseValue baseType="float">4</baseValue></setOutcomeValue></responseIf></responseCondition>`;
      const q = item(whole);
      expect([q.points, q.subquestions?.map((p) => p.points)]).toEqual([4, [null, null, null]]);
    });

    it('leaves what it can not read of one of them to the whole', () => {
      const odd = read(
        `${declared('WOOD', 'identifier', 'B')}${outcome()}<itemBody>${body.replace('extendedTextInteraction', 'customInteraction').replace('</extendedText', '</custom')}</itemBody>`,
      );
      expect(odd.type).toBe('foreign');
    });
  });

  it('reads gaps to choose for and to fill in one text', () => {
    const q = read(
      `<responseDeclaration identifier="A" cardinality="single" baseType="identifier"><correctResponse><value>Y</value></correctResponse></responseDeclaration>
      <responseDeclaration identifier="B" cardinality="single" baseType="string"><correctResponse><value>tide</value></correctResponse><mapping><mapEntry mapKey="tide" mappedValue="1" caseSensitive="false"/></mapping></responseDeclaration>${outcome(2)}
      <itemBody><p>Now is the <inlineChoiceInteraction responseIdentifier="A" shuffle="false"><inlineChoice identifier="X">winter</inlineChoice><inlineChoice identifier="Y">spring</inlineChoice></inlineChoiceInteraction> of the <textEntryInteraction responseIdentifier="B"/>.</p></itemBody>${template('map_response')}`,
    );
    expect([q.type, q.points]).toEqual(['cloze', 2]);
    expect(q.prompt.text).toBe('<p>Now is the \u27e6A\u27e7 of the \u27e6B\u27e7.</p>');
    expect(q.blanks?.map((b) => [b.id, b.choices.map((c) => c.correct), b.answers.map((a) => a.text)])).toEqual([
      ['A', [false, true], []],
      ['B', [], ['tide']],
    ]);
  });

  it('reads numbers with a tolerance, absolute, relative or as a range', () => {
    const numeric = (test: string) =>
      read(
        `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="float"><correctResponse><value>50</value></correctResponse></responseDeclaration>${outcome(3)}
        <itemBody><p>How long? <textEntryInteraction responseIdentifier="RESPONSE"/></p></itemBody>
        <responseProcessing><responseCondition><responseIf>${test}<setOutcomeValue identifier="SCORE"><baseValue baseType="float">3</baseValue></setOutcomeValue></responseIf></responseCondition></responseProcessing>`,
      );
    const equal = (mode: string, tolerance: string) =>
      `<equal toleranceMode="${mode}" tolerance="${tolerance}"><variable identifier="RESPONSE"/><correct identifier="RESPONSE"/></equal>`;
    const range = `<and><gte><variable identifier="RESPONSE"/><baseValue baseType="float">48</baseValue></gte><lte><variable identifier="RESPONSE"/><baseValue baseType="float">51.5</baseValue></lte></and>`;
    for (const [test, ends] of [
      [equal('absolute', '2'), { low: 48, high: 52, tolerance: 'absolute' }],
      // The bounds lie around the first of the two, which is the answer here.
      [equal('absolute', '1 3'), { low: 47, high: 51, tolerance: 'absolute' }],
      [equal('relative', '25'), { low: 40, high: 50 / 0.75, tolerance: 'relative' }],
      [range, { low: 48, high: 51.5 }],
    ] as const) {
      const q = numeric(test);
      expect([q.type, q.points, q.numbers]).toEqual(['numeric', 3, [{ value: 50, ...ends }]]);
    }
  });

  it('reads order, pairs, gaps for words, and places on a picture', () => {
    const order = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="ordered" baseType="identifier"><correctResponse><value>C</value><value>A</value><value>B</value></correctResponse></responseDeclaration><itemBody><orderInteraction responseIdentifier="RESPONSE" shuffle="true"><simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b</simpleChoice><simpleChoice identifier="C">c</simpleChoice></orderInteraction></itemBody>${template('match_correct')}`,
    );
    expect([order.type, order.order, order.points]).toEqual(['ordering', ['C', 'A', 'B'], 1]);
    const match = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="directedPair"><correctResponse><value>L rope</value><value>P wood</value></correctResponse></responseDeclaration><itemBody><matchInteraction responseIdentifier="RESPONSE" shuffle="false" maxAssociations="2"><simpleMatchSet><simpleAssociableChoice identifier="L" matchMax="1">Lay</simpleAssociableChoice><simpleAssociableChoice identifier="P" matchMax="1">Plane</simpleAssociableChoice></simpleMatchSet><simpleMatchSet><simpleAssociableChoice identifier="wood" matchMax="2">Wood</simpleAssociableChoice><simpleAssociableChoice identifier="rope" matchMax="2">Rope</simpleAssociableChoice></simpleMatchSet></matchInteraction></itemBody>${template('match_correct')}`,
    );
    expect([match.type, match.targets?.map((t) => t.id), match.pairs]).toEqual([
      'matching',
      ['wood', 'rope'],
      [
        { choice: 'L', target: 'rope' },
        { choice: 'P', target: 'wood' },
      ],
    ]);
    const gaps = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="directedPair"><correctResponse><value>W G1</value></correctResponse></responseDeclaration><itemBody><gapMatchInteraction responseIdentifier="RESPONSE" shuffle="false"><gapText identifier="W" matchMax="1">oakum</gapText><gapText identifier="S" matchMax="1">tar</gapText><blockquote><p>Drive <gap identifier="G1"/> into the seam.</p></blockquote></gapMatchInteraction></itemBody>${template('match_correct')}`,
    );
    expect([gaps.type, gaps.blanks?.map((b) => b.id), gaps.pairs]).toEqual([
      'gap match',
      ['G1'],
      [{ choice: 'W', target: 'G1' }],
    ]);
    expect(plainText(gaps.prompt.text)).toBe('Drive \u27e6G1\u27e7 into the seam.');
    const spot = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"><correctResponse><value>A</value></correctResponse></responseDeclaration><itemBody><hotspotInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Where?</prompt><object type="image/png" width="206" height="280" data="uk.png"/><hotspotChoice shape="circle" coords="77,115,8" identifier="A"/><hotspotChoice shape="rect" coords="1,2,3,4" identifier="B"/></hotspotInteraction></itemBody>${template('match_correct')}`,
    );
    expect([spot.type, spot.image, spot.areas?.map((a) => [a.shape, a.coords, a.correct])]).toEqual([
      'hotspot',
      { file: 'items/uk.png', width: 206, height: 280 },
      [
        ['circle', [77, 115, 8], true],
        ['rect', [1, 2, 3, 4], false],
      ],
    ]);
  });

  it('keeps the kind of a tolerance and which of its ends are open', () => {
    const of = (attributes: string) =>
      read(
        `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="float"><correctResponse><value>50</value></correctResponse></responseDeclaration>${outcome(3)}
        <itemBody><p>?</p><textEntryInteraction responseIdentifier="RESPONSE"/></itemBody>
        <responseProcessing><responseCondition><responseIf><equal ${attributes}><correct identifier="RESPONSE"/><variable identifier="RESPONSE"/></equal><setOutcomeValue identifier="SCORE"><baseValue baseType="float">3</baseValue></setOutcomeValue></responseIf></responseCondition></responseProcessing>`,
      ).numbers;
    const half = 'toleranceMode="relative" tolerance="10" includeLowerBound="false"';
    expect(of(half)).toEqual([{ value: 50, low: 45, high: 55, open: 'low', tolerance: 'relative' }]);
    expect(of('toleranceMode="exact"')).toEqual([{ value: 50, low: 50, high: 50 }]);
  });

  it('takes what a mapping gives to all else and where its sum ends, and that choices are shuffled', () => {
    const q = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="identifier"><correctResponse><value>H</value></correctResponse><mapping lowerBound="0" upperBound="1" defaultValue="-2"><mapEntry mapKey="H" mappedValue="1"/><mapEntry mapKey="O" mappedValue="1"/></mapping></responseDeclaration>${outcome()}
      <itemBody><choiceInteraction responseIdentifier="RESPONSE" shuffle="true" maxChoices="0"><prompt>?</prompt><simpleChoice identifier="H">H</simpleChoice><simpleChoice identifier="O">O</simpleChoice><simpleChoice identifier="N">N</simpleChoice></choiceInteraction></itemBody>${template('map_response')}`,
    );
    expect([q.scoring, q.shuffled]).toEqual([{ others: -2, least: 0, most: 1 }, true]);
    expect(q.xml?.path).toBe('q.xml');
  });

  it('takes the picture that places lie on, and not one that stands in the prompt', () => {
    const q = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"><correctResponse><value>A</value></correctResponse></responseDeclaration>
      <itemBody><hotspotInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Where? <img src="arrow.png" alt=""/></prompt><object data="map.png" type="image/png" width="30" height="20"/><hotspotChoice identifier="A" shape="rect" coords="1,2,3,4"/></hotspotInteraction></itemBody>${template('match_correct')}`,
    );
    expect(q.image).toEqual({ file: 'items/map.png', width: 30, height: 20 });
  });

  it('tells what is said to single answers from what is said when right', () => {
    const base = (v: string) => `<baseValue baseType="identifier">${v}</baseValue>`;
    const string = (text: string) =>
      `<stringMatch caseSensitive="false"><variable identifier="RESPONSE"/><baseValue baseType="string">${text}</baseValue></stringMatch>`;
    const when = (test: string, ...then: string[]) =>
      `<responseCondition><responseIf>${test}${then.join('')}</responseIf></responseCondition>`;
    const set = (id: string, value: string) => `<setOutcomeValue identifier="${id}">${value}</setOutcomeValue>`;
    const q = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="string"/>${outcome(1)}
      <itemBody><p>?</p><textEntryInteraction responseIdentifier="RESPONSE"/></itemBody>
      <responseProcessing>${when(string('oak'), set('FEEDBACK', base('r1')))}${when(`<or>${string('oak')}${string('elm')}</or>`, set('SCORE', '<baseValue baseType="float">1</baseValue>'), set('FEEDBACK', base('yes')))}</responseProcessing>
      ${['r1', 'yes'].map((id) => `<modalFeedback outcomeIdentifier="FEEDBACK" identifier="${id}" showHide="show"><p>${id}</p></modalFeedback>`).join('')}`,
    );
    expect(q.answers.map((a) => [a.text, a.feedback && plainText(a.feedback.text)])).toEqual([
      ['oak', 'r1'],
      ['elm', undefined],
    ]);
    expect(q.feedback.correct && plainText(q.feedback.correct.text)).toBe('yes');
  });

  it('tells what is shown when right, when wrong, for everyone and for a choice', () => {
    const say = (id: string, ...value: string[]) =>
      `<setOutcomeValue identifier="${id}">${value.join('')}</setOutcomeValue>`;
    const base = (v: string) => `<baseValue baseType="identifier">${v}</baseValue>`;
    const modal = (id: string) =>
      `<modalFeedback outcomeIdentifier="FEEDBACK" identifier="${id}" showHide="show"><p>${id}</p></modalFeedback>`;
    const q = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"><correctResponse><value>A</value></correctResponse></responseDeclaration>${outcome(1)}
      <itemBody><choiceInteraction responseIdentifier="RESPONSE" shuffle="false" maxChoices="1"><prompt>?</prompt><simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b<feedbackInline outcomeIdentifier="F" identifier="B" showHide="show">no b</feedbackInline></simpleChoice></choiceInteraction></itemBody>
      <responseProcessing>${say('FEEDBACK', base('all'))}<responseCondition><responseIf><match><variable identifier="RESPONSE"/><correct identifier="RESPONSE"/></match>${say('SCORE', '<baseValue baseType="float">1</baseValue>')}${say('FEEDBACK', base('yes'))}</responseIf><responseElse>${say('FEEDBACK', base('no'))}</responseElse></responseCondition></responseProcessing>
      ${modal('all')}${modal('yes')}${modal('no')}`,
    );
    expect(Object.entries(q.feedback).map(([kind, t]) => [kind, plainText(t.text)])).toEqual([
      ['general', 'all'],
      ['correct', 'yes'],
      ['incorrect', 'no'],
    ]);
    expect(q.choices.map((c) => [plainText(c.text.text), c.feedback && plainText(c.feedback.text)])).toEqual([
      ['a', undefined],
      ['b', 'no b'],
    ]);
  });

  it('gives each gap the points that its own rule gives', () => {
    const rule = (name: string, points: number) =>
      `<responseCondition><responseIf><match><variable identifier="${name}"/><correct identifier="${name}"/></match><setOutcomeValue identifier="SCORE"><sum><variable identifier="SCORE"/><baseValue baseType="float">${points}</baseValue></sum></setOutcomeValue></responseIf></responseCondition>`;
    const q = read(
      `<responseDeclaration identifier="R1" cardinality="single" baseType="string"><correctResponse><value>keel</value></correctResponse><mapping><mapEntry mapKey="keel" mappedValue="1"/><mapEntry mapKey="keelson" mappedValue="0.5"/></mapping></responseDeclaration>
      <responseDeclaration identifier="R2" cardinality="single" baseType="identifier"><correctResponse><value>y</value></correctResponse></responseDeclaration>
      <responseDeclaration identifier="R3" cardinality="single" baseType="string"><correctResponse><value>stem</value></correctResponse></responseDeclaration>${outcome()}
      <itemBody><p>The <textEntryInteraction responseIdentifier="R1"/> lies under the <inlineChoiceInteraction responseIdentifier="R2" shuffle="false"><inlineChoice identifier="x">mast</inlineChoice><inlineChoice identifier="y">frames</inlineChoice></inlineChoiceInteraction> and behind the <textEntryInteraction responseIdentifier="R3"/>.</p></itemBody>
      <responseProcessing><setOutcomeValue identifier="SCORE"><sum><mapResponse identifier="R1"/></sum></setOutcomeValue>${rule('R2', 2)}${rule('R3', 4)}</responseProcessing>`,
    );
    expect([q.type, q.points]).toEqual(['cloze', 7]);
    expect(q.blanks?.map((b) => [...b.answers, ...b.choices].map((k) => k.score))).toEqual([
      [1, 0.5],
      [undefined, 2],
      [4],
    ]);
  });

  it('takes points of a choice from a rule for each, and what a rule gives as what a question is worth', () => {
    const condition = (name: string, test: string, points: number) =>
      `<${name}>${test}<setOutcomeValue identifier="SCORE"><baseValue baseType="float">${points}</baseValue></setOutcomeValue></${name}>`;
    const is = (choice: string) =>
      `<match><variable identifier="RESPONSE"/><baseValue baseType="identifier">${choice}</baseValue></match>`;
    const choices = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"/>${outcome()}
      <itemBody><choiceInteraction responseIdentifier="RESPONSE" maxChoices="1"><simpleChoice identifier="A">best</simpleChoice><simpleChoice identifier="B">good</simpleChoice><simpleChoice identifier="C">bad</simpleChoice></choiceInteraction></itemBody>
      <responseProcessing><responseCondition>${condition('responseIf', is('A'), 3)}${condition('responseElseIf', is('B'), 1)}</responseCondition></responseProcessing>`,
    );
    expect([choices.type, choices.points]).toEqual(['choice', 3]);
    expect(choices.choices.map((c) => [c.correct, c.score])).toEqual([
      [true, 3],
      [true, 1],
      [false, undefined],
    ]);
    const word = (name: string, text: string, points: number) =>
      condition(
        name,
        `<stringMatch caseSensitive="false"><variable identifier="RESPONSE"/><baseValue baseType="string">${text}</baseValue></stringMatch>`,
        points,
      );
    const words = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="string"/>${outcome()}<itemBody><p>What lies lowest?</p><textEntryInteraction responseIdentifier="RESPONSE"/></itemBody>
      <responseProcessing><responseCondition>${word('responseIf', 'keel', 2)}${word('responseElseIf', 'keelson', 1)}</responseCondition></responseProcessing>`,
    );
    expect([words.type, words.points, words.answers.map((a) => [a.text, a.score])]).toEqual([
      'short answer',
      2,
      [
        ['keel', undefined],
        ['keelson', 1],
      ],
    ]);
  });

  it('counts no more than a mapping gives at most, nor more than one choice where there is one', () => {
    const mapped = (cardinality: string, bound: string) =>
      read(
        `<responseDeclaration identifier="RESPONSE" cardinality="${cardinality}" baseType="identifier"><mapping ${bound}defaultValue="0"><mapEntry mapKey="A" mappedValue="2"/><mapEntry mapKey="B" mappedValue="3"/><mapEntry mapKey="C" mappedValue="-1"/></mapping></responseDeclaration>${outcome()}
        <itemBody><choiceInteraction responseIdentifier="RESPONSE" maxChoices="0"><simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b</simpleChoice><simpleChoice identifier="C">c</simpleChoice></choiceInteraction></itemBody>${template('map_response')}`,
      ).points;
    expect([mapped('multiple', ''), mapped('multiple', 'upperBound="4" '), mapped('single', '')]).toEqual([5, 4, 3]);
  });

  it('keeps what it does not know as foreign', () => {
    expect(read('<itemBody><customInteraction responseIdentifier="RESPONSE"/></itemBody>').type).toBe('foreign');
    expect(read('<itemBody><p>Only words</p></itemBody>').type).toBe('foreign');
  });
});
