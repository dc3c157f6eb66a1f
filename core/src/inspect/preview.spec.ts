import { nodeEngine } from '../container/node.ts';
import { packageOf, zipOf } from '../testing/packages.ts';
import { previewFile, previewItem } from './preview.ts';

describe('Previews', () => {
  it('show a page with its pictures written in, and without what runs', async () => {
    const pkg = await packageOf({
      'p/a.html':
        '<p>Text</p><img src="../x%20y.png" onerror="alert(1)" alt="plate"><script src="s.js">steal()</script>',
      'x y.png': 'PNG',
    });
    const shown = await previewFile(pkg, 'p/a.html', nodeEngine);
    if (shown.form !== 'page') throw new Error(shown.form);
    expect(shown.html).toContain('src="data:image/png;base64,UE5H"');
    expect(shown.html).toContain('alt="plate"');
    expect(shown.html).not.toContain('onerror');
    expect(shown.html).not.toContain('steal');
    expect(shown.html).toContain("default-src 'none'");
  });

  it('show the words of a text document and the rows of a sheet', async () => {
    const docx = await zipOf({
      'word/document.xml':
        '<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>First</w:t></w:r></w:p><w:p><w:r><w:t>Second</w:t></w:r></w:p></w:body></w:document>',
    });
    const xlsx = await zipOf({
      'xl/sharedStrings.xml': '<sst><si><t>Plank</t></si></sst>',
      'xl/worksheets/sheet1.xml':
        '<worksheet><sheetData><row><c t="s"><v>0</v></c><c><v>12</v></c></row></sheetData></worksheet>',
    });
    const pkg = await packageOf({ 'a.docx': docx, 'b.xlsx': xlsx, 'c.docx': 'not a document' });
    expect(await previewFile(pkg, 'a.docx', nodeEngine)).toEqual({ form: 'text', text: 'First\nSecond' });
    expect(await previewFile(pkg, 'b.xlsx', nodeEngine)).toEqual({ form: 'text', text: 'Plank\t12' });
    expect(await previewFile(pkg, 'c.docx', nodeEngine)).toEqual({
      form: 'text',
      text: 'The document can not be read: This is not a zip file.',
    });
  });

  it('show questions with their keys', async () => {
    const pkg = await packageOf({ x: '' });
    const text = (t: string) => ({ format: 'plain' as const, text: t });
    const shown = await previewItem(
      pkg,
      {
        kind: 'quiz',
        id: 'q',
        title: 'Quiz <1>',
        definitionPath: null,
        settings: {},
        questions: [
          {
            id: 'a',
            title: 'T',
            type: 'choice',
            prompt: text('Which?'),
            points: 1,
            choices: [{ id: '1', text: text('This'), correct: true }],
            feedback: { hint: text('Look') },
            asked: { by: ['slider'], range: { low: 0, high: 9, step: 3 } },
            files: [],
          },
          {
            id: 'b',
            title: 'Both',
            type: 'several parts',
            prompt: text('A joint'),
            points: 2,
            subquestions: [
              {
                id: 'w',
                title: '',
                type: 'short answer',
                prompt: text('Of which wood?'),
                points: 2,
                answers: [{ text: 'larch', caseSensitive: false, match: 'equal' }],
                feedback: {},
                files: [],
              },
            ],
            feedback: {},
            files: [],
          },
        ],
      },
      nodeEngine,
    );
    if (shown.form !== 'page') throw new Error(shown.form);
    expect(shown.html).toContain('Quiz &lt;1&gt;');
    expect(shown.html).toMatch(/This<\/p> <strong>right/);
    expect(shown.html).toContain(
      'choice, 1 point; in the source a number is set on a slider from 0 to 9 in steps of 3',
    );
    expect(shown.html).toContain('hint');
    expect(shown.html).toMatch(/A joint[\s\S]*2\.1[\s\S]*Of which wood[\s\S]*larch/);
  });
});
