import { ZipWriter, bytesSource, joinBytes, type Limits } from '../container/index.ts';
import { nodeEngine } from '../container/node.ts';
import { openCourse, readCourse } from '../formats/index.ts';
import { readPage } from '../markup/index.ts';
import { survey } from './survey.ts';

/** What was found in a package of one page, by code of the notes. */
async function looked(html: string, limits: Partial<Limits> = {}) {
  const parts: Uint8Array[] = [];
  const writer = new ZipWriter({ write: async (bytes) => void parts.push(bytes.slice()) }, nodeEngine);
  await writer.add('index.html', new TextEncoder().encode(`<html><body>${html}`));
  await writer.finish();
  const pkg = await openCourse(bytesSource(joinBytes(parts)), { engine: nodeEngine, limits });
  const { course } = await readCourse(pkg);
  const found = await survey(pkg, course, { engine: nodeEngine, findings: { today: '2026-11-29' } });
  const said = (code: string) => found.notes.filter((n) => n.code === code);
  return { ...found, said };
}

describe('A page that repeats itself without end', () => {
  it('is followed up as far as the limit, which is told with how many there are', async () => {
    const { links, findings, said } = await looked('<a href="x">'.repeat(300_000));
    expect([links.length, findings.length]).toEqual([5000, 5000]);
    expect(said('text-too-much')[0]?.message).toContain('has 300000 addresses');
    // Notes do not repeat themselves either: what is not told one by one is counted.
    expect(said('link-broken').length).toBe(500);
    expect(said('links-broken')[0]?.message).toContain('4500 further links');
  });

  it('takes no longer for twice as much than twice as long, whatever it repeats', () => {
    const time = (html: string) => {
      const began = performance.now();
      readPage(html);
      return performance.now() - began;
    };
    for (const one of ['<a href="x">', '<p>x <a href=y>z</a>', '<i x>', '<table>', '<h5>x', '<b class=x>']) {
      time(one.repeat(1000));
      // A quadratic reader takes 16 times as long for 4 times as much; a slow moment of the machine is no such thing.
      const ratio = Math.min(...[1, 2, 3].map(() => time(one.repeat(160_000)) / time(one.repeat(40_000))));
      expect(ratio).withContext(one).toBeLessThan(10);
    }
  });

  it('has of each kind of finding as many as the limit, and says that there is more', async () => {
    const { findings, said } = await looked('{{name}} '.repeat(4000), { findingsPerText: 50 });
    expect(findings.filter((f) => f.kind === 'placeholder').length).toBe(50);
    expect(said('text-too-much').length).toBe(1);
    const less = await looked('{{name}} '.repeat(40), { findingsPerText: 50 });
    expect([less.findings.length >= 40, less.said('text-too-much').length]).toEqual([true, 0]);
  });

  it('counts what is more than all findings that are told of a course', async () => {
    const { findings, said } = await looked('<a href="x">x</a>'.repeat(200), { findings: 30 });
    expect(findings.length).toBe(30);
    expect(said('findings-too-many')[0]?.message).toMatch(/^There are 1[67]\d findings more than the 30/);
  });

  it('is not read deeper than any browser shows it, and says how much was not', async () => {
    const deep = await looked(`<p>before</p>${'<div>'.repeat(5000)}<a href="lost.html">x</a>`);
    expect(deep.said('text-too-deep')[0]?.message).toMatch(/^The last \d+ letters of “index” were not read/);
    expect(deep.links).toEqual([]);
    const shallow = await looked(`${'<div>'.repeat(900)}<a href="lost.html">x</a>`);
    expect([shallow.said('text-too-deep').length, shallow.links.length]).toEqual([0, 1]);
  });
});
