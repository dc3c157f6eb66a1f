import { parseXml, untakenIn } from '../../markup/index.ts';
import { judge, partsOf, pointIn, type Question } from '../../model/index.ts';
import { writeItem } from './write.ts';
import { readItem } from './item.ts';
import { scoreOf } from './interpret.ts';

const item = (inner: string, attributes = '') =>
  parseXml(
    `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="i" title="T" adaptive="false" timeDependent="false"${attributes}>${inner}</assessmentItem>`,
    'i.xml',
  );
const read = (inner: string, attributes = '') => readItem(item(inner, attributes), 'i.xml', (file) => `media/${file}`);
const declared = (cardinality: string, baseType: string, ...right: string[]) =>
  `<responseDeclaration identifier="RESPONSE" cardinality="${cardinality}" baseType="${baseType}"><correctResponse>${right.map((v) => `<value>${v}</value>`).join('')}</correctResponse></responseDeclaration><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>`;
const MATCH = '<responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/match_correct"/>';
const CHART = '<object data="chart.png" type="image/png" width="200" height="100">The harbour</object>';
const right = (q: Question, ...values: string[]) => judge(q, { values });

describe('Interactions of QTI 2', () => {
  it('that pick words in a text are choices among them, in the sentence as it reads', () => {
    const q = read(
      `${declared('multiple', 'identifier', 'B')}<itemBody><hottextInteraction responseIdentifier="RESPONSE" maxChoices="0"><prompt>Which is a knot?</prompt><p>The <hottext identifier="A">thwart</hottext> and the <hottext identifier="B">bowline</hottext>.</p></hottextInteraction></itemBody>${MATCH}`,
    );
    expect([q.type, q.prompt.text, q.asked]).toEqual([
      'multiple response',
      'Which is a knot?<p>The thwart and the bowline.</p>',
      { by: ['words in a text'] },
    ]);
    expect(partsOf(q).choices.map((c) => [c.id, c.text.text, c.correct])).toEqual([
      ['A', 'thwart', false],
      ['B', 'bowline', true],
    ]);
    expect(q.scoredOtherwise).toBeUndefined();
  });

  it('that set a slider are numbers with their bounds, and are written so again', () => {
    const q = read(
      `${declared('single', 'integer', '40')}<itemBody><sliderInteraction responseIdentifier="RESPONSE" lowerBound="0" upperBound="100" step="5"><prompt>How long?</prompt></sliderInteraction></itemBody>${MATCH}`,
    );
    expect([q.type, q.asked, q.prompt.text, right(q, '40'), right(q, '45')]).toEqual([
      'numeric',
      { by: ['slider'], range: { low: 0, high: 100, step: 5 } },
      'How long?',
      1,
      0,
    ]);
    const again = writeItem(q, '3.0', (text) => text.text);
    expect(again).toContain(
      '<qti-slider-interaction response-identifier="RESPONSE" lower-bound="0" upper-bound="100" step="5">',
    );
  });

  it('that give things to places on a picture match them with numbered places', () => {
    const q = read(
      `${declared('multiple', 'directedPair', 'G1 H2', 'G2 H1')}<itemBody><p>Label them</p><graphicGapMatchInteraction responseIdentifier="RESPONSE">${CHART}<gapImg identifier="G1" matchMax="1"><object data="buoy.png" type="image/png">a buoy</object></gapImg><gapText identifier="G2" matchMax="1">quay</gapText><associableHotspot identifier="H1" shape="rect" coords="0,0,20,10" matchMax="1"/><associableHotspot identifier="H2" shape="circle" coords="100,50,8" matchMax="1" hotspotLabel="the bar"/></graphicGapMatchInteraction></itemBody>${MATCH}`,
    );
    const { choices, targets, pairs } = partsOf(q);
    expect([q.type, choices.map((c) => c.text.text), targets.map((t) => t.text.text)]).toEqual([
      'matching',
      ['<img alt="a buoy" src="buoy.png">', 'quay'],
      ['1', '2: the bar'],
    ]);
    expect(pairs.map((p) => [p.choice, p.target])).toEqual([
      ['G1', 'H2'],
      ['G2', 'H1'],
    ]);
    expect(q.prompt.text).toContain(
      '<img src="chart.png" alt="The harbour" width="200" height="100"> <strong style="position: absolute; left: 5%; top: 5%;',
    );
    expect(q.prompt.text).toContain('left: 50%; top: 50%;');
    expect(q.files).toEqual(['media/chart.png', 'media/buoy.png']);
    expect([right(q, 'G1 H2', 'G2 H1'), right(q, 'G1 H1', 'G2 H2'), q.scoredOtherwise]).toEqual([1, 0, undefined]);
  });

  it('that put places on a picture in order, or join them, do so with numbered places', () => {
    const order = read(
      `${declared('ordered', 'identifier', 'B', 'A')}<itemBody><graphicOrderInteraction responseIdentifier="RESPONSE"><object data="chart.png" type="image/png"/><hotspotChoice identifier="A" shape="rect" coords="0,0,20,10"/><hotspotChoice identifier="B" shape="poly" coords="0,0,10,0,10,10,0,10"/></graphicOrderInteraction></itemBody>${MATCH}`,
    );
    expect([order.type, partsOf(order).choices.map((c) => c.text.text), partsOf(order).order]).toEqual([
      'ordering',
      ['1', '2'],
      ['B', 'A'],
    ]);
    // Its size is not told, so nothing can be put in its place on it.
    expect(order.prompt.text).toBe('<p><img src="chart.png" alt=""></p><p>1 (10, 5) · 2 (5, 5)</p>');
    const joined = read(
      `${declared('multiple', 'pair', 'A B')}<itemBody><graphicAssociateInteraction responseIdentifier="RESPONSE" maxAssociations="0">${CHART}<associableHotspot identifier="A" shape="rect" coords="0,0,20,10" matchMax="1"/><associableHotspot identifier="B" shape="rect" coords="20,0,40,10" matchMax="1"/><associableHotspot identifier="C" shape="rect" coords="40,0,60,10" matchMax="1"/></graphicAssociateInteraction></itemBody>${MATCH}`,
    );
    expect([joined.type, right(joined, 'B A'), right(joined, 'A C'), joined.scoredOtherwise]).toEqual([
      'associate',
      1,
      0,
      undefined,
    ]);
  });

  const mapped = (cardinality: string, second: number) =>
    `<responseDeclaration identifier="RESPONSE" cardinality="${cardinality}" baseType="point"><areaMapping defaultValue="0"><areaMapEntry shape="circle" coords="20,20,5" mappedValue="2"/><areaMapEntry shape="rect" coords="50,50,60,60" mappedValue="${second}"/></areaMapping></responseDeclaration><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>`;
  const POINT =
    '<responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/map_response_point"/>';

  it('that ask for a point anywhere tell no place to choose from, there and back', () => {
    for (const [cardinality, second, both] of [
      ['single', 2, null],
      ['multiple', 1, 3],
    ] as const) {
      const q = read(
        `${mapped(cardinality, second)}<itemBody><selectPointInteraction responseIdentifier="RESPONSE" maxChoices="${both === null ? 1 : 0}"><prompt>Where?</prompt>${CHART}</selectPointInteraction></itemBody>${POINT}`,
      );
      expect([q.type, q.asked?.by, q.scoredOtherwise]).toEqual(['hotspot', ['pointing'], undefined]);
      for (const version of ['2.1', '3.0'] as const) {
        const text = writeItem(q, version, (t) => t.text);
        expect(text).not.toMatch(/hotspot/i);
        const written = parseXml(text, 'i.xml');
        const { areas } = partsOf(q);
        const at = (...places: number[]) =>
          places.map((i) => pointIn(areas[i] ?? { shape: 'rect', coords: [] }).join(' '));
        const scores = [at(0), at(1), ['90 90'], ...(both === null ? [] : [at(0, 1)])];
        expect(scores.map((points) => scoreOf(written, new Map([['RESPONSE', points]])))).toEqual([
          2,
          second,
          0,
          ...(both === null ? [] : [both]),
        ]);
        const again = readItem(written, 'i.xml', (file) => file);
        expect(partsOf(again).areas).toEqual(areas);
      }
    }
  });

  it('that put something on a picture ask for the point where it goes', () => {
    const q = read(
      `${mapped('single', 0)}<itemBody><p>Put the buoy where it belongs</p><positionObjectStage>${CHART}<positionObjectInteraction responseIdentifier="RESPONSE" maxChoices="1"><object data="buoy.png" type="image/png" width="9" height="9"/></positionObjectInteraction></positionObjectStage></itemBody>${POINT}`,
    );
    expect([q.type, partsOf(q).image, q.asked?.by]).toEqual([
      'hotspot',
      { file: 'media/chart.png', width: 200, height: 100 },
      ['pointing'],
    ]);
    expect(q.prompt.text).toContain('<img src="buoy.png"');
  });

  it('that have something drawn are uploads, with the picture to draw on', () => {
    const q = read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="file"/><itemBody><drawingInteraction responseIdentifier="RESPONSE"><prompt>Draw the course</prompt>${CHART}</drawingInteraction></itemBody>`,
    );
    expect([q.type, q.asked?.by, q.files]).toEqual(['upload', ['drawing'], ['media/chart.png']]);
  });

  it('that are only watched, or end a try, ask nothing beside what does', () => {
    const q = read(
      `${declared('single', 'identifier', 'A')}<itemBody><mediaInteraction responseIdentifier="M" autostart="false"><object data="gale.mp4" type="video/mp4" width="320" height="180">A gale</object></mediaInteraction><choiceInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Force?</prompt><simpleChoice identifier="A">8</simpleChoice><simpleChoice identifier="B">3</simpleChoice></choiceInteraction><p><endAttemptInteraction responseIdentifier="HINT" title="A hint"/></p></itemBody>${MATCH}`,
    );
    expect([q.type, q.prompt.text, q.files]).toEqual([
      'choice',
      '<video controls="" src="gale.mp4" width="320" height="180">A gale</video>Force?',
      ['media/gale.mp4'],
    ]);
  });
});

describe('Items of QTI 2 that are made anew for each try', () => {
  const template = `<templateDeclaration identifier="A" cardinality="single" baseType="integer"/><templateDeclaration identifier="B" cardinality="single" baseType="integer" mathVariable="true"/><templateDeclaration identifier="SUM" cardinality="single" baseType="integer"/><templateDeclaration identifier="WORD" cardinality="single" baseType="identifier"/>
    <templateProcessing><setTemplateValue identifier="A"><randomInteger min="2" max="9"/></setTemplateValue><setTemplateValue identifier="B"><randomInteger min="12" max="40" step="4"/></setTemplateValue><templateConstraint><gt><variable identifier="B"/><variable identifier="A"/></gt></templateConstraint><setTemplateValue identifier="SUM"><sum><variable identifier="A"/><variable identifier="B"/></sum></setTemplateValue><templateCondition><templateIf><lt><variable identifier="A"/><baseValue baseType="integer">100</baseValue></lt><setTemplateValue identifier="WORD"><baseValue baseType="identifier">small</baseValue></setTemplateValue></templateIf></templateCondition><setCorrectResponse identifier="RESPONSE"><variable identifier="SUM"/></setCorrectResponse></templateProcessing>`;
  const body = `<itemBody><p>Add <printedVariable identifier="A"/> and <math><mi>B</mi></math><templateInline templateIdentifier="WORD" identifier="small" showHide="show"> (small)</templateInline><templateInline templateIdentifier="WORD" identifier="large" showHide="show"> (large)</templateInline></p><p><textEntryInteraction responseIdentifier="RESPONSE"/></p></itemBody>`;
  const made = (inner = template, after = MATCH, attributes = '') =>
    read(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="integer"/><outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>${inner}${body}${after}`,
      attributes,
    );

  it('are read with the values that their template makes, the same each time', () => {
    const q = made();
    const [, a = '', b = ''] = /Add (\d+) and <math><mn>(\d+)<\/mn><\/math> \(small\)<\/p>/.exec(q.prompt.text) ?? [];
    expect([Number(a) >= 2 && Number(a) <= 9, [12, 16, 20, 24, 28, 32, 36, 40].includes(Number(b))]).toEqual([
      true,
      true,
    ]);
    expect([q.type, partsOf(q).numbers.map((n) => n.value), q.asked]).toEqual([
      'numeric',
      [Number(a) + Number(b)],
      { by: ['made anew'] },
    ]);
    expect(q.scoredOtherwise).toBeUndefined();
    expect(made()).toEqual(q);
  });

  it('are judged by rules that name their values', () => {
    const rules = `<responseProcessing><responseCondition><responseIf><equal toleranceMode="absolute" tolerance="A A"><variable identifier="RESPONSE"/><variable identifier="SUM"/></equal><setOutcomeValue identifier="SCORE"><baseValue baseType="float">3</baseValue></setOutcomeValue></responseIf></responseCondition></responseProcessing>`;
    const q = made(template, rules);
    const [n] = partsOf(q).numbers;
    const a = Number(/Add (\d+)/.exec(q.prompt.text)?.[1]);
    expect([q.points, (n?.high ?? 0) - (n?.value ?? 0), q.scoredOtherwise]).toEqual([3, a, undefined]);
  });

  it('leave untold nothing that is not read of them', () => {
    const root = item(
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="integer"/>${template}${body.replace('<printedVariable ', '<gadget level="3"/><printedVariable ')}${MATCH}`.replace(
        '<templateDeclaration identifier="A"',
        '<templateDeclaration identifier="A" colour="red"',
      ),
    );
    readItem(root, 'i.xml', (file) => file);
    const told = [...untakenIn(root)].map((one) => one.name);
    expect(told).toContain('templateDeclaration@colour');
    // The item itself is read as the part of a package that it is.
    expect(told.filter((name) => !name.startsWith('assessmentItem'))).toEqual(['templateDeclaration@colour']);
  });

  it('are foreign where the template says what is not interpreted', () => {
    expect(made(template.replace('<sum>', '<customOperator>').replace('</sum>', '</customOperator>')).type).toBe(
      'foreign',
    );
  });

  it('begin anew where their values do not fit, and stay as declared where they never do', () => {
    const never = template
      .replace(
        'baseType="integer"/>',
        'baseType="integer"><defaultValue><value>77</value></defaultValue></templateDeclaration>',
      )
      .replace('<gt>', '<lt>')
      .replace('</gt>', '</lt>');
    expect(made(never).prompt.text).toContain('Add 77 and');
  });
});

describe('Adaptive items of QTI 2', () => {
  it('are read as what they ask in the end, with what they say on the way as a hint', () => {
    const adaptive = readItem(
      parseXml(
        `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="i" title="T" adaptive="true" timeDependent="false">${declared('single', 'identifier', 'A')}<itemBody><feedbackBlock outcomeIdentifier="STEP" identifier="one" showHide="show"><p>Think of the wind.</p></feedbackBlock><feedbackBlock outcomeIdentifier="STEP" identifier="two" showHide="show"><p>Now:</p><choiceInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Which?</prompt><simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b</simpleChoice></choiceInteraction></feedbackBlock><p><endAttemptInteraction responseIdentifier="HINT" title="A hint"/></p></itemBody>${MATCH}</assessmentItem>`,
        'i.xml',
      ),
      'i.xml',
      (file) => file,
    );
    expect([adaptive.type, adaptive.prompt.text, adaptive.asked?.by, adaptive.feedback.hint?.text]).toEqual([
      'choice',
      '<p>Now:</p>Which?',
      ['several steps'],
      '<div><p>Think of the wind.</p></div>',
    ]);
  });
});
