import { compare } from '../compare/index.ts';
import { forecast } from '../fit/index.ts';
import type { Course } from '../model/index.ts';
import { reportToCsv } from './csv.ts';
import { transferReport } from './transfer-report.ts';

function courseOf(titles: string[]): Course {
  return {
    title: 'A course',
    origin: { format: 'test', version: '1', untouched: true },
    metadata: { keywords: [] },
    outline: [
      {
        id: 'f',
        title: 'Folder',
        children: titles.map((title, i) => ({ id: `n${i}`, title, item: `i${i}`, children: [] })),
      },
    ],
    items: titles.map((title, i) => ({
      kind: 'link',
      id: `i${i}`,
      title,
      place: null,
      settings: {},
      url: `https://x.example/${i}`,
    })),
    files: [],
  };
}

const head = {
  course: { code: 'X 1', section: '01', term: 'Autumn 2026', title: 'A course' },
  source: 'Here',
  destination: 'There',
  place: 'http://there.example/1',
  sentAt: '2026-11-24T10:00:00.000Z',
  checkedAt: '2026-11-24T10:05:00.000Z',
  packageFile: 'x.imscc',
  packageSha256: '0'.repeat(64),
};

describe('The transfer report', () => {
  const sent = courseOf(['One', '=2+5', 'Three']);
  const arrived = courseOf(['One']);
  const report = transferReport(head, compare(sent, arrived, forecast(sent, [])));

  it('has a line for everything that is not whole, and says which came otherwise than foretold', () => {
    expect(report.lines.map((l) => [l.title, l.outcome, l.foretold])).toEqual([
      ['=2+5', 'left behind', 'whole'],
      ['Three', 'left behind', 'whole'],
    ]);
    expect(report.totals).toEqual({ whole: 2, reworked: 0, 'left behind': 2, extra: 0, unsure: 0 });
    expect(report.otherwise).toBe(2);
  });

  it('goes into a spreadsheet without its titles becoming formulas', () => {
    const [header, first] = reportToCsv(report).split('\r\n');
    expect(header).toContain('Folder,Item,Kind,Arrived as,Outcome,Foretold');
    expect(first).toBe("Folder,'=2+5,web link,,left behind,whole,it is not there");
  });
});
