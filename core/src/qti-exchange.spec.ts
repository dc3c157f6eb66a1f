import { compare } from './compare/index.ts';
import { bytesSource } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { declaredLosses, profileOn } from './fit/index.ts';
import { survey } from './inspect/index.ts';
import { decodeText, parseXml } from './markup/index.ts';
import { memorySink, packageOf, type Files } from './testing/packages.ts';
import { openCourse, planPackage, readCourse, targetById, writePackage } from './formats/index.ts';
import { NAMESPACES } from './formats/qti2/names.ts';
import { exchanged, versionsFor } from './formats/qti/exchange.ts';

const AS_21 = `<?xml version="1.0" encoding="UTF-8"?>
<!-- of the yard -->
<q:assessmentItem xmlns:q="${NAMESPACES['2.1']}" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="${NAMESPACES['2.1']} http://www.imsglobal.org/xsd/qti/qtiv2p1/imsqti_v2p1.xsd urn:y y.xsd" identifier="i1" title="Which &lt;knot&gt;?" adaptive="false" timeDependent = 'false' xml:lang="en">
  <q:responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="identifier">
    <q:mapping defaultValue="-1" lowerBound="0"><q:mapEntry mapKey="a" mappedValue="2"/></q:mapping>
  </q:responseDeclaration>
  <q:itemBody class="wide">
    <q:p q:odd="kept">Ask <m:math xmlns:m="http://www.w3.org/1998/Math/MathML"><m:mi>value</m:mi></m:math></q:p>
    <q:hottextInteraction responseIdentifier="RESPONSE" maxChoices="0"><q:p>The <q:hottext identifier="a">bowline</q:hottext> holds</q:p></q:hottextInteraction>
    <q:feedbackBlock outcomeIdentifier="F" identifier="f" showHide="show"><q:p>Well</q:p></q:feedbackBlock>
    <q:rubricBlock view="tutor"/>
  </q:itemBody>
  <q:responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/map_response"/>
  <q:modalFeedback outcomeIdentifier="F" showHide="show" identifier="f">So <q:b>so</q:b></q:modalFeedback>
</q:assessmentItem>`;

const AS_30 = `<?xml version="1.0" encoding="UTF-8"?>
<!-- of the yard -->
<q:qti-assessment-item xmlns:q="${NAMESPACES['3.0']}" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="${NAMESPACES['3.0']} https://purl.imsglobal.org/spec/qti/v3p0/schema/xsd/imsqti_asiv3p0_v1p0.xsd urn:y y.xsd" identifier="i1" title="Which &lt;knot&gt;?" adaptive="false" time-dependent = 'false' xml:lang="en">
  <q:qti-response-declaration identifier="RESPONSE" cardinality="multiple" base-type="identifier">
    <q:qti-mapping default-value="-1" lower-bound="0"><q:qti-map-entry map-key="a" mapped-value="2"/></q:qti-mapping>
  </q:qti-response-declaration>
  <q:qti-item-body class="wide">
    <q:p q:odd="kept">Ask <m:math xmlns:m="http://www.w3.org/1998/Math/MathML"><m:mi>value</m:mi></m:math></q:p>
    <q:qti-hottext-interaction response-identifier="RESPONSE" max-choices="0"><q:p>The <q:qti-hottext identifier="a">bowline</q:qti-hottext> holds</q:p></q:qti-hottext-interaction>
    <q:qti-feedback-block outcome-identifier="F" identifier="f" show-hide="show"><q:qti-content-body><q:p>Well</q:p></q:qti-content-body></q:qti-feedback-block>
    <q:qti-rubric-block view="tutor" use="instructions"><q:qti-content-body/></q:qti-rubric-block>
  </q:qti-item-body>
  <q:qti-response-processing template="https://purl.imsglobal.org/spec/qti/v3p0/rptemplates/map_response.xml"/>
  <q:qti-modal-feedback outcome-identifier="F" show-hide="show" identifier="f"><q:qti-content-body>So <q:b>so</q:b></q:qti-content-body></q:qti-modal-feedback>
</q:qti-assessment-item>`;

const all = (text: string) => versionsFor(parseXml(text, 'a.xml'));

describe('QTI exchanged in place', () => {
  it('is said in the words of 3.0, all else as it was', () => {
    expect(exchanged(AS_21, 'a.xml', '3.0', 256)).toBe(AS_30);
  });

  it('comes back as it was', () => {
    const back = exchanged(AS_30, 'a.xml', '2.1', 256);
    // What 3.0 asks for stays: it may stand in 2.1 too.
    expect(back).toBe(
      AS_21.replace('<q:rubricBlock view="tutor"/>', '<q:rubricBlock view="tutor" use="instructions"></q:rubricBlock>'),
    );
    expect(exchanged(back, 'a.xml', '3.0', 256)).toBe(
      AS_30.replace(
        '<q:qti-content-body/></q:qti-rubric-block>',
        '<q:qti-content-body></q:qti-content-body></q:qti-rubric-block>',
      ),
    );
  });

  it('changes of 2.1 nothing but its name for 2.2', () => {
    const now = exchanged(AS_21, 'a.xml', '2.2', 256);
    expect(now).toBe(AS_21.replaceAll('v2p1', 'v2p2'));
    expect(exchanged(now, 'a.xml', '2.1', 256)).toBe(AS_21);
  });

  it('puts style sheets before the body, and leaves what is none of QTI', () => {
    const rubric = `<rubricBlock xmlns="${NAMESPACES['2.2']}" view="candidate" use="u"><stylesheet href="a.css" type="text/css"/><p>Read</p></rubricBlock>`;
    expect(exchanged(rubric, 'a.xml', '3.0', 256)).toBe(
      `<qti-rubric-block xmlns="${NAMESPACES['3.0']}" view="candidate" use="u"><qti-stylesheet href="a.css" type="text/css"/><qti-content-body><p>Read</p></qti-content-body></qti-rubric-block>`,
    );
    expect(exchanged('<assessmentItem timeDependent="x"/>', 'a.xml', '3.0', 256)).toBe(
      '<assessmentItem timeDependent="x"/>',
    );
  });

  it('knows which versions can say it', () => {
    expect(all(AS_21)).toEqual(['2.1', '2.2', '3.0']);
    expect(all(AS_30)).toEqual(['2.1', '2.2', '3.0']);
    expect(all(AS_30.replace('q:b>so</q:b', 'q:figure>so</q:figure'))).toEqual(['2.2', '3.0']);
    expect(all(AS_30.replace('<q:p q:odd', '<q:p data-x="1" q:odd'))).toEqual(['2.2', '3.0']);
    expect(all(AS_30.replace('<q:b>so</q:b>', '<q:qti-context-declaration/>'))).toEqual(['3.0']);
  });

  const manifest = (item: string) =>
    `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="M"><metadata><schema>QTIv2.1 Package</schema><schemaversion>1.0.0</schemaversion></metadata><organizations/><resources><resource identifier="R" type="imsqti_item_xmlv2p1" href="items/${item}"><file href="items/${item}"/><file href="items/p.png"/></resource></resources></manifest>`;
  const files = (item = AS_21): Files => ({
    'imsmanifest.xml': manifest('one.xml'),
    'items/one.xml': item,
    'items/p.png': 'P',
    'notes/other.xml': '<other/>',
  });

  async function through(given: Files, id: string) {
    const source = await packageOf(given);
    const { course } = await readCourse(source);
    const sent = (await survey(source, course, { engine: nodeEngine })).course;
    const { format, target } = targetById(id);
    const sink = memorySink();
    await writePackage(target, await planPackage(format, sent, target, source), source, sink, { engine: nodeEngine });
    const pkg = await openCourse(bytesSource(sink.bytes()), { engine: nodeEngine });
    const read = (await readCourse(pkg)).course;
    const arrived = (await survey(pkg, read, { engine: nodeEngine })).course;
    return { sent, arrived, pkg, losses: declaredLosses(sent, profileOn(sent, target)) };
  }

  it('loses nothing of a package: interactions that no model knows, files, paths', async () => {
    for (const id of ['qti22', 'qti30']) {
      const { sent, arrived, pkg, losses } = await through(files(), id);
      expect(losses).withContext(id).toEqual([]);
      const { totals, lines } = compare(sent, arrived);
      expect(totals.whole).withContext(id).toBe(lines.length);
      expect([...pkg.entries.keys()]).toEqual(['imsmanifest.xml', 'items/one.xml', 'items/p.png', 'notes/other.xml']);
      expect(decodeText(await pkg.bytes('notes/other.xml'))).toBe('<other/>');
      const version = id === 'qti30' ? '3.0' : '2.2';
      expect(arrived.origin.version).toBe(version);
      expect(decodeText(await pkg.bytes('items/one.xml'))).toBe(exchanged(AS_21, 'a.xml', version, 256));
    }
  });

  it('goes through the model where the other version has no words for it', async () => {
    const only = AS_30.replace('<q:b>so</q:b>', '<q:qti-context-declaration/>');
    const given = {
      ...files(only),
      'imsmanifest.xml': manifest('one.xml').replaceAll('v2p1', 'v3p0').replace('QTIv2.1 Package', 'QTI Package'),
    };
    const source = await packageOf(given);
    const { course } = await readCourse(source);
    expect(course.origin).toEqual({ format: 'qti', version: '3.0', untouched: true });
    const { losses } = await through(given, 'qti21');
    expect(losses.length).toBeGreaterThan(0);
  });
});
