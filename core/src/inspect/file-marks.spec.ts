import { portableEngine } from '../container/index.ts';
import { nodeEngine } from '../container/node.ts';
import { openPackage, bytesSource } from '../container/index.ts';
import { zipOf } from '../testing/packages.ts';
import { bytesForMarks, canStrip, marksOf, withoutMarks } from './file-marks.ts';
import { FINDING_SETTINGS } from './findings/index.ts';

const told = (path: string, bytes: Uint8Array, settings = FINDING_SETTINGS) =>
  marksOf(path, bytes, settings, nodeEngine);
const ascii = (text: string) => new Uint8Array(Buffer.from(text, 'latin1'));

const document = (author: string, changed: string) =>
  zipOf({
    'word/document.xml': '<w:document xmlns:w="w"><w:body/></w:document>',
    'docProps/core.xml': `<cp:coreProperties xmlns:cp="c" xmlns:dc="d"><dc:title>Kept</dc:title><dc:creator>${author}</dc:creator><cp:lastModifiedBy>${changed}</cp:lastModifiedBy></cp:coreProperties>`,
  });

/** A PNG with a text chunk (PNG third edition, 11.3.3). */
function png(author: string): Uint8Array {
  const chunk = (type: string, body: string) => {
    const bytes = Buffer.alloc(12 + body.length);
    bytes.writeUInt32BE(body.length, 0);
    bytes.write(type + body, 4, 'latin1');
    return bytes;
  };
  const head = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  const size = '\0\0\0\x01\0\0\0\x01\x08\0\0\0\0';
  return new Uint8Array(
    Buffer.concat([
      head,
      chunk('IHDR', size),
      chunk('tEXt', `Author\0${author}`),
      chunk('IDAT', 'x'),
      chunk('IEND', ''),
    ]),
  );
}

describe('What files tell of people', () => {
  it('is the author of a document and who changed it last, but not those who are nobody', async () => {
    const bytes = await document('M. Harbour', 'The College');
    expect(await told('a.docx', bytes)).toEqual(['author: M. Harbour', 'changed by: The College']);
    expect(await told('a.docx', bytes, { ...FINDING_SETTINGS, noPersons: ['the college'] })).toEqual([
      'author: M. Harbour',
    ]);
    expect(await told('a.xlsx', ascii('no zip'))).toEqual([]);
    expect(await told('a.pptx', await zipOf({ x: 'y' }))).toEqual([]);
  });

  it('is taken out of a document, and nothing else is', async () => {
    for (const engine of [nodeEngine, portableEngine]) {
      const after = await withoutMarks('a.docx', await document('M. Harbour', 'E. Quay'), engine);
      expect(await told('a.docx', after)).toEqual([]);
      const inner = await openPackage(bytesSource(after), { engine });
      const core = new TextDecoder().decode(await inner.bytes('docProps/core.xml'));
      expect(core).toContain('<dc:title>Kept</dc:title><dc:creator></dc:creator>');
      expect([...inner.entries.keys()]).toEqual(['word/document.xml', 'docProps/core.xml']);
    }
  });

  it('is the author of a PDF, in place or referred to, and is blanked without moving a byte', async () => {
    const one = ascii('%PDF-1.4\n<< /Author (M. \\(Mo\\) Harbour) /Title (x) >>');
    const two = ascii('%PDF-1.4\n<< /Author 7 0 R >>\n17 0 obj\n(not him)\nendobj\n7 0 obj\n(E. Quay)\nendobj');
    expect(await told('a.pdf', one)).toEqual(['author: M. \\(Mo\\) Harbour']);
    expect(await told('a.pdf', two)).toEqual(['author: E. Quay']);
    for (const bytes of [one, two]) {
      const after = await withoutMarks('a.pdf', bytes, nodeEngine);
      expect(after.length).toBe(bytes.length);
      expect(await told('a.pdf', after)).toEqual([]);
    }
    expect(Buffer.from(await withoutMarks('a.pdf', two, nodeEngine)).toString('latin1')).toContain('(not him)');
  });

  it('takes no time from a PDF that refers to authors without end', async () => {
    const many = Array.from({ length: 20_000 }, (_, i) => `/Author ${i} 0 R`).join('\n');
    expect(await told('a.pdf', ascii(`%PDF-1.4\n${many}`))).toEqual([]);
  });

  it('is the author of a picture, taken out with the chunk it stands in', async () => {
    const bytes = png('M. Harbour');
    expect(await told('a.png', bytes)).toEqual(['author: M. Harbour']);
    const after = await withoutMarks('a.png', bytes, nodeEngine);
    expect(await told('a.png', after)).toEqual([]);
    expect(Buffer.from(after).toString('latin1')).toContain('IDAT');
    expect(await told('a.jpg', ascii('no picture'))).toEqual([]);
    expect(await withoutMarks('a.jpg', ascii('no picture'), nodeEngine)).toEqual(ascii('no picture'));
  });

  it('is a table that names people more than once', async () => {
    const rows = 'number,mail\nM1234567,a@b.example\nM1234568,c@d.example\nM1234568,c@d.example';
    expect(await told('list.csv', ascii(rows))).toEqual(['people: 2 mail addresses', 'people: 2 student numbers']);
    expect(await told('list.csv', ascii('ask a@b.example, a@b.example'))).toEqual([]);
  });

  it('is looked for where it can stand, and no more is read than is needed', () => {
    expect(bytesForMarks('a.JPG', 50e6)).toBe(256 * 1024);
    expect(bytesForMarks('a.docx', 1000)).toBe(1000);
    expect(bytesForMarks('a.docx', 50e6)).toBe(0);
    expect(bytesForMarks('a.mp4', 1000)).toBe(0);
    expect(['a.docx', 'a.png', 'a.jpeg', 'a.pdf', 'a.webp', 'a.csv'].map(canStrip)).toEqual([
      true,
      true,
      true,
      true,
      false,
      false,
    ]);
  });
});
