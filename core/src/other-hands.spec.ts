import { bytesSource, openPackage } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { declaredLosses } from './fit/index.ts';
import { planPackage, readCourse, targetById, writePackage } from './formats/index.ts';
import { survey } from './inspect/index.ts';
import { decodeText } from './markup/index.ts';
import { holdsQuestions, judge, partsOf, type Question } from './model/index.ts';
import { asiItem, asiPackage, is, lid, rules, str, when } from './testing/other-hands/asi.ts';
import { memorySink, packageOf, type Files } from './testing/packages.ts';

/** Packages as the standards allow them, made by another hand than that of Treenail's writers. */

async function questionsIn(files: Files): Promise<Question[]> {
  const { course } = await readCourse(await packageOf(files));
  return course.items.flatMap((i) => (holdsQuestions(i) ? i.questions : []));
}

/** What answers earn by the key that was read. */
async function points(item: string, ...answers: string[][]): Promise<(number | null)[]> {
  const [question] = await questionsIn(asiPackage(item));
  if (!question) throw new Error('no question was read');
  expect(question.scoredOtherwise).toBeUndefined();
  return answers.map((values) => judge(question, { values }));
}

describe('QTI 1.2 by another hand is judged as it says', () => {
  it('by a variable of any name', async () => {
    const item = asiItem('q', {
      presentation: lid('Single', 'Ebb', 'Flood', 'Slack'),
      processing: rules('que_score', when(is('B'), 'que_score', 'Set', 4)),
    });
    expect(await points(item, ['A'], ['B'], ['C'], [])).toEqual([0, 4, 0, 0]);
  });

  it('where wrong choices take away', async () => {
    const item = asiItem('q', {
      presentation: lid('Multiple', 'Oak', 'Larch', 'Balsa'),
      processing: rules(
        'SCORE',
        when(is('A'), 'SCORE', 'Add', 2),
        when(is('B'), 'SCORE', 'Add', 1),
        when(is('C'), 'SCORE', 'Subtract', 2),
      ),
    });
    expect(await points(item, ['A', 'B'], ['A'], ['A', 'C'], ['C'], [])).toEqual([3, 2, 0, -2, 0]);
  });

  it('where something is not to be chosen', async () => {
    const item = asiItem('q', {
      presentation: lid('Multiple', 'Oak', 'Larch', 'Balsa'),
      processing: rules('SCORE', when(`${is('A')}${is('B')}<not>${is('C')}</not>`, 'SCORE', 'Set', 3, 'No')),
    });
    expect(await points(item, ['A', 'B'], ['A', 'B', 'C'], ['A'], ['C'])).toEqual([3, 0, 0, 0]);
  });

  it('where every answer of a list is right', async () => {
    const item = asiItem('q', {
      presentation: str,
      processing: rules('SCORE', when('<varsubset respident="R">bowline,sheet bend</varsubset>', 'SCORE', 'Set', 1)),
    });
    expect(await points(item, ['bowline'], ['Sheet Bend'], ['granny'])).toEqual([1, 1, 0]);
  });

  it('in all its blocks', async () => {
    const item = asiItem('q', {
      presentation: lid('Single', 'Ebb', 'Flood', 'Slack'),
      processing: rules('SCORE', when(is('A'), 'SCORE', 'Add', 1)) + rules('SCORE', when(is('B'), 'SCORE', 'Add', 2)),
    });
    expect(await points(item, ['A'], ['B'], ['C'])).toEqual([1, 2, 0]);
  });

  it('with the first rule that holds, where it does not go on', async () => {
    const item = asiItem('q', {
      presentation: str,
      processing: rules(
        'SCORE',
        when('<varequal respident="R" case="Yes">Tide</varequal>', 'SCORE', 'Set', 2, 'No'),
        when('<varequal respident="R">tide</varequal>', 'SCORE', 'Set', 1, 'No'),
      ),
    });
    expect(await points(item, ['Tide'], ['tide'], ['TIDE'], ['ebb'])).toEqual([2, 1, 1, 0]);
  });

  it('and where the key can not say it, the answer that shows it is told', async () => {
    const item = asiItem('q', {
      presentation: lid('Multiple', 'Oak', 'Larch', 'Balsa'),
      // Either of two, but not both.
      processing: rules(
        'SCORE',
        when(`<or>${is('A')}${is('B')}</or><not><and>${is('A')}${is('B')}</and></not>`, 'SCORE', 'Set', 1, 'No'),
      ),
    });
    const [question] = await questionsIn(asiPackage(item));
    expect(question?.scoredOtherwise).toBeDefined();
    const notes = (await readCourse(await packageOf(asiPackage(item)))).course;
    expect(notes.items.length).toBe(1);
  });

  it('keeps what is emphasised, heard and seen, and tells what else is material', async () => {
    const material =
      '<material><matemtext>Listen</matemtext><matbreak/><mataudio uri="bell.ogg" audiotype="audio/ogg"/><matvideo uri="tide.webm"/></material><material_ref linkrefid="elsewhere"/>';
    const item = asiItem('q', {
      presentation: material + lid('Single', 'Ebb', 'Flood'),
      processing: rules('SCORE', when(is('A'), 'SCORE', 'Set', 1)),
      more: '<rubric view="Candidate"><material><mattext>Read twice.</mattext></material></rubric>',
    });
    const { course } = await readCourse(await packageOf(asiPackage(item)));
    const bank = course.items[0];
    const prompt = bank?.kind === 'bank' ? (bank.questions[0]?.prompt.text ?? '') : '';
    for (const part of [
      '<em>Listen</em>',
      '<br>',
      '<audio controls src="bell.ogg">',
      '<video controls src="tide.webm">',
    ])
      expect(prompt).toContain(part);
    expect(bank?.settings.unread?.map((u) => u.name)).toEqual(
      jasmine.arrayContaining(['material_ref', 'rubric', 'mataudio@audiotype']),
    );
  });

  it('marks the place of a picture that its key names by its corners', async () => {
    const item = asiItem('q', {
      presentation: `<response_xy ident="R" rcardinality="Single"><render_hotspot><material><matimage uri="hull.png" width="100" height="80"/></material><response_label ident="bow" rarea="Rectangle">0,0,20,20</response_label><response_label ident="stern" rarea="Rectangle">80,0,100,20</response_label></render_hotspot></response_xy>`,
      processing: rules(
        'SCORE',
        when('<varinside respident="R" areatype="Rectangle">80,0,100,20</varinside>', 'SCORE', 'Set', 1),
      ),
    });
    const [question] = await questionsIn({ ...asiPackage(item), 'yard/hull.png': 'P' });
    const { areas, image } = question ? partsOf(question) : { areas: [], image: null };
    expect(areas.map((a) => [a.id, a.correct])).toEqual([
      ['bow', false],
      ['stern', true],
    ]);
    expect(image?.file).toBe('yard/hull.png');
  });
});

describe('A cartridge by another hand', () => {
  const cartridge = (resources: string, files: Files = {}): Files => ({
    'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1" identifier="m"><metadata><schema>IMS Common Cartridge</schema><schemaversion>1.3.0</schemaversion></metadata><organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="r"><item identifier="i" identifierref="a"><title>Scarf a plank</title></item></item></organization></organizations><resources>${resources}</resources></manifest>`,
    ...files,
  });
  const task = (inside: string) =>
    cartridge(
      '<resource identifier="a" type="assignment_xmlv1p0"><file href="a/a.xml"/></resource><resource identifier="f" type="webcontent" href="a/key.pdf"><file href="a/key.pdf"/></resource><resource identifier="g" type="webcontent" href="a/plan.pdf"><file href="a/plan.pdf"/></resource>',
      {
        'a/a.xml': `<assignment xmlns="http://www.imsglobal.org/xsd/imscc_extensions/assignment" identifier="x"><title>Scarf a plank</title><text texttype="text/html">&lt;p&gt;Do it.&lt;/p&gt;</text>${inside}</assignment>`,
        'a/key.pdf': 'the key',
        'a/plan.pdf': 'the plan',
      },
    );

  async function through(files: Files, id: string) {
    const source = await packageOf(files);
    const { course } = await readCourse(source);
    const sent = (await survey(source, course, { engine: nodeEngine })).course;
    const { format, target } = targetById(id);
    const sink = memorySink();
    const moved = { ...sent, origin: { ...sent.origin, untouched: false } };
    await writePackage(target, await planPackage(format, moved, target, source), source, sink, { engine: nodeEngine });
    const pkg = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
    const texts = new Map<string, string>();
    for (const path of pkg.entries.keys()) texts.set(path, decodeText(await pkg.bytes(path)));
    return { course, arrived: (await readCourse(pkg)).course, texts, lost: declaredLosses(moved, target.profile) };
  }

  it('shows nobody but instructors what is attached for them', async () => {
    const files = task(
      '<attachments><attachment href="plan.pdf" role="All"/><attachment href="key.pdf" role="Instructor"/></attachments>',
    );
    const kept = await through(files, 'cc13');
    const [item] = kept.arrived.items;
    expect([item?.settings.attachments, item?.settings.instructorAttachments]).toEqual([['a/plan.pdf'], ['a/key.pdf']]);
    for (const id of ['cc11', 'scorm12', 'scorm2004', 'cp', 'site']) {
      const { texts, lost } = await through(files, id);
      const pages = [...texts].filter(([path]) => path.endsWith('.html'));
      expect(pages.some(([, text]) => text.includes('plan.pdf')))
        .withContext(id)
        .toBeTrue();
      expect(pages.filter(([, text]) => text.includes('key.pdf')))
        .withContext(id)
        .toEqual([]);
      expect(lost.flatMap((l) => l.settings.filter((s) => s.outcome !== 'whole').map((s) => s.name)))
        .withContext(id)
        .toContain('instructorAttachments');
    }
  });

  it('keeps the mark-up of notes for instructors, and takes no points of a task that is not graded', async () => {
    const notes = await through(
      task(
        '<instructor_text texttype="text/html">&lt;ul&gt;&lt;li&gt;Look at the grain.&lt;/li&gt;&lt;/ul&gt;</instructor_text><gradable points_possible="20">false</gradable>',
      ),
      'cc13',
    );
    expect(notes.arrived.items[0]?.settings.instructorNotes).toBe('<ul><li>Look at the grain.</li></ul>');
    expect(notes.arrived.items[0]?.settings.points).toBeUndefined();
    const plain = await through(
      task('<instructor_text texttype="text/plain">5 &lt; 6 &amp; 7</instructor_text>'),
      'cc13',
    );
    expect(plain.arrived.items[0]?.settings.instructorNotes).toBe('5 &lt; 6 &amp; 7');
  });

  it('may define links and tools in its manifest', async () => {
    const link = cartridge(
      '<resource identifier="a" type="imswl_xmlv1p3"><webLink xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3"><title>Tables</title><url href="https://tables.example/tides" target="_blank"/></webLink></resource>',
    );
    expect((await readCourse(await packageOf(link))).course.items).toEqual([
      jasmine.objectContaining({ kind: 'link', title: 'Tables', url: 'https://tables.example/tides' }),
    ]);
    const tool = cartridge(
      '<resource identifier="a" type="imsbasiclti_xmlv1p3"><cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p3" xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0"><blti:title>Planner</blti:title><blti:launch_url>https://planner.example/go</blti:launch_url></cartridge_basiclti_link></resource>',
    );
    const { course } = await readCourse(await packageOf(tool));
    expect(course.items).toEqual([jasmine.objectContaining({ kind: 'tool', url: 'https://planner.example/go' })]);
    expect(course.settings?.unread).toBeUndefined();
  });
});

describe('A content package by another hand', () => {
  const files = (resources: string, items: string): Files => ({
    'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="m"><organizations default="o"><organization identifier="o"><title>Timber</title>${items}</organization></organizations><resources>${resources}</resources></manifest>`,
    'a.html': '<title>Oak</title><p>Oak</p>',
    'b.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>',
  });
  const entry = (id: string) => `<item identifier="i-${id}" identifierref="${id}"><title>${id}</title></item>`;

  it('calls its content by media types, and leads outside, in its outline or not', async () => {
    const { course, notes } = await readCourse(
      await packageOf(
        files(
          '<resource identifier="a" type="text/html" href="a.html"><file href="a.html"/></resource><resource identifier="b" type="image/svg+xml" href="b.svg"><file href="b.svg"/></resource><resource identifier="c" type="webcontent" href="https://tides.example/tables"/><resource identifier="d" type="webcontent" href="https://tides.example/more"/>',
          entry('a') + entry('b') + entry('c'),
        ),
      ),
    );
    expect(notes).toEqual([]);
    expect(course.items.map((i) => [i.id, i.kind])).toEqual([
      ['a', 'page'],
      ['b', 'file'],
      ['c', 'link'],
      ['d', 'link'],
    ]);
  });
});

describe('Names by another hand', () => {
  it('are found however their letters are composed, encoded, cased or parted', async () => {
    const composed = 'media/Łódź é.html'.normalize('NFC');
    const manifest = (href: string) =>
      `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="m"><organizations default="o"><organization identifier="o"><title>T</title><item identifier="i" identifierref="a"><title>A</title></item></organization></organizations><resources><resource identifier="a" type="webcontent" href="${href}"><file href="${href}"/></resource></resources></manifest>`;
    for (const href of [
      composed,
      composed.normalize('NFD'),
      encodeURI(composed),
      encodeURI(composed.normalize('NFD')),
      composed.replace('/', '\\'),
      'Media%5C' + encodeURIComponent('Łódź é.html'),
    ]) {
      const { course, notes } = await readCourse(
        await packageOf({ 'imsmanifest.xml': manifest(href), [composed]: '<p>x</p>' }),
      );
      expect(course.items.map((i) => i.kind === 'page' && i.file))
        .withContext(href)
        .toEqual([composed]);
      expect(notes.map((n) => n.code))
        .withContext(href)
        .not.toContain('file-missing');
    }
  });
});

describe('What gives its answer away', () => {
  const item = (body: string, key: string) => ({
    'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="m"><organizations/><resources><resource identifier="q" type="imsqti_item_xmlv2p1" href="q.xml"><file href="q.xml"/></resource></resources></manifest>`,
    'q.xml': `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="q" title="Q" adaptive="false" timeDependent="false">${key}<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/><itemBody>${body}</itemBody><responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/match_correct"/></assessmentItem>`,
  });
  const key = (cardinality: string, ...values: string[]) =>
    `<responseDeclaration identifier="RESPONSE" cardinality="${cardinality}" baseType="identifier"><correctResponse>${values.map((v) => `<value>${v}</value>`).join('')}</correctResponse></responseDeclaration>`;
  const choice = (id: string) => `<simpleChoice identifier="${id}">${id}</simpleChoice>`;

  it('is not shown with the question: what is said once it is answered, or to those who mark', async () => {
    const [question] = await questionsIn(
      item(
        `<p>Which?</p><feedbackBlock outcomeIdentifier="F" identifier="right" showHide="show"><p>It is A.</p></feedbackBlock><rubricBlock view="scorer"><p>A, of course.</p></rubricBlock><choiceInteraction responseIdentifier="RESPONSE" shuffle="false" maxChoices="1">${choice('A')}${choice('B')}</choiceInteraction>`,
        key('single', 'A'),
      ),
    );
    expect(question?.prompt.text).toBe('<p>Which?</p>');
  });

  it('is mixed: what is to be put in order and stands in it', async () => {
    const order = (...ids: string[]) =>
      `<orderInteraction responseIdentifier="RESPONSE" shuffle="false">${ids.map(choice).join('')}</orderInteraction>`;
    const [given] = await questionsIn(item(order('A', 'B', 'C'), key('ordered', 'A', 'B', 'C')));
    expect(given?.shuffled).toBeTrue();
    const [mixed] = await questionsIn(item(order('B', 'A', 'C'), key('ordered', 'A', 'B', 'C')));
    expect(mixed?.shuffled).toBeUndefined();
  });
});
