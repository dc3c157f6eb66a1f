import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import {
  LinkResolver,
  TextIndex,
  decodeText,
  inventory,
  openPackage,
  parseXml,
  readCourse,
  readPage,
  survey,
  type Survey,
  targetById,
  wordsOf,
  planPackage,
  writePackage,
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
