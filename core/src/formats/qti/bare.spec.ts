import { bytesSource } from '../../container/index.ts';
import { nodeEngine } from '../../container/node.ts';
import { holdsQuestions } from '../../model/index.ts';
import { packageOf, zipOf } from '../../testing/packages.ts';
import { openCourse, readCourse } from '../index.ts';

const item = (id: string, ns = 'v2p1') =>
  `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_${ns}" identifier="${id}" title="${id}" adaptive="false" timeDependent="false"><responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"><correctResponse><value>A</value></correctResponse></responseDeclaration><itemBody><p><img src="media/k.png" alt="k"/></p><choiceInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Which?</prompt><simpleChoice identifier="A">a</simpleChoice></choiceInteraction></itemBody></assessmentItem>`;
const ASI =
  '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE questestinterop SYSTEM "ims_qtiasiv1p2.dtd">\n<!-- by hand -->\n<questestinterop><assessment ident="t" title="Knots"><section ident="s"><item ident="q" title="One"><presentation><material><mattext>Which?</mattext></material><response_lid ident="r" rcardinality="Single"><render_choice><response_label ident="A"><material><mattext>a</mattext></material></response_label></render_choice></response_lid></presentation></item></section></assessment></questestinterop>';

async function read(bytes: Uint8Array) {
  const pkg = await openCourse(bytesSource(bytes), { engine: nodeEngine });
  const { course, notes } = await readCourse(pkg);
  return {
    origin: course.origin,
    questions: course.items.flatMap((i) => (holdsQuestions(i) ? i.questions : [])),
    titles: course.items.map((i) => [i.kind, i.title]),
    codes: notes.map((n) => n.code),
  };
}
const bytesOf = (text: string) => new TextEncoder().encode(text);

describe('Questions without a package', () => {
  it('are read from a file by itself, of every version', async () => {
    const asi = await read(bytesOf(ASI));
    expect([asi.origin.version, asi.titles, asi.codes]).toEqual(['1.2', [['quiz', 'Knots']], ['manifest-made']]);
    const v22 = await read(bytesOf(item('i', 'v2p2')));
    expect([v22.origin.version, v22.questions.map((q) => q.id)]).toEqual(['2.2', ['i']]);
    const v3 = await read(
      bytesOf(
        '<qti-assessment-item xmlns="http://www.imsglobal.org/xsd/imsqtiasi_v3p0" identifier="j" title="J" adaptive="false" time-dependent="false"><qti-item-body><qti-extended-text-interaction response-identifier="RESPONSE"/></qti-item-body></qti-assessment-item>',
      ),
    );
    expect([v3.origin.version, v3.questions.map((q) => [q.id, q.type])]).toEqual(['3.0', [['j', 'essay']]]);
  });

  it('are read from a zip of such files, with what they show', async () => {
    const { questions, origin, codes } = await read(
      await zipOf({ 'b.xml': item('b'), 'a.xml': item('a'), 'media/k.png': 'PNG', 'notes.xml': '<notes/>' }),
    );
    expect([origin.version, questions.map((q) => q.id)]).toEqual(['2.1', ['a', 'b']]);
    expect(questions[0]?.files).toEqual(['media/k.png']);
    expect(codes).toContain('manifest-made');
  });

  it('are not looked for where a package has a manifest, or holds something else', async () => {
    const other = await read(await zipOf({ 'index.html': '<p>A page</p>', 'data.xml': '<data/>' }));
    expect([other.origin.format, other.codes.includes('manifest-made')]).toEqual(['site', false]);
    const pkg = await packageOf({ 'imsmanifest.xml': '<manifest/>', 'a.xml': item('a') });
    expect(pkg.notes.map((n) => n.code)).not.toContain('manifest-made');
  });
});
