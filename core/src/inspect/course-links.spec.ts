import { randomBytes } from 'node:crypto';
import { bytesSource } from '../container/index.ts';
import { nodeEngine } from '../container/node.ts';
import { openCourse, readCourse } from '../formats/index.ts';
import { zipOf } from '../testing/packages.ts';
import { readLinks } from './course-links.ts';
import { NO_ADDRESSES } from './links.ts';
import { survey } from './survey.ts';

describe('The links of a course that are read by themselves', () => {
  const known = { ...NO_ADDRESSES, platform: ['https://old.example'], repository: ['https://old.example/shared/'] };
  const film = randomBytes(300_000);
  const FILES = {
    'index.html': '<a href="https://old.example/shared/a.pdf">A</a><video src="launch.mp4"></video>',
    'sheet.html': '<a href="https://old.example/shared/b.pdf">B</a><a href="https://out.example/">out</a>',
    'look.css': 'body { background: url(https://old.example/shared/sea.png) }',
    'launch.mp4': film,
  };
  async function opened(zip: Uint8Array) {
    const pkg = await openCourse(bytesSource(zip), { engine: nodeEngine });
    return { pkg, course: (await readCourse(pkg)).course };
  }
  const told = (links: readonly { value: string; state: string }[]) => links.map((l) => `${l.state} ${l.value}`).sort();

  it('are those that the survey finds, and films are not read for them', async () => {
    const zip = Buffer.from(await zipOf(FILES));
    const whole = await opened(zip);
    const { links } = await survey(whole.pkg, whole.course, { engine: nodeEngine, known });
    // A film that is damaged would be refused by whoever read it.
    const at = zip.indexOf(film.subarray(1000, 2000));
    zip[at] = (zip[at] ?? 0) ^ 1;
    const { pkg, course } = await opened(zip);
    const read = await readLinks(pkg, course, { engine: nodeEngine, known });
    expect(told(read.links)).toEqual(told(links));
    expect(read.links.filter((l) => l.state === 'repository').length).toBe(3);
    expect(read.unread).toEqual([]);
  });

  it('say which texts could not be read', async () => {
    const zip = Buffer.from(await zipOf({ ...FILES, 'sheet.html': `<p>${randomBytes(2000).toString('hex')}</p>` }));
    const pages = await opened(zip);
    const offset = zip.indexOf('sheet.html') + 60;
    zip[offset] = (zip[offset] ?? 0) ^ 0xff;
    const { pkg } = await opened(zip);
    const { unread } = await readLinks(pkg, pages.course, { engine: nodeEngine, known });
    expect(unread).toEqual(['sheet.html']);
  });

  it('say of texts that are too much, or too long, that they were not read to their end', async () => {
    const many = '<a href="https://old.example/shared/a.pdf">A</a>'.repeat(60);
    const zip = await zipOf({
      'index.html': '<p>x</p>',
      'many.html': many,
      'long.html': randomBytes(9 * 2 ** 20).toString('hex'),
    });
    const pkg = await openCourse(bytesSource(zip), { engine: nodeEngine, limits: { linksPerText: 50 } });
    const { course } = await readCourse(pkg);
    const read = await readLinks(pkg, course, { engine: nodeEngine, known });
    expect(read.unread.sort()).toEqual(['long.html', 'many.html']);
    expect(read.links.length).toBe(50);
  });
});
