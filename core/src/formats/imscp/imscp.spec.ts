import { walkOutline } from '../../model/index.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import { readCourse } from '../index.ts';

const page = (title: string) => `<html><head><title>${title}</title></head><body>${title}</body></html>`;
const outlineOf = async (files: Files) => {
  const { course, notes } = await readCourse(await packageOf(files));
  return {
    course,
    rows: [...walkOutline(course.outline)].map(
      ({ node, depth }) => `${depth} ${node.title}${node.item ? ` (${node.item})` : ''}`,
    ),
    codes: notes.map((n) => n.code),
  };
};
const manifest = (inside: string, more = '') =>
  `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_rootv1p2"${more}>${inside}</manifest>`;

describe('Reading Content Packaging', () => {
  it('finds files by the bases of manifest, resources and resource', async () => {
    const { course, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        '<organizations><organization identifier="o"><item identifier="i" identifierref="r"><title>One</title></item></organization></organizations><resources xml:base="b/"><resource identifier="r" type="webcontent" xml:base="c/" href="x%20y.html"><file href="x%20y.html"/></resource></resources>',
        ' xml:base="a/"',
      ),
      'a/b/c/x y.html': page('One'),
    });
    expect(codes).toEqual([]);
    expect(course.items.map((i) => [i.kind, i.place])).toEqual([['page', 'a/b/c/x y.html']]);
  });

  it('reads sub-manifests in their place, and one that is part of itself once', async () => {
    const { rows, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        `<organizations><organization identifier="o"><item identifier="i" identifierref="sub"><title>Unit</title></item></organization></organizations><resources/>
        <manifest identifier="sub"><organizations><organization identifier="o2"><item identifier="j" identifierref="r"><title>Inside</title></item><item identifier="k" identifierref="sub"><title>Again</title></item></organization></organizations><resources><resource identifier="r" type="webcontent" href="p.html"><file href="p.html"/></resource></resources></manifest>`,
      ),
      'p.html': page('Inside'),
    });
    expect(rows).toEqual(['0 Unit', '1 Inside (r)', '1 Again']);
    expect(codes).toEqual(['manifest-circular']);
  });

  it('reads every organization: the default as the course, the others as folders', async () => {
    const organization = (id: string, title: string) =>
      `<organization identifier="${id}"><title>${title}</title><item identifier="i${id}" identifierref="r"><title>Page of ${title}</title></item></organization>`;
    const { rows, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        `<organizations default="b">${organization('a', 'First')}${organization('b', 'Second')}</organizations><resources><resource identifier="r" type="webcontent" href="p.html"><file href="p.html"/></resource></resources>`,
      ),
      'p.html': page('P'),
    });
    expect(rows).toEqual(['0 Page of Second (r)', '0 First', '1 Page of First (r)']);
    expect(codes).toEqual(['several-outlines']);
  });

  it('reads what SCORM 1.2 says of an entry', async () => {
    const { course } = await outlineOf({
      'imsmanifest.xml': manifest(
        '<metadata><schema>ADL SCORM</schema><schemaversion>1.2</schemaversion></metadata><organizations default="o"><organization identifier="o"><item identifier="i" identifierref="r" isvisible="false" parameters="?n=1"><title>Test</title><adlcp:prerequisites type="aicc_script">a&amp;b</adlcp:prerequisites><adlcp:maxtimeallowed>0000:30:00</adlcp:maxtimeallowed><adlcp:datafromlms>seed=7</adlcp:datafromlms><adlcp:masteryscore>80</adlcp:masteryscore></item></organization></organizations><resources><resource identifier="r" type="webcontent" adlcp:scormtype="sco" href="p.html"><file href="p.html"/></resource></resources>',
      ),
      'p.html': page('P'),
    });
    expect(course.origin).toEqual({ format: 'scorm12', version: '1.2', untouched: true });
    expect(course.items[0]?.settings).toEqual({
      tracked: true,
      prerequisites: 'a&b',
      masteryScore: 80,
      launchData: 'seed=7',
      timeAllowed: '0000:30:00',
      hidden: true,
      parameters: '?n=1',
    });
  });

  it('takes a resource elsewhere for a link, and keeps foreign ones', async () => {
    const { course, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        '<organizations><organization identifier="o"><item identifier="i" identifierref="l"><title>Far</title></item></organization></organizations><resources><resource identifier="l" type="webcontent" href="https://x.example/a?b=1&amp;c=2"/><resource identifier="f" type="thing/v1"><file href="t.bin"/></resource></resources>',
      ),
      't.bin': 'x',
    });
    expect(course.items.map((i) => [i.kind, i.kind === 'link' ? i.url : i.title])).toEqual([
      ['link', 'https://x.example/a?b=1&c=2'],
      ['foreign', 'f'],
    ]);
    expect(codes).toEqual(['foreign-part']);
  });
});
