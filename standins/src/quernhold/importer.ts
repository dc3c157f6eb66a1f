import { createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { QUESTION_FILE, questionOfItem, type ReadQuestion } from '../shared/qti-items.ts';
import { unzip, type Unzipped } from '../shared/unzip.ts';
import { attr, many, one, parseXml, words, type Xml } from '../shared/xml.ts';
import type { QCourse, QNode, QQuestion } from './model.ts';

/**
 * Quernhold's importer of Common Cartridges: beside what is there, under numbers of its own, so that what is sent twice
 * is there twice. Files of a course that holds something already lie below `place`, so that none of what is there is written
 * over. Its habits: file names are made lower case, and what names them is left as it was; tests lose their
 * time limit; of an external tool only the address is taken.
 */
export async function importCartridge(
  archive: string,
  course: QCourse,
  folder: string,
  log: (line: string) => void,
  place: string,
): Promise<void> {
  const zip = await unzip(archive);
  const isEmpty = course.nodes.length + course.banks.length === 0;
  try {
    await new CartridgeImporter(zip, course, folder, log, isEmpty ? 'content' : `content/${place}`).run();
  } finally {
    zip.close();
  }
}

type Leaf = Exclude<QNode, { kind: 'folder' }>;

/** Numbers go on where they stood, whatever was taken out meanwhile. */
function nextNumber({ id, nodes, banks }: QCourse): number {
  const numbers = JSON.stringify([nodes, banks]).matchAll(/"ref":"([^"]*)-n(\d+)"/g);
  return [...numbers].reduce((most, [, of, n]) => (of === id ? Math.max(most, Number(n)) : most), 0) + 1;
}

class CartridgeImporter {
  private readonly zip: Unzipped;
  private readonly course: QCourse;
  private readonly folder: string;
  private readonly log: (line: string) => void;
  private readonly definitions = new Set<string>(['imsmanifest.xml']);
  private readonly below: string;
  private next: number;

  constructor(zip: Unzipped, course: QCourse, folder: string, log: (line: string) => void, below: string) {
    this.below = below;
    this.zip = zip;
    this.course = course;
    this.folder = folder;
    this.log = log;
    this.next = nextNumber(course);
  }

  async run(): Promise<void> {
    const manifest = one(await this.xml('imsmanifest.xml'), 'manifest');
    if (!manifest) throw new Error('neither an archive nor a cartridge');
    const resources = new Map(many(one(manifest, 'resources'), 'resource').map((r) => [attr(r, 'identifier'), r]));
    const roots = many(one(manifest, 'organizations', 'organization'), 'item');
    const [root] = roots;
    const tops = roots.length === 1 && root && words(one(root, 'title')).trim() === '' ? many(root, 'item') : roots;
    const before = this.course.nodes.length;
    this.course.nodes.push(...(await this.nodes(tops, resources)));
    for (const resource of resources.values()) {
      if (attr(resource, 'type').endsWith('/question-bank')) await this.bank(resource);
    }
    await this.questions(resources, tops.length === 0);
    if (/SCORM/i.test(words(one(manifest, 'metadata', 'schema')))) {
      this.log('objects that would report to a player were taken in as pages: they report nothing here');
    }
    let files = 0;
    for (const name of this.zip.names) if (await this.keep(name)) files++;
    this.log(`restored: ${this.course.nodes.length - before} at the top, ${this.course.banks.length} banks`);
    this.log(`${files} files, names made lower case`);
  }

  private ref(): string {
    return `${this.course.id}-n${this.next++}`;
  }

  private async nodes(items: readonly Xml[], resources: ReadonlyMap<string, Xml>): Promise<QNode[]> {
    const nodes: QNode[] = [];
    for (const item of items) {
      const title = words(one(item, 'title')).trim() || 'Untitled';
      const inside = await this.nodes(many(item, 'item'), resources);
      const resource = resources.get(attr(item, 'identifierref'));
      if (!resource) {
        nodes.push({ kind: 'folder', ref: this.ref(), title, inside });
        continue;
      }
      const leaf = await this.leaf(resource, title);
      if (leaf) nodes.push(leaf);
      else this.log(`left out: ${title}, a ${attr(resource, 'type')}`);
      nodes.push(...inside);
    }
    return nodes;
  }

  private path(resource: Xml): string {
    return decodeURIComponent(attr(resource, 'href') || attr(many(resource, 'file')[0], 'href'));
  }

  private async leaf(resource: Xml, title: string): Promise<Leaf | null> {
    const type = attr(resource, 'type');
    const path = this.path(resource);
    const base = { ref: this.ref(), title };
    if (type === 'webcontent') {
      const own = this.placeOf(path);
      return /\.x?html?$/i.test(path)
        ? { kind: 'page', ...base, path: own, tutorsOnly: false, use: null }
        : { kind: 'file', ...base, path: own };
    }
    this.definitions.add(path);
    const definition = await this.xml(path);
    const folder = path.slice(0, path.lastIndexOf('/') + 1);
    if (type.startsWith('imswl_')) {
      const url = one(definition, 'webLink', 'url');
      return { kind: 'link', ...base, url: attr(url, 'href'), newWindow: attr(url, 'target') === '_blank' };
    }
    if (type.startsWith('imsdt_')) {
      const topic = one(definition, 'topic');
      return {
        kind: 'talk',
        ...base,
        text: this.rooted(words(one(topic, 'text')), folder),
        attached: this.attached(topic, folder),
      };
    }
    if (type.startsWith('assignment_')) {
      const task = one(definition, 'assignment');
      return {
        kind: 'task',
        ...base,
        text: this.rooted(words(one(task, 'text')), folder),
        points: Number(attr(one(task, 'gradable'), 'points_possible')) || 0,
        ways: many(one(task, 'submission_formats'), 'format').map((f) => attr(f, 'type')),
        notes: words(one(task, 'instructor_text')) || null,
        attached: this.attached(task, folder),
      };
    }
    if (type.startsWith('imsbasiclti_')) {
      const link = one(definition, 'cartridge_basiclti_link');
      const url = words(one(link, 'secure_launch_url')) || words(one(link, 'launch_url'));
      return { kind: 'tool', ...base, url, about: words(one(link, 'description')), parameters: {} };
    }
    if (type.endsWith('/assessment')) {
      const assessment = one(definition, 'questestinterop', 'assessment');
      const intro = words(many(one(assessment, 'rubric', 'material'), 'mattext')[0]);
      return {
        kind: 'quiz',
        ...base,
        intro: this.rooted(intro, folder),
        tries: Number(fields(assessment).get('cc_maxattempts')) || 0,
        minutes: 0,
        questions: many(one(assessment, 'section'), 'item').map((item) => this.question(item, folder)),
      };
    }
    return null;
  }

  private async bank(resource: Xml): Promise<void> {
    const path = this.path(resource);
    this.definitions.add(path);
    const bank = one(await this.xml(path), 'questestinterop', 'objectbank');
    const folder = path.slice(0, path.lastIndexOf('/') + 1);
    const questions = many(bank, 'item').map((item) => this.question(item, folder));
    this.course.banks.push({ ref: this.ref(), title: `Bank ${this.course.banks.length + 1}`, questions });
  }

  /** Questions that stand in no outline: those in files of their own as one bank, each other file as a test. */
  private async questions(resources: ReadonlyMap<string, Xml>, isBare: boolean): Promise<void> {
    const single: QQuestion[] = [];
    for (const resource of resources.values()) {
      const type = attr(resource, 'type');
      const path = this.path(resource);
      if (QUESTION_FILE.test(type)) {
        this.definitions.add(path);
        const read = questionOfItem(await this.xml(path));
        if (read) single.push(this.asOwn(read));
        else this.log(`left out: ${attr(resource, 'identifier')}, a question of a form that is not known`);
      } else if (isBare && type === 'imsqti_xmlv1p2') {
        this.definitions.add(path);
        const root = one(await this.xml(path), 'questestinterop');
        const assessment = one(root, 'assessment');
        const items = many(one(assessment, 'section') ?? one(root, 'section') ?? root, 'item');
        const title = attr(assessment, 'title') || 'Test';
        const questions = items.map((item) => this.question(item, ''));
        this.course.nodes.push({ kind: 'quiz', ref: this.ref(), title, intro: '', tries: 0, minutes: 0, questions });
      }
    }
    if (single.length === 0) return;
    this.course.banks.push({ ref: this.ref(), title: `Bank ${this.course.banks.length + 1}`, questions: single });
  }

  private asOwn(read: ReadQuestion): QQuestion {
    return {
      ref: this.ref(),
      title: read.label,
      prompt: read.ask,
      points: read.marks,
      topic: null,
      type: ({ one: 'choice', many: 'several', word: 'blank', prose: 'essay' } as const)[read.form],
      choices: read.options.map(({ text, right }) => ({ text, right })),
      answers: read.words,
      feedback: null,
      model: null,
    };
  }

  private question(item: Xml, folder: string): QQuestion {
    const meta = fields(one(item, 'itemmetadata'));
    const profile = meta.get('cc_profile') ?? '';
    const presentation = one(item, 'presentation');
    const labels = many(one(presentation, 'response_lid', 'render_choice'), 'response_label');
    const scoring = many(one(item, 'resprocessing'), 'respcondition').filter((c) => one(c, 'setvar') !== undefined);
    const tests = scoring.flatMap((c) => [
      ...many(one(c, 'conditionvar'), 'varequal'),
      ...many(one(c, 'conditionvar', 'and'), 'varequal'),
      ...many(one(c, 'conditionvar'), 'varsubstring'),
    ]);
    const keys = new Set(tests.map(words));
    const said = new Map(many(item, 'itemfeedback').map((f) => [attr(f, 'ident'), material(f)]));
    const type = /essay/.test(profile)
      ? 'essay'
      : /multiple_response/.test(profile)
        ? 'several'
        : /true_false/.test(profile)
          ? 'truth'
          : /pattern/.test(profile)
            ? 'pattern'
            : labels.length > 0
              ? 'choice'
              : 'blank';
    return {
      ref: this.ref(),
      title: attr(item, 'title'),
      prompt: this.rooted(words(many(one(presentation, 'material'), 'mattext')[0]), folder),
      points: Number(meta.get('cc_weighting') ?? 1),
      topic: meta.get('cc_question_category') ?? null,
      type,
      choices: labels.map((l) => ({
        text: words(many(one(l, 'material'), 'mattext')[0]),
        right: keys.has(attr(l, 'ident')),
      })),
      answers: labels.length > 0 ? [] : tests.map(words),
      feedback: said.get('general_fb') ?? null,
      model: said.get('solution') ?? null,
      marked: true,
    };
  }

  private async keep(name: string): Promise<boolean> {
    if (this.definitions.has(name)) return false;
    const bytes = await this.zip.bytes(name);
    if (!bytes) return false;
    const target = join(this.folder, this.placeOf(name));
    await mkdir(dirname(target), { recursive: true });
    await pipeline(Readable.from([bytes]), createWriteStream(target));
    return true;
  }

  /** Texts that stood beside their files name them from the root here. */
  private rooted(html: string, folder: string): string {
    return html.replace(/((?:src|href)\s*=\s*")([^"]*)"/gi, (whole, head: string, value: string) => {
      if (/^([a-z]+:|#|\/)/i.test(value)) return whole;
      const path = `${folder}${value.replace(/^(\$IMS-CC-FILEBASE\$|%24IMS-CC-FILEBASE%24)\/?/, '')}`;
      return `${head}${this.below}/${path}"`;
    });
  }

  private attached(definition: Xml | undefined, folder: string): string[] {
    return many(one(definition, 'attachments'), 'attachment').map((a) =>
      this.placeOf(folder + decodeURIComponent(attr(a, 'href'))),
    );
  }

  private placeOf(path: string): string {
    return `${this.below}/${path.toLowerCase()}`;
  }

  private async xml(path: string): Promise<Xml | undefined> {
    const bytes = await this.zip.bytes(path);
    return bytes ? parseXml(bytes) : undefined;
  }
}

function material(feedback: Xml): string {
  const deep =
    one(feedback, 'flow_mat', 'material') ??
    one(feedback, 'solution', 'solutionmaterial', 'material') ??
    one(feedback, 'material');
  return words(many(deep, 'mattext')[0]);
}

function fields(holder: Xml | undefined): Map<string, string> {
  return new Map(
    many(one(holder, 'qtimetadata'), 'qtimetadatafield').map((f) => [
      words(one(f, 'fieldlabel')),
      words(one(f, 'fieldentry')),
    ]),
  );
}
