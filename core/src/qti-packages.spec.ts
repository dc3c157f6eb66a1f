import { bytesSource } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { survey } from './inspect/index.ts';
import { drawsOf, partsOf, type Course, type ItemOf } from './model/index.ts';
import { cartridge, memorySink, packageOf } from './testing/packages.ts';
import { openCourse, readCourse, targetById, writePackage } from './formats/index.ts';
import { readQtiPackage } from './formats/qti/read.ts';

/** Packages as other programs lay them out: items, tests and pictures in folders of their own. */
type Files = Record<string, string>;

const resource = (type: string, href: string, id = href.replace(/\W/g, '_')) =>
  `<resource identifier="${id}" type="imsqti_${type}_xmlv2p2" href="${href}"><file href="${href}"/></resource>`;

function packed(files: Files): Files {
  const type = (path: string) => {
    const [, name = 'rptemplate'] = /^<assessment(Item|Test|Section|Stimulus)\b/.exec(files[path] ?? '') ?? [];
    return name.toLowerCase();
  };
  const resources = Object.keys(files)
    .filter((path) => path.endsWith('.xml'))
    .map((path) => resource(type(path), path));
  return {
    'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="M"><metadata/><organizations/><resources>${resources.join('')}</resources></manifest>`,
    ...files,
  };
}
const item = (id: string, body = '', more = '') =>
  `<assessmentItem identifier="${id}" title="${id}" adaptive="false" timeDependent="false">${more}
  <responseDeclaration identifier="RESPONSE" cardinality="single" baseType="identifier"><correctResponse><value>A</value></correctResponse></responseDeclaration>
  <outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>
  <itemBody>${body}<choiceInteraction responseIdentifier="RESPONSE" maxChoices="1"><simpleChoice identifier="A">Ash${body}</simpleChoice><simpleChoice identifier="B">Bog oak</simpleChoice></choiceInteraction></itemBody>
  <responseProcessing template="http://www.imsglobal.org/question/qti_v2p2/rptemplates/match_correct"/></assessmentItem>`;
const ref = (path: string, inside = '') =>
  `<assessmentItemRef identifier="${path.replace(/\W/g, '_')}" href="${path}">${inside}</assessmentItemRef>`;
const section = (id: string, inside: string) =>
  `<assessmentSection identifier="${id}" title="Section ${id}" visible="true">${inside}</assessmentSection>`;
const test = (inside: string) =>
  `<assessmentTest identifier="T" title="Timber"><testPart identifier="P" navigationMode="linear" submissionMode="individual">${inside}</testPart></assessmentTest>`;

async function read(files: Files) {
  return readQtiPackage(await packageOf(packed(files)));
}
const quizIn = ({ items }: Course) => items.find((i): i is ItemOf<'quiz'> => i.kind === 'quiz');
const banksIn = ({ items }: Course) => items.filter((i): i is ItemOf<'bank'> => i.kind === 'bank');

/** The course as it comes back from another version of the format. */
async function through(files: Files, target: string): Promise<{ course: Course; broken: unknown[] }> {
  const source = await packageOf(packed(files));
  const { course } = await readQtiPackage(source);
  // A plan for the very version that a package is of would copy it.
  const changed = { ...course, origin: { ...course.origin, untouched: false } };
  const sink = memorySink();
  const to = targetById(target);
  await writePackage(to.target, await to.format.plan(changed, to.target, source), source, sink);
  const pkg = await openCourse(bytesSource(sink.bytes()), { engine: nodeEngine });
  const back = (await readCourse(pkg)).course;
  const { links } = await survey(pkg, back, { engine: nodeEngine });
  return { course: back, broken: links.filter((l) => l.state === 'broken') };
}

describe('Reading packages of QTI 2', () => {
  it('finds what questions show where items and tests lie in different folders, and takes it along', async () => {
    const files = {
      'tests/timber.xml': test(section('S', ref('../items/one.xml'))),
      'items/one.xml': item('one', '<p><img src="img/oak%20log.png" alt="oak"/></p>'),
      'items/two.xml': item('two', '<p><img src="img/oak%20log.png" alt="oak"/></p>'),
      'items/img/oak log.png': 'png',
    };
    const { course } = await read(files);
    const quiz = quizIn(course);
    expect(quiz?.questions[0]?.prompt.text).toContain('src="../items/img/oak%20log.png"');
    expect(quiz?.questions.map((q) => partsOf(q).choices[0]?.text.text)[0]).toContain(
      'src="../items/img/oak%20log.png"',
    );
    // What no test asks for stands for itself, as seen from the top.
    expect(banksIn(course)[0]?.questions[0]?.prompt.text).toContain('src="items/img/oak%20log.png"');
    for (const target of ['qti12', 'qti21', 'qti30']) {
      const { course: back, broken } = await through(files, target);
      expect(broken).withContext(target).toEqual([]);
      expect(back.items.flatMap((i) => (i.kind === 'quiz' || i.kind === 'bank' ? i.questions : [])).map((q) => q.files))
        .withContext(target)
        .toEqual([['items/img/oak log.png'], ['items/img/oak log.png']]);
    }
  });

  it('leaves a package its outline, whatever it leads to beside quizzes', async () => {
    const manifest = (entries: string) =>
      `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="M"><metadata><schema>IMS Content</schema></metadata><organizations default="O"><organization identifier="O"><title>Timber</title>${entries}</organization></organizations>
      <resources><resource identifier="P" type="webcontent" href="p.html"><file href="p.html"/></resource>${resource('test', 'test.xml', 'T')}${resource('item', 'one.xml', 'I')}</resources></manifest>`;
    const entry = (id: string, ref: string) =>
      `<item identifier="${id}" identifierref="${ref}"><title>${id}</title></item>`;
    const files = (entries: string) => ({
      'imsmanifest.xml': manifest(entries),
      'p.html': '<p>Look at the log.</p>',
      'one.xml': item('one'),
      'test.xml': test(section('S', ref('one.xml'))),
    });
    const opened = async (entries: string) => readCourse(await packageOf(files(entries)));
    const { course } = await opened(entry('first', 'P') + entry('then', 'T'));
    expect([course.origin.format, course.title]).toEqual(['imscp', 'Timber']);
    const quiz = quizIn(course);
    expect(quiz?.questions.map((q) => q.id)).toEqual(['one']);
    expect(course.outline.map((n) => [n.title, n.item])).toEqual([
      ['first', 'P'],
      ['then', quiz?.id],
    ]);
    expect(course.files.map((f) => [f.path, f.role])).toContain(['test.xml', 'definition']);
    // One that leads to quizzes only is a package of questions, and says in which order.
    const only = (await opened(entry('then', 'T'))).course;
    expect([only.origin.format, only.outline.map((n) => n.item)]).toEqual(['qti', [quizIn(only)?.id]]);
  });

  it('keeps sections with their titles, texts and order, the one around all of them aside', async () => {
    const text = (words: string) => `<rubricBlock view="candidate"><p>${words}</p></rubricBlock>`;
    const inner = `<assessmentSection identifier="I" title="Harder" visible="true"><ordering shuffle="true"/>${ref('three.xml')}</assessmentSection>`;
    const parts =
      section('A', text('Read the plan first.') + ref('one.xml') + inner + ref('two.xml')) +
      section('B', ref('four.xml'));
    const items = Object.fromEntries(['one', 'two', 'three', 'four'].map((id) => [`${id}.xml`, item(id)]));
    const files = { ...items, 'test.xml': test(section('W', text('Twenty minutes.') + parts)) };
    const first = quizIn((await read(files)).course);
    expect(first?.questions.map((q) => q.id)).toEqual(['one', 'three', 'two', 'four']);
    const sections = [
      {
        id: 'A',
        title: 'Section A',
        text: '<p>Read the plan first.</p>',
        parts: ['one', { id: 'I', title: 'Harder', shuffled: true, parts: ['three'] }, 'two'],
      },
      { id: 'B', title: 'Section B', parts: ['four'] },
    ];
    const { unread = [], ...settings } = first?.settings ?? {};
    expect(settings).toEqual({ instructions: '<p>Twenty minutes.</p>', sections } as never);
    // Going through it in one order only is said nowhere else.
    expect(unread.map((u) => u.name)).toEqual(['testPart@navigationMode']);
    for (const target of ['qti12', 'qti21', 'qti30']) {
      const { course: back } = await through(files, target);
      expect(quizIn(back)?.settings.sections?.map((s) => [s.title, s.parts.length]))
        .withContext(target)
        .toEqual([
          ['Section A', 3],
          ['Section B', 1],
        ]);
      expect(quizIn(back)?.settings.instructions).withContext(target).toContain('Twenty minutes.');
    }
    // Of a cartridge's one section nothing is left to say.
    expect(quizIn((await through(files, 'cc13')).course)?.settings.sections).toBeUndefined();
    const small = await read({ ...items, 'test.xml': test(section('S', ref('one.xml'))) });
    expect(quizIn(small.course)?.settings.sections).toEqual([{ id: 'S', title: 'Section S', parts: ['one'] }]);
  });

  it('gives a question the weight that a test gives it', async () => {
    const { course } = await read({
      'test.xml': test(
        section('S', ref('one.xml', '<weight identifier="W" value="3"/>') + ref('two.xml') + ref('one.xml')),
      ),
      'one.xml': item('one'),
      'two.xml': item('two'),
    });
    expect(quizIn(course)?.questions.map((q) => [q.id, q.points])).toEqual([
      ['one', 3],
      ['two', 1],
      ['one', 1],
    ]);
  });

  it('takes a section of which some questions are drawn for a bank, in every version', async () => {
    const files = {
      'test.xml': test(
        section('own', ref('one.xml')) +
          section(
            'drawn',
            '<selection select="2"/><ordering shuffle="true"/>' +
              ['two', 'three', 'four'].map((n) => ref(`${n}.xml`)).join(''),
          ) +
          section('all', '<selection select="2"/>' + ref('five.xml') + ref('six.xml')),
      ),
      ...Object.fromEntries(['one', 'two', 'three', 'four', 'five', 'six'].map((n) => [`${n}.xml`, item(n)])),
    };
    const shape = (course: Course) => {
      const quiz = quizIn(course);
      const [bank, ...more] = banksIn(course);
      expect(more).toEqual([]);
      return [
        quiz?.questions.map((q) => q.id),
        quiz && drawsOf(quiz),
        bank?.id,
        bank?.title,
        bank?.questions.map((q) => q.id),
      ];
    };
    const expected = [
      ['one', 'five', 'six'],
      [{ bank: 'drawn', number: 2 }],
      'drawn',
      'Section drawn',
      ['two', 'three', 'four'],
    ];
    expect(shape((await read(files)).course)).toEqual(expected);
    for (const target of ['qti12', 'qti21', 'qti22', 'qti30']) {
      expect(shape((await through(files, target)).course))
        .withContext(target)
        .toEqual(expected);
    }
  });

  it('gives every bank in a quiz an identifier of its own, whatever its section is called', async () => {
    const two = (n: string) => section(n, '<selection select="1"/>' + ref('one.xml') + ref('two.xml'));
    const files = { 'test.xml': test(two('T') + two('S') + two('S')), 'one.xml': item('one'), 'two.xml': item('two') };
    const { course } = await read(files);
    expect(course.items.map((i) => i.id)).toEqual(['T-2', 'S', 'S-2', 'T']);
    const quiz = quizIn(course);
    expect(quiz && drawsOf(quiz).map((d) => d.bank)).toEqual(['T-2', 'S', 'S-2']);
  });

  it('draws all from a section that it refers to, and some from one that it draws from alone', async () => {
    const files = {
      'pools/bog.xml': section('bog', ref('../one.xml') + ref('../two.xml')),
      'pools/fen.xml': section('fen', ref('../three.xml') + ref('../four.xml')),
      'test.xml': test(
        '<assessmentSectionRef identifier="r1" href="pools/bog.xml"/>' +
          section('s', '<selection select="1"/><assessmentSectionRef identifier="r2" href="pools/fen.xml"/>') +
          '<assessmentSectionRef identifier="gone" href="pools/gone.xml"/>',
      ),
      ...Object.fromEntries(['one', 'two', 'three', 'four'].map((n) => [`${n}.xml`, item(n)])),
    };
    const expected = [
      { bank: 'bog', number: null },
      { bank: 'fen', number: 1 },
      { bank: 'gone', number: null },
    ];
    for (const course of [(await read(files)).course, (await through(files, 'qti30')).course]) {
      const quiz = quizIn(course);
      expect(quiz && drawsOf(quiz)).toEqual(expected);
      expect(banksIn(course).map((b) => [b.id, b.questions.length])).toEqual([
        ['bog', 2],
        ['fen', 2],
      ]);
    }
  });

  it('puts what questions are asked about before each of them', async () => {
    const stimulus = '<assessmentStimulusRef identifier="L" href="../texts/log.xml"/>';
    const files = {
      'items/one.xml': item('one', '<p>Which wood?</p>', stimulus),
      'items/two.xml': item('two', '', '<assessmentStimulusRef identifier="G" href="../texts/gone.xml"/>'),
      'texts/log.xml':
        '<assessmentStimulus identifier="L" title="Log"><stimulusBody><p>A log from the <em>fen</em> <img src="fen.png" alt=""/></p></stimulusBody></assessmentStimulus>',
      'texts/fen.png': 'png',
      'test.xml': test(section('S', ref('items/one.xml') + ref('items/two.xml'))),
    };
    const { course, notes } = await read(files);
    const [one, two] = quizIn(course)?.questions ?? [];
    expect(one?.prompt.text).toMatch(
      /^<div><p>A log from the <em>fen<\/em> <img src="texts\/fen.png" alt=""><\/p><\/div>\s*<p>Which wood/,
    );
    expect(one?.files).toContain('texts/fen.png');
    expect(two?.prompt.text).not.toContain('log');
    expect(notes.map((n) => [n.code, n.message.includes('../texts/gone.xml')])).toEqual([['question-missing', true]]);
    expect(course.items.map((i) => i.kind)).toEqual(['quiz']);
    expect((await through(files, 'qti12')).broken).toEqual([]);
  });

  it('takes rules that items share for foreign parts, says where a test branches, and joins the rubrics of each section', async () => {
    const rubric = (words: string) => `<rubricBlock view="candidate"><p>${words}</p></rubricBlock>`;
    const { course, notes } = await read({
      'rules.xml': '<responseProcessing><responseCondition/></responseProcessing>',
      'test.xml': test(
        section('A', rubric('Read it.') + ref('one.xml', '<branchRule target="EXIT_TEST"/>')) +
          section('B', rubric('Then write.') + rubric('Read it.') + ref('two.xml')),
      ),
      'one.xml': item('one'),
      'two.xml': item('two'),
    });
    expect(course.items.map((i) => [i.kind, i.definitionPath])).toEqual([
      ['foreign', 'rules.xml'],
      ['quiz', 'test.xml'],
    ]);
    expect(quizIn(course)?.settings.sections?.map((s) => s.text)).toEqual([
      '<p>Read it.</p>',
      '<p>Then write.</p>\n<p>Read it.</p>',
    ]);
    expect(notes.map((n) => [n.code, n.file])).toEqual([['quiz-branches', 'test.xml']]);
  });
});

describe('Reading packages of QTI 1.2', () => {
  const asi = (ident: string) =>
    `<item ident="${ident}" title="${ident}"><presentation><material><mattext texttype="text/html">&lt;img src="img/log.png"&gt;</mattext></material><response_lid ident="R"><render_choice><response_label ident="A"><material><mattext>Ash</mattext></material></response_label><response_label ident="B"><material><mattext>Bog oak</mattext></material></response_label></render_choice></response_lid></presentation><resprocessing><outcomes><decvar varname="SCORE" maxvalue="2"/></outcomes><respcondition><conditionvar><varequal respident="R">A</varequal></conditionvar><setvar varname="SCORE" action="Set">2</setvar></respcondition></resprocessing></item>`;
  const part = (ident: string, number: string, ...items: string[]) =>
    `<section ident="${ident}" title="Part ${ident}">${number && `<selection_ordering><selection><selection_number>${number}</selection_number></selection></selection_ordering>`}${items.map(asi).join('')}</section>`;

  it('take a section of whose own questions some are drawn for a bank, wherever it stands', async () => {
    const files = {
      'imsmanifest.xml':
        '<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="M"><metadata/><organizations/><resources><resource identifier="r" type="imsqti_xmlv1p2" href="qti/t.xml"><file href="qti/t.xml"/></resource></resources></manifest>',
      'qti/t.xml': `<questestinterop><assessment ident="T" title="Timber"><section ident="root">${part('own', '', 'one')}${part('few', '1', 'two', 'three')}${part('all', '2', 'four', 'five')}</section></assessment></questestinterop>`,
      'qti/img/log.png': 'png',
    };
    const source = await packageOf(files);
    const { course } = await readQtiPackage(source);
    const quiz = quizIn(course);
    expect(quiz?.questions.map((q) => q.id)).toEqual(['one', 'four', 'five']);
    expect(quiz && drawsOf(quiz)).toEqual([{ bank: 'T-few', number: 1 }]);
    const [bank] = banksIn(course);
    expect([bank?.title, bank?.questions.map((q) => q.id)]).toEqual(['Part few', ['two', 'three']]);
    const twice = await packageOf({
      ...files,
      'qti/t.xml': files['qti/t.xml'].replace('</assessment>', `${part('few', '1', 'six', 'seven')}</assessment>`),
    });
    const ids = (await readQtiPackage(twice)).course.items.map((i) => i.id);
    expect([new Set(ids).size, ids.length]).toEqual([3, 3]);
    expect(bank?.questions[0]?.prompt.text).toContain('src="qti/img/log.png"');
    const { links } = await survey(source, course, { engine: nodeEngine });
    expect([links.length, links.filter((l) => l.state === 'broken')]).toEqual([5, []]);
  });
});

describe('Reading a cartridge', () => {
  it('takes a section of whose own questions some are drawn for a bank', async () => {
    const question = (ident: string) =>
      `<item ident="${ident}"><itemmetadata><qtimetadata><qtimetadatafield><fieldlabel>cc_profile</fieldlabel><fieldentry>cc.essay.v0p1</fieldentry></qtimetadatafield></qtimetadata></itemmetadata><presentation><material><mattext texttype="text/html">Why?</mattext></material><response_str ident="R"><render_fib/></response_str></presentation></item>`;
    const pkg = await packageOf(
      cartridge({
        resources:
          '<resource identifier="quiz" type="imsqti_xmlv1p2/imscc_xmlv1p1/assessment"><file href="q/quiz.xml"/></resource>',
        files: {
          'q/quiz.xml': `<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2"><assessment ident="A" title="Timber"><section ident="root">${question('one')}<section ident="few"><selection_ordering><selection><selection_number>1</selection_number></selection></selection_ordering>${question('two')}${question('three')}</section></section></assessment></questestinterop>`,
        },
      }),
    );
    const { course } = await readCourse(pkg);
    const quiz = quizIn(course);
    expect([quiz?.id, quiz?.questions.map((q) => q.id), quiz && drawsOf(quiz)]).toEqual([
      'quiz',
      ['one'],
      [{ bank: 'quiz-few', number: 1 }],
    ]);
    expect(banksIn(course).map((b) => [b.id, b.title, b.questions.length])).toEqual([
      ['quiz-few', 'Questions of Timber', 2],
    ]);
  });
});
