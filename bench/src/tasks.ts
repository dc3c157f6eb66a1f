import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import {
  LinkResolver,
  TextIndex,
  decodeText,
  NO_REDATING,
  datesOf,
  inventory,
  momentOf,
  openPackage,
  parseXml,
  partAsCourse,
  readCourse,
  readPage,
  redated,
  splitOf,
  survey,
  type Survey,
  targetById,
  wordsOf,
  planPackage,
  writePackage,
  type Course,
  type Item,
  type Package,
} from '@treenail/core';
import { parse } from 'parse5';
import yazl from 'yazl';
import { fileWorkersFor } from '@treenail/core/workers';
import { fileSink, fileSource, nodeEngine } from '@treenail/core/node';

/** What is measured, each run in a process of its own: `tasks.ts NAME FILE …`. */
const TASKS: Record<string, (...args: string[]) => Promise<void>> = {
  async inventory(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      console.log(JSON.stringify(inventory(course).kinds));
    });
  },
  async convert(file = '', target = 'cc13', out = '') {
    const to = targetById(target);
    const opened = fileSink(out);
    await withPackage(file, async (pkg) => {
      const plan = readCourse(pkg).then(({ course }) => planPackage(to.format, course, to.target, pkg));
      const sink = await opened;
      await writePackage(to.target, plan, pkg, sink, { engine: nodeEngine });
      console.log((await sink.close()).sha256);
    });
  },
  /** Two packages of one: the first half of its items, and the second. */
  async split(file = '', target = 'cc13', out = '') {
    const to = targetById(target);
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      const before = await survey(pkg, course, { engine: nodeEngine, depth: 'unhashed' });
      const places = before.course.outline.map((node, i, all) => [node.id, i < all.length / 2 ? 0 : 1] as const);
      const parts = ['one', 'two'].map((title) => ({ title, term: null }));
      const plan = { parts, of: Object.fromEntries(places) };
      for (const [n, part] of splitOf(before.course, before.links, plan).entries()) {
        const one = await partAsCourse(pkg, before, part, { engine: nodeEngine, unhashed: true });
        const sink = await fileSink(`${out}.${n}`);
        await writePackage(to.target, await planPackage(to.format, one.course, to.target, one.pkg), one.pkg, sink, {
          engine: nodeEngine,
        });
        console.log((await sink.close()).sha256);
      }
    });
  },
  /** How long 2,000 dates of 10,000 items take to be re-dated and judged, milliseconds, five times over. */
  async dates() {
    const items = Array.from({ length: 10_000 }, (_, i): Item => {
      const day = new Date(Date.UTC(2026, 8, 14 + (i % 95), 7 + (i % 12))).toISOString();
      const settings = i % 5 === 0 ? { due: momentOf(day) } : {};
      return { kind: 'page', id: `i${i}`, title: `Item ${i}`, definitionPath: null, file: `p${i}.html`, settings };
    });
    const course: Course = {
      title: 'Course',
      origin: { format: 'cc', version: '1.3', untouched: true },
      metadata: { keywords: [] },
      outline: items.map(({ id, title }) => ({ id: `n-${id}`, title, item: id, children: [] })),
      items,
      files: [],
    };
    const term = (name: string, from: string, to: string) => ({
      name,
      from,
      to,
      breaks: [{ name: 'b', from, to: from }],
    });
    const [from, to] = [term('Autumn', '2026-09-14', '2026-12-18'), term('Spring', '2027-01-11', '2027-04-16')];
    const took = Array.from({ length: 5 }, () => {
      const began = performance.now();
      const context = { zone: 'Europe/London', closed: [], today: '2026-09-01', written: [] };
      const { sums } = redated(datesOf(course), { ...NO_REDATING, rule: { is: 'term', from, to } }, context);
      if (sums.dates !== 2000) throw new Error(`${sums.dates} dates`);
      return `${(performance.now() - began).toFixed(0)} ms`;
    });
    console.log(took.join(', '));
  },
  async nothing() {},
  /** Writes a package of questions by another hand than Treenail's writer. */
  async questions(file = '', many = '0') {
    const zip = new yazl.ZipFile();
    const done = pipeline(zip.outputStream, createWriteStream(file));
    const banks = Math.ceil(Number(many) / 100);
    for (let b = 0; b < banks; b++) zip.addBuffer(Buffer.from(bank(b)), `b${b}.xml`);
    const resources = Array.from(
      { length: banks },
      (_, b) =>
        `<resource identifier="b${b}" type="imsqti_xmlv1p2" href="b${b}.xml"><file href="b${b}.xml"/></resource>`,
    );
    zip.addBuffer(
      Buffer.from(
        `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1"><metadata><schema>IMS Content</schema></metadata><organizations/><resources>${resources.join('')}</resources></manifest>`,
      ),
      'imsmanifest.xml',
    );
    zip.end();
    await done;
  },
  async parse(file = '') {
    await withPackage(file, async (pkg) => {
      for (const path of pkg.entries.keys()) parseXml(decodeText(await pkg.bytes(path)), path);
    });
  },
  /** Every file read and hashed, nothing else. */
  async hash(file = '') {
    await withPackage(file, async (pkg) => {
      for (const path of pkg.entries.keys()) {
        const hash = nodeEngine.sha256();
        for await (const part of pkg.stream(path)) hash.update(part);
        hash.hex();
      }
    });
  },
  /** Links of every page found and resolved. */
  async links(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      const resolver = new LinkResolver(course, pkg.entries.keys());
      let found = 0;
      for (const item of course.items) {
        if (item.kind !== 'page') continue;
        const reading = readPage(decodeText(await pkg.bytes(item.file)));
        found += resolver.resolve(reading, { item: item.id, part: 'page', file: item.file }).length;
      }
      console.log(found);
    });
  },
  async parse5(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      for (const item of course.items) if (item.kind === 'page') parse(decodeText(await pkg.bytes(item.file)));
    });
  },
  /** Until all findings are known: what is then still to be hashed is no part of it. */
  async findings(file = '') {
    await surveyed(file, ({ findings }) => {
      console.log(findings.length);
      process.exit(0);
    });
  },
  /** The same, and every byte read and hashed. */
  async 'findings and hashes'(file = '') {
    await surveyed(file, ({ findings }) => console.log(findings.length));
  },
  /** How long answers take, milliseconds, once the texts are known. */
  async search(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      const index = new TextIndex();
      for (const item of course.items) index.add(item.id, item.title, await wordsOf(pkg, item));
      const took = ['plank', 'a word that stands nowhere', '"one of them"', 'e'].map((question) => {
        const began = performance.now();
        const { total } = index.search(question);
        return `${question}: ${(performance.now() - began).toFixed(0)} ms for ${total}`;
      });
      console.log(took.join('; '));
    });
  },
  async survey(file = '') {
    await withPackage(file, async (pkg) => {
      const { course } = await readCourse(pkg);
      const { links } = await survey(pkg, course, { engine: nodeEngine });
      console.log(links.length);
    });
  },
};

function bank(b: number): string {
  const items = Array.from({ length: 100 }, (_, i) => {
    const id = `q${b}-${i}`;
    const labels = ['A', 'B', 'C', 'D'].map(
      (l) =>
        `<response_label ident="${id}-${l}"><material><mattext texttype="text/html">&lt;p&gt;Answer ${l} of ${id}&lt;/p&gt;</mattext></material></response_label>`,
    );
    return `<item ident="${id}" title="Question ${id}"><presentation><material><mattext texttype="text/html">&lt;p&gt;Which of these holds a plank of ${i} mm?&lt;/p&gt;</mattext></material><response_lid ident="r" rcardinality="Single"><render_choice>${labels.join('')}</render_choice></response_lid></presentation><resprocessing><outcomes><decvar maxvalue="2" varname="SCORE"/></outcomes><respcondition><conditionvar><varequal respident="r">${id}-B</varequal></conditionvar><setvar action="Set" varname="SCORE">2</setvar></respcondition></resprocessing></item>`;
  });
  return `<questestinterop><objectbank ident="b${b}">${items.join('')}</objectbank></questestinterop>`;
}

async function surveyed(file: string, onFindings: (known: Survey) => void): Promise<void> {
  await withPackage(file, async (pkg) => {
    const { course } = await readCourse(pkg);
    const findings = { today: '2026-11-25' };
    const reading = { findings, texts: false };
    const { workers, close } = fileWorkersFor(pkg, course, reading, new URL('./file-worker.mjs', import.meta.url));
    await survey(pkg, course, { engine: nodeEngine, ...reading, workers, onFindings }).finally(close);
  });
}

async function withPackage(file: string, work: (pkg: Package) => Promise<void>): Promise<void> {
  const source = await fileSource(file);
  try {
    await work(await openPackage(source, { engine: nodeEngine }));
  } finally {
    await source.close();
  }
}

const [name = '', ...args] = process.argv.slice(2);
const run = TASKS[name];
if (!run) throw new Error(`no task ${name}; there are ${Object.keys(TASKS).join(', ')}`);
await run(...args);
