import { parseXml } from '../../markup/index.ts';
import { Lom, openSettingWords, settingWords } from '../../model/index.ts';
import { WHOLE_LOM } from '../../testing/metadata.ts';
import { packageOf } from '../../testing/packages.ts';
import { readCourse } from '../index.ts';
import { beyond, metadataOf, readLom, settingsOfLom } from './read.ts';
import { writeLom } from './write.ts';

const lom = (inside: string) => parseXml(`<lom xmlns="http://ltsc.ieee.org/xsd/LOM">${inside}</lom>`, 'lom.xml');
const string = (text: string, language = 'en') => `<string language="${language}">${text}</string>`;

describe('Metadata of LOM', () => {
  it('are written as they were read, all nine categories of them', () => {
    expect(readLom(parseXml(writeLom(WHOLE_LOM, 'x:', { 'xmlns:x': 'urn:x' }), 'lom.xml'))).toEqual(WHOLE_LOM);
    expect(Object.keys(WHOLE_LOM).length).toBe(Object.keys(Lom.shape).length);
  });

  it('are read in the spelling of IMS Meta-Data 1.2.1 as in that of IEEE', () => {
    const old = `<record xmlns="http://www.imsglobal.org/xsd/imsmd_v1p2">
      <general><title><langstring xml:lang="en">Knots</langstring><langstring xml:lang="pl">Węzły</langstring></title>
        <catalogentry><catalog>ISBN</catalog><entry><langstring>0-11</langstring></entry></catalogentry><language>en</language><language>pl</language></general>
      <lifecycle><contribute><role><source><langstring>LOMv1.0</langstring></source><value><langstring>Author</langstring></value></role>
        <centity><vcard>BEGIN:VCARD\nFN:Mabli Tarrow\nEND:VCARD</vcard></centity><date><datetime>2026-09-01</datetime></date></contribute></lifecycle>
      <technical><duration><datetime>PT2H</datetime></duration></technical>
      <educational><typicallearningtime><datetime>P1D</datetime></typicallearningtime></educational>
      <classification><purpose><value><langstring>Discipline</langstring></value></purpose><taxonpath><source><langstring>Ours</langstring></source><taxon><id>5</id><entry><langstring>Crafts</langstring></entry></taxon></taxonpath></classification></record>`;
    expect(readLom(parseXml(old, 'old.xml')) as unknown).toEqual({
      general: {
        identifier: [{ catalog: 'ISBN', entry: '0-11' }],
        title: [
          { text: 'Knots', language: 'en' },
          { text: 'Węzły', language: 'pl' },
        ],
        language: ['en', 'pl'],
      },
      lifeCycle: {
        contribute: [
          { role: { value: 'Author' }, entity: ['BEGIN:VCARD\nFN:Mabli Tarrow\nEND:VCARD'], date: '2026-09-01' },
        ],
      },
      technical: { duration: 'PT2H' },
      educational: [{ typicalLearningTime: 'P1D' }],
      classification: [
        {
          purpose: { value: 'Discipline' },
          taxonPath: [{ source: [{ text: 'Ours' }], taxon: [{ id: '5', entry: [{ text: 'Crafts' }] }] }],
        },
      ],
    });
  });

  it('that the plain ones say already are not said twice, and nothing else is left out', () => {
    const plain = readLom(
      lom(
        `<general><identifier><catalog>course</catalog><entry>RIG 140</entry></identifier><title>${string('Knots')}</title><language>en</language><description>${string('Ropes')}</description><keyword>${string('hemp')}</keyword></general><rights><description>${string('Share')}</description></rights>`,
      ),
    );
    expect(metadataOf(plain)).toEqual({
      keywords: ['hemp'],
      description: 'Ropes',
      rights: 'Share',
      language: 'en',
      catalogEntry: 'RIG 140',
    });
    expect(beyond(plain, { roles: 'kept' })).toEqual({});
    const more = readLom(
      lom(
        `<general><description>${string('Ropes')}${string('Liny', 'pl')}</description></general><rights><cost><value>no</value></cost></rights>`,
      ),
    );
    expect(beyond(more, { roles: 'kept' }).lom).toEqual(more);
  });

  it('of an item are its settings, and what is beyond them', () => {
    const said = settingsOfLom(
      lom(
        `<general><title>${string('Whipping')}</title><description>${string('An end')}</description></general><educational><intendedEndUserRole><value>learner</value></intendedEndUserRole><difficulty><value>easy</value></difficulty></educational><rights><description>${string('Ask')}</description></rights>`,
      ),
      { title: 'Whipping', language: 'en' },
    );
    expect(said as unknown).toEqual({
      audience: 'learner',
      description: 'An end',
      lom: {
        educational: [{ difficulty: { value: 'easy' } }],
        rights: { description: [{ text: 'Ask', language: 'en' }] },
      },
    });
  });

  it('are told in words', () => {
    expect(openSettingWords('lom', WHOLE_LOM)).toBe(
      'author Mabli Tarrow; version 2; final; languages ga; cost no; discipline Crafts; ispartof https://x.example/; lecture; technical requirements; 1 annotation',
    );
    expect(settingWords('fileLom', { 'a.pdf': WHOLE_LOM })).toBe('1 file');
  });

  it('are read of a course, its folders and its files where a manifest has them', async () => {
    const author = (name: string) =>
      `<metadata><lom xmlns="http://ltsc.ieee.org/xsd/LOM"><lifeCycle><contribute><entity>${name}</entity></contribute></lifeCycle></lom></metadata>`;
    const { course } = await readCourse(
      await packageOf({
        'imsmanifest.xml': `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1">${author('Of all')}
        <organizations default="o"><organization identifier="o"><title>Course</title>
        <item identifier="f"><title>Part</title><item identifier="i" identifierref="r"><title>First</title></item>${author('Of the part')}</item></organization></organizations>
        <resources><resource identifier="r" type="webcontent" href="p.html">${author('Of the page')}<file href="p.html">${author('Of the file')}</file></resource></resources></manifest>`,
        'p.html': '<p>P</p>',
      }),
    );
    const by = (name: string) => ({ lifeCycle: { contribute: [{ entity: [name] }] } });
    expect(course.settings as unknown).toEqual({ lom: by('Of all'), fileLom: { 'p.html': by('Of the file') } });
    expect(course.outline[0]?.settings as unknown).toEqual({ lom: by('Of the part') });
    expect(course.items[0]?.settings as unknown).toEqual({ lom: by('Of the page') });
  });
});
