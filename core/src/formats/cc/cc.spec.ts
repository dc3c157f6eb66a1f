import { bytesSource, openPackage } from '../../container/index.ts';
import { subjects } from '../../model/index.ts';
import { cartridge, foreignZipOf, packageOf } from '../../testing/packages.ts';
import { readCourse } from '../index.ts';

async function refusal(work: Promise<unknown>): Promise<string> {
  try {
    await work;
  } catch (error) {
    return (error as { problem?: { code?: string } }).problem?.code ?? String(error);
  }
  return 'read';
}

describe('Reading what is wrong', () => {
  const read = async (files: Record<string, string | Uint8Array>) => readCourse(await packageOf(files));

  it('refuses a zip without a manifest', async () => {
    expect(await refusal(read({ 'a.txt': 'x' }))).toBe('no-manifest');
  });

  it('refuses a manifest that is not XML, and says the line', async () => {
    try {
      await read({ 'imsmanifest.xml': '<manifest>\n<resources>\n</manifest>' });
      fail('it was read');
    } catch (error) {
      const { problem } = error as { problem: { code: string; line?: number; file?: string } };
      expect(problem.code).toBe('xml-malformed');
      expect(problem.line).toBe(3);
      expect(problem.file).toBe('imsmanifest.xml');
    }
  });

  it('refuses an entity bomb', async () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><manifest>&b;</manifest>`;
    expect(await refusal(read({ 'imsmanifest.xml': bomb }))).toBe('xml-entities');
  });

  it('refuses an entity that nobody declared, and one that names a file', async () => {
    expect(await refusal(read({ 'imsmanifest.xml': '<manifest>&nothing;</manifest>' }))).toBe('xml-malformed');
    const outside = `<!DOCTYPE m [<!ENTITY f SYSTEM "file:///etc/passwd">]><manifest>&f;</manifest>`;
    expect(await refusal(read({ 'imsmanifest.xml': outside }))).toBe('xml-entities');
  });

  it('refuses XML that nests without end', async () => {
    expect(await refusal(read({ 'imsmanifest.xml': '<a>'.repeat(100_000) }))).toBe('xml-depth');
  });

  it('refuses a manifest of another standard', async () => {
    expect(await refusal(read({ 'imsmanifest.xml': '<manifest xmlns="urn:other"/>' }))).toBe('not-a-package');
  });

  it('reports a file that the manifest names and that is not there, and reads the rest', async () => {
    const { course, notes } = await read(
      cartridge({
        resources: '<resource identifier="r2" type="webcontent" href="gone.pdf"><file href="gone.pdf"/></resource>',
      }),
    );
    expect(notes.map((n) => [n.code, n.item, n.line])).toEqual([['file-missing', 'r2', 7]]);
    expect(course.items.map((i) => i.title)).toEqual(['First page']);
  });

  it('reports an outline entry without a resource, and a definition that can not be read, and reads the rest', async () => {
    const { course, notes } = await read(
      cartridge({
        items:
          '<item identifier="i2" identifierref="nowhere"><title>Lost</title></item><item identifier="i3" identifierref="r3"><title>Spoiled</title></item>',
        resources: '<resource identifier="r3" type="imswl_xmlv1p1"><file href="l.xml"/></resource>',
        files: { 'l.xml': '<webLink><title>x' },
      }),
    );
    expect(notes.map((n) => n.code)).toEqual(['resource-missing', 'xml-malformed']);
    expect(subjects(course).map((s) => [s.kind, s.title])).toEqual([
      ['page', 'First page'],
      ['foreign', 'Spoiled'],
    ]);
  });

  it('keeps what it does not understand as foreign', async () => {
    const { course, notes } = await read(
      cartridge({
        resources: '<resource identifier="r9" type="x/thing"><file href="thing.bin"/></resource>',
        files: { 'thing.bin': 'bytes' },
      }),
    );
    expect(notes.map((n) => n.code)).toEqual(['foreign-part']);
    const found = course.items.find((i) => i.id === 'r9');
    expect(found?.kind === 'foreign' && [found.type, found.files]).toEqual(['x/thing', ['thing.bin']]);
  });

  it('reads UTF-16 and names that differ in case or are percent-encoded', async () => {
    const files = cartridge({
      resources:
        '<resource identifier="r2" type="webcontent" href="My%20File.PDF"><file href="My%20File.PDF"/></resource>',
      items: '<item identifier="i2" identifierref="r2"><title>Łódź</title></item>',
      files: { 'my file.pdf': 'x' },
    });
    const text = String(files['imsmanifest.xml']).replace('UTF-8', 'UTF-16');
    const utf16 = Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]);
    const { course, notes } = await read({ ...files, 'imsmanifest.xml': utf16 });
    expect(course.items.map((i) => i.title)).toEqual(['First page', 'Łódź']);
    expect(notes.every((n) => n.code === 'name-case')).toBeTrue();
  });

  it('reads what another zip program wrote, with data descriptors, stored or deflated', async () => {
    for (const compress of [true, false]) {
      const pkg = await openPackage(bytesSource(await foreignZipOf(cartridge(), compress)));
      expect((await readCourse(pkg)).course.items.length).toBe(1);
    }
  });
});

describe('Reading what cartridges ask for', () => {
  it('says that a key is asked for, and carries the demand', async () => {
    const files = cartridge();
    const locked = String(files['imsmanifest.xml']).replace(
      '</manifest>',
      '<authorizations access="cartridge" import="false"><authorization><cartridgeId>x</cartridgeId></authorization></authorizations></manifest>',
    );
    const { notes } = await readCourse(await packageOf({ ...files, 'imsmanifest.xml': locked }));
    expect(notes.map((n) => [n.code, n.message])).toEqual([
      ['protected', 'The whole cartridge asks for an authorization.'],
    ]);
  });

  it('has what belongs to another resource for an item where its author put it into the outline', async () => {
    const type = 'associatedcontent/imscc_xmlv1p1/learning-application-resource';
    const { course } = await readCourse(
      await packageOf(
        cartridge({
          resources: ['sheet', 'hidden']
            .map((n) => `<resource identifier="${n}" type="${type}" href="${n}.pdf"><file href="${n}.pdf"/></resource>`)
            .join(''),
          items: '<item identifier="i" identifierref="sheet"><title>The sheet</title></item>',
          files: { 'sheet.pdf': 'x', 'hidden.pdf': 'y' },
        }),
      ),
    );
    expect(course.items.filter((i) => i.kind === 'file').map((i) => [i.id, i.title])).toEqual([['sheet', 'The sheet']]);
    expect(course.files.map((f) => f.path)).toContain('hidden.pdf');
  });

  it('reads a thin cartridge', async () => {
    const files = cartridge({ version: '1.3' });
    const thin = String(files['imsmanifest.xml']).replace('IMS Common Cartridge', 'IMS Thin Common Cartridge');
    const { course } = await readCourse(await packageOf({ ...files, 'imsmanifest.xml': thin }));
    expect([course.origin.format, course.origin.version]).toEqual(['cc', '1.3']);
  });
});

describe('What a cartridge says of its resources', () => {
  it('is read: roles, description, curriculum standards, variants', async () => {
    const said = `<resource identifier="r2" type="webcontent" href="b.html"><metadata><lom:lom xmlns:lom="http://ltsc.ieee.org/xsd/imsccv1p2/LOM/resource"><lom:general><lom:description><lom:string>About tides</lom:string></lom:description><lom:keyword><lom:string>tide</lom:string></lom:keyword></lom:general><lom:educational><lom:intendedEndUserRole><lom:value>Instructor</lom:value></lom:intendedEndUserRole></lom:educational></lom:lom>
<csm:curriculumStandardsMetadataSet xmlns:csm="http://www.imsglobal.org/xsd/imscsmd_v1p0"><csm:curriculumStandardsMetadata providerId="p"><csm:setOfGUIDs><csm:labelledGUID><csm:label>Reads a tide table</csm:label><csm:GUID>g-1</csm:GUID></csm:labelledGUID></csm:setOfGUIDs></csm:curriculumStandardsMetadata></csm:curriculumStandardsMetadataSet></metadata><file href="b.html"/><cpx:variant xmlns:cpx="http://www.imsglobal.org/xsd/imscp_extensionv1p2" identifier="v" identifierref="r1"/></resource>`;
    const items = '<item identifier="i2" identifierref="r2"><title>Tides</title></item>';
    const { course } = await readCourse(
      await packageOf(cartridge({ version: '1.2', resources: said, items, files: { 'b.html': '<p>x</p>' } })),
    );
    expect(course.items.find((i) => i.id === 'r2')?.settings).toEqual({
      audience: 'Instructor',
      description: 'About tides',
      keywords: ['tide'],
      standards: { 'g-1': 'Reads a tide table' },
      variants: ['r1'],
    });
  });

  it('includes quizzes that draw from banks, by whatever the bank is called', async () => {
    const asi = (inside: string) =>
      `<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2">${inside}</questestinterop>`;
    const resources = `<resource identifier="quiz" type="imsqti_xmlv1p2/imscc_xmlv1p1/assessment"><file href="quiz.xml"/></resource><resource identifier="bank" type="imsqti_xmlv1p2/imscc_xmlv1p1/question-bank"><file href="bank.xml"/></resource>`;
    const { course } = await readCourse(
      await packageOf(
        cartridge({
          resources,
          files: {
            'quiz.xml': asi(
              '<assessment ident="a" title="Drawn"><section ident="s"><selection_ordering><selection><sourcebank_ref>ident-of-the-bank</sourcebank_ref><selection_number>2</selection_number></selection></selection_ordering></section></assessment>',
            ),
            'bank.xml': asi('<objectbank ident="ident-of-the-bank"/>'),
          },
        }),
      ),
    );
    const quiz = course.items.find((i) => i.kind === 'quiz');
    expect(quiz?.settings).toEqual({ draws: { bank: '2' } });
  });
});
