import { createHash } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { QUESTION_FILE, questionOfItem } from '../shared/qti-items.ts';
import { unzip, type Unzipped } from '../shared/unzip.ts';
import { unpackCrate } from './crate-importer.ts';
import { putEntry } from './space.ts';
import { attr, many, one, parseXml, words, type Xml } from '../shared/xml.ts';
import type { TEntry, TPool, TQuestion, TSpace, TUnit } from './model.ts';
import { FRAMES, FILE_LIMIT, TITLE_LIMIT, DEFINED, count, asOwn, fields, normal, mediaOf } from './import-parts.ts';

/**
 * Tarnhall's importer of Common Cartridges. It was written by other people than those who send it courses, and has
 * habits that nobody documented: see the `habit` remarks.
 */

export interface ImportProgress {
  started(total: number): void;
  step(): Promise<void>;
  log(line: string): void;
}

/** Unpacks a cartridge, or a crate, into a space, entry by entry, so that people see it half done while it runs. */
export async function unpack(
  archive: string,
  space: TSpace,
  folder: string,
  newId: (kind: string) => string,
  progress: ImportProgress,
): Promise<void> {
  const zip = await unzip(archive);
  try {
    if (zip.names.includes('crate.json')) await unpackCrate(zip, space, folder, newId, progress);
    else await new Importer(zip, space, folder, newId, progress).run();
  } finally {
    zip.close();
  }
}

class Importer {
  private readonly fileIds = new Map<string, string>();
  private readonly definitions = new Set<string>();
  private readonly zip: Unzipped;
  private readonly space: TSpace;
  private readonly folder: string;
  private readonly newId: (kind: string) => string;
  private readonly progress: ImportProgress;

  constructor(zip: Unzipped, space: TSpace, folder: string, newId: (kind: string) => string, progress: ImportProgress) {
    this.zip = zip;
    this.space = space;
    this.folder = folder;
    this.newId = newId;
    this.progress = progress;
  }

  async run(): Promise<void> {
    const manifest = one(await this.xml('imsmanifest.xml'), 'manifest');
    if (!manifest) throw new Error('T-001 MNF nil');
    const resources = new Map(many(one(manifest, 'resources'), 'resource').map((r) => [attr(r, 'identifier'), r]));
    const organization = one(manifest, 'organizations', 'organization');
    const roots = many(organization, 'item');
    const [root] = roots;
    const tops = roots.length === 1 && root && words(one(root, 'title')).trim() === '' ? many(root, 'item') : roots;
    for (const resource of resources.values()) {
      if (DEFINED.test(attr(resource, 'type'))) this.definitions.add(this.path(resource));
    }
    const banks = [...resources.values()].filter((r) => attr(r, 'type').endsWith('/question-bank'));
    const single = [...resources.values()].filter((r) => QUESTION_FILE.test(attr(r, 'type')));
    const tests = tops.length > 0 ? [] : [...resources.values()].filter((r) => attr(r, 'type') === 'imsqti_xmlv1p2');
    const leaves = count(tops);
    this.progress.started(leaves + banks.length + single.length + tests.length);
    if (/SCORM/i.test(words(one(manifest, 'metadata', 'schema')))) {
      // Habit: packages that report to a player are taken in as plain texts; what they would have reported is dropped.
      this.progress.log(`T-430 SCO n=${leaves} trk drop`);
    }
    this.progress.log(`T-100 MNF ok r=${resources.size} n=${leaves}`);
    let loose: TUnit | null = null;
    for (const top of tops) {
      const inside = many(top, 'item');
      if (inside.length > 0 || attr(top, 'identifierref') === '') {
        const unit = this.unit(this.title(top), attr(top, 'identifier'));
        await this.fill(unit, inside, resources);
      } else {
        loose ??= this.unit('General', null);
        await this.place(loose, top, resources);
      }
    }
    for (const bank of banks) {
      await this.pool(bank);
      await this.progress.step();
    }
    for (const test of tests) {
      await this.looseTest(test);
      await this.progress.step();
    }
    if (single.length > 0) await this.questionFiles(single);
    this.progress.log(
      `T-900 END e=${this.space.units.reduce((n, u) => n + u.entries.length, 0)} f=${this.space.files.length}`,
    );
  }

  private unit(title: string, origin: string | null): TUnit {
    const unit: TUnit = { id: this.newId('u'), title, origin, entries: [] };
    this.space.units.push(unit);
    return unit;
  }

  /** Units are one level deep: what was a folder below becomes a heading, and its contents follow it. */
  private async fill(unit: TUnit, items: readonly Xml[], resources: ReadonlyMap<string, Xml>): Promise<void> {
    for (const item of items) {
      const inside = many(item, 'item');
      if (attr(item, 'identifierref') === '') {
        unit.entries.push(this.entry('heading', this.title(item), attr(item, 'identifier')));
        this.progress.log(`T-210 FLT ${attr(item, 'identifier')} d>1`);
        await this.fill(unit, inside, resources);
      } else {
        await this.place(unit, item, resources);
        await this.fill(unit, inside, resources);
      }
    }
  }

  private title(item: Xml): string {
    const full = words(one(item, 'title')).replace(/\s+/g, ' ').trim();
    // Habit: the title column is narrow, and nothing is said when a title is cut.
    return [...full].length > TITLE_LIMIT ? [...full].slice(0, TITLE_LIMIT - 1).join('') + '…' : full;
  }

  private entry(sort: TEntry['sort'], title: string, origin: string | null, more: Partial<TEntry> = {}): TEntry {
    return {
      id: this.newId('e'),
      sort,
      title,
      origin,
      body: '',
      url: '',
      file: null,
      files: [],
      marks: null,
      ways: [],
      tries: null,
      minutes: null,
      questions: [],
      ...more,
    };
  }

  private async place(unit: TUnit, item: Xml, resources: ReadonlyMap<string, Xml>): Promise<void> {
    const ref = attr(item, 'identifierref');
    const resource = resources.get(ref);
    if (!resource) this.progress.log(`T-310 RSC ${ref} nil`);
    else {
      const entry = await this.import(item, resource);
      if (entry) putEntry(this.space, unit, entry);
    }
    this.space.changedAt = new Date().toISOString();
    await this.progress.step();
  }

  private path(resource: Xml): string {
    const href = attr(resource, 'href') || attr(many(resource, 'file')[0], 'href');
    return decodeURIComponent(href);
  }

  private async import(item: Xml, resource: Xml): Promise<TEntry | null> {
    const type = attr(resource, 'type');
    const path = this.path(resource);
    const title = this.title(item);
    const origin = attr(resource, 'identifier');
    const base = path.slice(0, path.lastIndexOf('/') + 1);
    if (type === 'webcontent' && /\.x?html?$/i.test(path)) {
      const bytes = await this.zip.bytes(path);
      if (!bytes) {
        this.progress.log(`T-320 FIL ${origin} 0`);
        return null;
      }
      const html = bytes.toString('utf8');
      const body = /<body[^>]*>([\s\S]*)<\/body>/i.exec(html)?.[1] ?? html;
      return this.entry('text', title, origin, { body: await this.own(body, base) });
    }
    if (type === 'webcontent') {
      // Habit: names outside the old code page are stepped over, with a line that says so to those who can read it.
      if (/[^\u0020-\u00ff]/.test(path)) {
        this.progress.log(`T-322 FIL ${origin} cp?`);
        return null;
      }
      if (this.zip.size(path) > FILE_LIMIT) {
        this.progress.log(`T-321 FIL ${origin} >${FILE_LIMIT}`);
        return null;
      }
      const file = await this.keep(path);
      if (file === null) {
        this.progress.log(`T-320 FIL ${origin} 0`);
        return null;
      }
      return this.entry('file', title, origin, { file });
    }
    const definition = await this.xml(path);
    if (/^imswl_/.test(type)) {
      // Habit: an address ends at its first ampersand.
      const url = attr(one(definition, 'webLink', 'url'), 'href').split('&')[0] ?? '';
      return this.entry('pointer', title, origin, { url });
    }
    if (/^imsdt_/.test(type)) {
      const topic = one(definition, 'topic');
      const files = await this.attached(topic, base);
      return this.entry('talk', title, origin, { body: await this.own(words(one(topic, 'text')), base), files });
    }
    if (/^imsbasiclti_/.test(type)) {
      const link = one(definition, 'cartridge_basiclti_link');
      this.progress.log(`T-410 LTI ${origin} par drop`);
      return this.entry('launcher', title, origin, {
        url: words(one(link, 'secure_launch_url')) || words(one(link, 'launch_url')),
        body: words(one(link, 'description')),
      });
    }
    if (/^assignment_/.test(type)) {
      const task = one(definition, 'assignment');
      // Habit: a task takes one attachment, the first.
      const files = (await this.attached(task, base)).slice(0, 1);
      const marks = Number(attr(one(task, 'gradable'), 'points_possible'));
      return this.entry('task', title, origin, {
        body: await this.own(words(one(task, 'text')), base, files),
        files,
        marks: Number.isFinite(marks) ? marks : null,
        ways: many(one(task, 'submission_formats'), 'format').map((f) => attr(f, 'type')),
      });
    }
    if (type.endsWith('/assessment')) {
      const assessment = one(definition, 'questestinterop', 'assessment');
      const meta = fields(assessment);
      return this.entry('test', title, origin, {
        body: await this.own(words(many(one(assessment, 'rubric', 'material'), 'mattext')[0]), base),
        tries: Number(meta.get('cc_maxattempts')) || null,
        minutes: Number(meta.get('qmd_timelimit')) || null,
        questions: await this.questions(one(assessment, 'section'), base),
      });
    }
    this.progress.log(`T-399 TYP ${type}`);
    return null;
  }

  /** A file of QTI 1.2 that stands in no outline: a test of its own. */
  private async looseTest(resource: Xml): Promise<void> {
    const path = this.path(resource);
    const root = one(await this.xml(path), 'questestinterop');
    const assessment = one(root, 'assessment');
    const holder = one(assessment, 'section') ?? one(root, 'section') ?? root;
    const questions = await this.questions(holder, path.slice(0, path.lastIndexOf('/') + 1));
    const title = attr(assessment, 'title') || 'Test';
    putEntry(this.space, this.general(), this.entry('test', title, attr(resource, 'identifier'), { questions }));
  }

  /** Questions in files of their own make one pool; what Tarnhall's tests have no form for is stepped over. */
  private async questionFiles(resources: readonly Xml[]): Promise<void> {
    const questions: TQuestion[] = [];
    for (const resource of resources) {
      const read = questionOfItem(await this.xml(this.path(resource)));
      if (read) questions.push(asOwn(read));
      else this.progress.log(`T-530 ITM ${attr(resource, 'identifier')} frm?`);
      await this.progress.step();
    }
    const pool: TPool = { id: this.newId('p'), title: `Pool ${this.space.pools.length + 1}`, origin: null, questions };
    this.space.pools.push(pool);
    this.progress.log(`T-521 POL q=${questions.length}`);
  }

  private general(): TUnit {
    return this.space.units.find((u) => u.title === 'General') ?? this.unit('General', null);
  }

  private async pool(resource: Xml): Promise<void> {
    const path = this.path(resource);
    const bank = one(await this.xml(path), 'questestinterop', 'objectbank');
    const origin = attr(resource, 'identifier');
    const questions = await this.questions(bank, path.slice(0, path.lastIndexOf('/') + 1));
    const pool: TPool = { id: this.newId('p'), title: `Pool ${this.space.pools.length + 1}`, origin, questions };
    this.space.pools.push(pool);
    this.progress.log(`T-520 POL ${origin} q=${questions.length} cat drop`);
    // Habit: a pool that no test draws from gets a test of its own, so that somebody sees it.
    this.general().entries.push(
      this.entry('test', `Practice: ${pool.title}`, null, { questions: questions.slice(0, 5) }),
    );
  }

  private async attached(definition: Xml | undefined, base: string): Promise<string[]> {
    const ids: string[] = [];
    for (const attachment of many(one(definition, 'attachments'), 'attachment')) {
      const id = await this.keep(base + decodeURIComponent(attr(attachment, 'href')));
      if (id !== null) ids.push(id);
    }
    return ids;
  }

  /** Rewrites references to files of the package into references to files of the space, and takes those in. */
  private async own(html: string, base: string, only?: readonly string[]): Promise<string> {
    // Habit: scripts are taken out, and frames of sites that are not on the house's short list.
    const tame = html
      .replace(/<script\b[\s\S]*?<\/script\s*>/gi, '')
      .replace(/<iframe\b[^>]*>[\s\S]*?<\/iframe\s*>/gi, (frame) => (FRAMES.test(frame) ? frame : ''));
    const parts = tame.split(/((?:src|href)\s*=\s*"[^"]*")/i);
    for (let i = 1; i < parts.length; i += 2) {
      const [, name, value] = /^(\w+)\s*=\s*"([^"]*)"$/.exec(parts[i] ?? '') ?? [];
      if (name === undefined || value === undefined || /^([a-z]+:|#)/i.test(value)) continue;
      const path = normal(value.startsWith('$IMS-CC-FILEBASE$') ? base + value.slice(17) : base + value);
      // Habit: what defines something is no file; a link to it stays as it came, and leads nowhere.
      if (/\.x?html?$/i.test(path) || this.definitions.has(path)) continue;
      if (this.zip.size(path) > FILE_LIMIT) continue;
      if (only && !only.includes(this.fileIds.get(path) ?? '')) continue;
      const id = await this.keep(path);
      if (id !== null) parts[i] = `${name}="held:${id}"`;
    }
    return parts.join('');
  }

  private async keep(path: string): Promise<string | null> {
    const known = this.fileIds.get(path);
    if (known !== undefined) return known;
    const bytes = await this.zip.bytes(path);
    if (!bytes) return null;
    const id = this.newId('f');
    const target = join(this.folder, id);
    await mkdir(dirname(target), { recursive: true });
    await writeFile(target, bytes);
    this.space.files.push({
      id,
      path: path.slice(path.lastIndexOf('/') + 1),
      bytes: bytes.length,
      sha256: createHash('sha256').update(bytes).digest('hex'),
      media: mediaOf(path),
    });
    this.fileIds.set(path, id);
    return id;
  }

  private async xml(path: string): Promise<Xml | undefined> {
    const bytes = await this.zip.bytes(path);
    return bytes ? parseXml(bytes) : undefined;
  }

  private async questions(holder: Xml | undefined, base: string): Promise<TQuestion[]> {
    const questions: TQuestion[] = [];
    for (const item of many(holder, 'item')) questions.push(await this.question(item, base));
    return questions;
  }

  private async question(item: Xml, base: string): Promise<TQuestion> {
    const meta = fields(one(item, 'itemmetadata'));
    const profile = meta.get('cc_profile') ?? '';
    const presentation = one(item, 'presentation');
    const labels = many(one(presentation, 'response_lid', 'render_choice'), 'response_label');
    const conditions = many(one(item, 'resprocessing'), 'respcondition');
    const scoring = conditions.filter((c) => one(c, 'setvar') !== undefined);
    const keys = new Set(
      scoring.flatMap((c) =>
        [...many(one(c, 'conditionvar'), 'varequal'), ...many(one(c, 'conditionvar', 'and'), 'varequal')].map(words),
      ),
    );
    const tests = scoring.flatMap((c) => [
      ...many(one(c, 'conditionvar'), 'varequal'),
      ...many(one(c, 'conditionvar'), 'varsubstring'),
    ]);
    const feedback = new Map(
      many(item, 'itemfeedback').map((f) => [
        attr(f, 'ident'),
        words(many(one(f, 'flow_mat', 'material'), 'mattext')[0]),
      ]),
    );
    const form = /essay/.test(profile)
      ? 'prose'
      : /multiple_response/.test(profile)
        ? 'many'
        : /true_false/.test(profile)
          ? 'yesno'
          : labels.length > 0
            ? 'one'
            : 'word';
    return {
      key: attr(item, 'ident'),
      label: attr(item, 'title'),
      form,
      ask: await this.own(words(many(one(presentation, 'material'), 'mattext')[0]), base),
      marks: Number(meta.get('cc_weighting') ?? 1),
      options: labels.map((l) => ({
        key: attr(l, 'ident'),
        text: words(many(one(l, 'material'), 'mattext')[0]),
        right: keys.has(attr(l, 'ident')),
        reply: feedback.get(`${attr(l, 'ident')}_fb`) ?? null,
      })),
      words: labels.length > 0 ? [] : tests.map((t) => ({ text: words(t), strict: attr(t, 'case') === 'Yes' })),
      replies: {
        any: feedback.get('general_fb') ?? null,
        right: feedback.get('correct_fb') ?? null,
        wrong: feedback.get('general_incorrect_fb') ?? null,
      },
    };
  }
}
