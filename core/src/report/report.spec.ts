import { compare } from '../compare/index.ts';
import { forecast } from '../fit/index.ts';
import type { Finding } from '../inspect/index.ts';
import { momentOf, momentWords, settingWords, type Course } from '../model/index.ts';
import { reportToCsv } from './csv.ts';
import { openFindings, transferReport } from './transfer-report.ts';
import { likeLines } from './words.ts';

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
      definitionPath: null,
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
    expect(report.lines.map((l) => [l.title, l.outcome, l.predicted])).toEqual([
      ['=2+5', 'left behind', 'whole'],
      ['Three', 'left behind', 'whole'],
    ]);
    expect(report.totals).toEqual({ whole: 2, reworked: 0, 'left behind': 2, extra: 0, unsure: 0 });
    expect(report.otherwise).toBe(2);
  });

  it('names the package that was sent, what was missing before, and shows no password', () => {
    const item = {
      ...sent.items[0],
      settings: { password: 'bowline', due: momentOf('2026-10-16T17:00:00Z') },
    } as Course['items'][number];
    const locked = { ...courseOf(['One']), items: [item] };
    const made = transferReport({ ...head, missing: ['3 items are not in it.'] }, compare(locked, courseOf(['One'])));
    expect(JSON.stringify(made)).not.toContain('bowline');
    expect([made.missing, made.open, made.packageFile]).toEqual([['3 items are not in it.'], [], 'x.imscc']);
    const csv = reportToCsv(made);
    expect(csv).toContain('due Fri 16 Oct 2026 17:00 UTC');
    expect(csv).toContain('password (set; shown on demand)');
  });

  it('has like lines together, and none with a question of its own', () => {
    const [first, second] = report.lines;
    if (!first || !second) throw new Error('no lines');
    expect(likeLines(report.lines).map((g) => g.length)).toEqual([2]);
    const part = { title: 'Q', outcome: 'reworked' as const, reason: 'x' };
    const own = report.lines.map((line) => ({ ...line, parts: [part] }));
    expect(likeLines(own).map((g) => g.length)).toEqual([1, 1]);
    // Nothing is lost or doubled by putting them together.
    expect(likeLines([...report.lines, ...own]).flat().length).toBe(4);
  });

  it('carries what was found and nobody decided on, the most of a kind first', () => {
    const found = (key: string, kind: string) => ({ key, kind, title: `T ${key}`, evidence: `E ${key}` }) as Finding;
    const findings = [found('1', 'a'), found('2', 'b'), found('3', 'b'), found('4', 'a'), found('5', 'b')];
    const labels = [
      { id: 'a', label: 'As' },
      { id: 'b', label: 'Bs' },
      { id: 'c', label: 'Cs' },
    ];
    const open = openFindings(findings, new Map([['1', {}]]), labels);
    expect(open.map((kind) => [kind.label, kind.findings.map((f) => f.title)])).toEqual([
      ['Bs', ['T 2', 'T 3', 'T 5']],
      ['As', ['T 4']],
    ]);
  });

  it('reads moments as they are entered again, with their zone where one is meant', () => {
    expect(momentWords(momentOf('2026-10-16T17:00:00Z'))).toBe('Fri 16 Oct 2026 17:00 UTC');
    expect(momentWords(momentOf('2026-10-16T17:00:00+01:00'))).toBe('Fri 16 Oct 2026 16:00 UTC');
    expect(momentWords(momentOf('2026-09-28T09:00:00Z'))).toBe('Mon 28 Sep 2026 09:00 UTC');
    expect(momentWords(momentOf('2026-10-16T17:00'))).toBe('Fri 16 Oct 2026 17:00');
    expect(momentWords(momentOf('2026-10-16'))).toBe('Fri 16 Oct 2026');
    for (const no of ['week 3', '2026-99-99T00:00Z']) expect(momentWords(momentOf(no))).toBe(no);
  });

  it('keeps a value that is a sentence apart from what is said of it', () => {
    expect(settingWords('instructorNotes', '<p>Look for\n the second.</p>')).toBe('“Look for the second.”');
    expect(settingWords('linkTarget', '_blank')).toBe('_blank');
    expect(settingWords('instructorNotes', 'x'.repeat(300))).toBe(`“${'x'.repeat(240)}…”`);
  });

  it('goes into a spreadsheet without its titles becoming formulas', () => {
    const [header, first] = reportToCsv(report).split('\r\n');
    expect(header).toContain('Folder,Item,Kind,Arrived as,Outcome,Foretold');
    expect(first).toBe("Folder,'=2+5,web link,,left behind,whole,it is not there");
  });
});
