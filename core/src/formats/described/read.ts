import type { Package } from '../../container/index.ts';
import {
  isOneFile,
  listIn,
  Item,
  Refusal,
  problem,
  remark,
  type ItemKind,
  type Note,
  type OutlineNode,
  type RichText,
  SETTING_LABELS,
  definitionOf,
  kindOf,
  type SettingName,
  type Settings,
} from '../../model/index.ts';
import { filesIn, html, settingsOf } from '../archive/parts.ts';
import type { ReadResult } from '../format.ts';
import { RULE_KINDS, type Again, type Description, type Rule, type RuleKind, type Value } from './language.ts';
import { rulesOf } from './parse.ts';
import { QuestionReader } from './questions.ts';
import { Records, type Rec } from './records.ts';
import type { Trace } from './trace.ts';
import { NOWHERE, candidates, richValue, textValue, valueOf, type Places } from './values.ts';

/** A page that is made of the text of a record. */
export interface MadePage {
  path: string;
  title: string;
  body: string;
}

/** What a description makes of an archive. */
export interface Described extends ReadResult {
  pages: MadePage[];
  /** Files of the archive that nothing in the description speaks of. */
  foreign: string[];
}

/**
 * Reads an archive by its description.
 * @throws Refusal `description-path`, `description-endless`, `description-course`, and what its documents refuse
 */
export async function readDescribed(
  pkg: Package,
  description: Description,
  trace: Trace | null = null,
): Promise<Described> {
  // Texts that name pages can be resolved once it is known which records became pages.
  const pages = description.texts.some((t) => t.look === 'pages')
    ? (await new Reading(pkg, description, null, new Map()).read()).keys
    : new Map<string, string>();
  return (await new Reading(pkg, description, trace, pages).read()).described;
}

/** Where the files of an archive stand once it is read: by the key, and by where their bytes stand in it. */
export async function filesOf(
  records: Records,
): Promise<{ places: Map<string, string>; held: Map<string, string>; base64: Map<string, string> }> {
  const [places, held, base64] = [new Map<string, string>(), new Map<string, string>(), new Map<string, string>()];
  const names = new Set<string>();
  const { files } = records.description;
  if (!files) return { places, held, base64 };
  for await (const rec of records.find(files.find, records.course, 'files', files.when)) {
    const key = textValue(records, files.key, rec, 'key');
    const reference = textValue(records, files.held, rec, 'held');
    const at = records.entryOf(reference, rec) ?? reference;
    const wanted = clean(files.path ? textValue(records, files.path, rec, 'path') : at);
    // Two of one name: the second stays where it was.
    const path = names.has(wanted) ? at : wanted;
    if (key === '' || path === '') continue;
    names.add(path);
    if (files.base64) base64.set(path, textValue(records, files.base64, rec, 'base64'));
    else if (records.pkg.entries.has(at)) held.set(at, path);
    // Once the archive is unpacked, the file stands under its new path.
    else if (!records.pkg.entries.has(path)) continue;
    places.set(key, path);
  }
  return { places, held, base64 };
}

/** A path that a record gives, as one that stays in the package. */
function clean(path: string): string {
  return path
    .split(/[/\\]/)
    .filter((part) => part !== '' && part !== '.' && part !== '..')
    .join('/');
}

class Reading {
  private readonly pkg: Package;
  private readonly description: Description;
  private readonly records: Records;
  private readonly notes: Note[];
  private readonly unfitted = new Set<SettingName>();
  private readonly named: ReadonlyMap<string, { rule: Rule; at: string }>;
  private readonly keys = new Map<string, string>();
  private readonly items: Item[] = [];
  private readonly pages: MadePage[] = [];
  private readonly taken = new Set<string>();
  private readonly questions: QuestionReader;
  private places: Places;

  constructor(pkg: Package, description: Description, trace: Trace | null, pages: ReadonlyMap<string, string>) {
    this.pkg = pkg;
    this.description = description;
    this.notes = [...pkg.notes];
    this.records = new Records(pkg, description, this.notes, trace);
    this.questions = new QuestionReader(this.records, this.notes);
    this.places = { ...NOWHERE, pages };
    this.named = namedRules(description);
  }

  async read(): Promise<{ described: Described; keys: Map<string, string> }> {
    const { records, description } = this;
    await records.prepare();
    const { course } = records;
    if (!course) {
      throw new Refusal(
        problem('description-course', 'The record of the course is not found.', {
          item: 'course',
        }),
      );
    }
    const { places, held } = await filesOf(records);
    this.places = { ...this.places, files: places };
    const about = (value: Value | undefined, field: string) => textValue(records, value, course, field);
    const title = about(description.course.title, 'title');
    const metadata = Object.fromEntries(
      Object.entries({
        catalogEntry: about(description.course.code, 'code'),
        description: about(description.course.about, 'about'),
        rights: about(description.course.rights, 'rights'),
        language: about(description.course.language, 'language'),
      }).filter(([, v]) => v !== ''),
    );
    const { keywords } = description.course;
    const words = keywords ? valueOf(records, { ...keywords, as: 'list' }, course, 'keywords', NOWHERE, '') : [];
    const outline = await this.nodes(description.outline, course, 'outline');
    await this.nodes(description.items, course, 'items');
    const personal = await this.personal(course);
    const documents = new Set(records.documents);
    const files = filesIn(this.pkg, (path) => documents.has(path));
    const spoken = new Set([
      ...documents,
      ...held.keys(),
      ...places.values(),
      ...this.pages.map((p) => p.path),
      ...this.items.flatMap((i) => (isOneFile(i) ? [i.file] : [])),
      ...description.ignore.flatMap((pattern) => records.files(pattern)),
      ...(personal?.files ?? []),
    ]);
    const described: Described = {
      course: {
        title,
        origin: { format: 'described', version: `${description.name} ${description.version}`, untouched: true },
        metadata: { keywords: listIn(words), ...metadata },
        outline,
        items: this.items,
        files,
        ...(personal ? { personal } : {}),
      },
      notes: this.notes,
      pages: this.pages,
      foreign: [...this.pkg.entries.keys()].filter((path) => !spoken.has(path)),
    };
    return { described, keys: this.keys };
  }

  private async nodes(rules: readonly (Rule | Again)[], from: Rec, at: string): Promise<OutlineNode[]> {
    const nodes: OutlineNode[] = [];
    for (const [i, each] of rules.entries()) {
      const { rule, at: place } =
        'again' in each
          ? (this.named.get(each.again) ?? fail(each.again))
          : { rule: each, at: each.name ?? `${at}.${i}` };
      for await (const rec of this.records.find(rule.find, from, place, rule.when)) {
        nodes.push(...(await this.node(rule, rec, place)));
      }
    }
    return nodes;
  }

  private async node(rule: Rule, rec: Rec, at: string): Promise<OutlineNode[]> {
    const { records } = this;
    const kind = this.kindOf(rule, rec);
    if (kind === null) return [];
    const inside = () => this.nodes(rule.inside ?? [], rec, `${at}.inside`);
    if (kind === 'nothing') return inside();
    const title = textValue(records, rule.title, rec, 'title');
    const id = this.idOf(rule.id, rec);
    if (kind === 'heading') return [{ id, title, heading: true, children: [] }];
    const item = kind === 'folder' ? null : await this.item(rule, rec, kind, id, title);
    if (kind !== 'folder' && !item) return [];
    if (item) this.items.push(item);
    const children = await inside();
    const node = textValue(records, rule.node, rec, 'node');
    const settings = item ? {} : this.settings(rule, rec);
    return [
      {
        id: node !== '' ? node : item ? `node-${id}` : id,
        title,
        ...(item ? { item: id } : {}),
        ...(Object.keys(settings).length > 0 ? { settings } : {}),
        children,
      },
    ];
  }

  private kindOf(rule: Rule, rec: Rec): RuleKind | null {
    const word = textValue(this.records, rule.kind, rec, 'kind');
    const kind = RULE_KINDS.find((k) => k === word);
    if (kind) return kind;
    this.notes.push(
      remark(
        'description-kind',
        word === '' ? 'A record has no kind that the description knows.' : `${word} is no kind of item.`,
        { file: rec.doc.path },
      ),
    );
    return null;
  }

  /** Identifiers of the place a thing came from are kept, as long as each is taken once. */
  private idOf(value: Value, rec: Rec): string {
    let given = 'item';
    for (given of candidates(this.records, value, rec, 'id')) if (!this.taken.has(given)) break;
    let id = given;
    for (let n = 2; this.taken.has(id); n++) id = `${given}-${n}`;
    this.taken.add(id);
    return id;
  }

  private async item(rule: Rule, rec: Rec, kind: ItemKind, id: string, title: string): Promise<Item | null> {
    const { records, places } = this;
    const common = { id, title, definitionPath: null, settings: this.settings(rule, rec) };
    const text = (): RichText => richValue(records, rule.text, rec, 'text', places) ?? html('');
    const url = () => textValue(records, rule.url, rec, 'url');
    switch (kind) {
      case 'page':
      case 'file': {
        const file = kind === 'page' && rule.text ? this.page(rule, rec, id, title) : this.file(rule, rec, title);
        if (file === null) return null;
        this.keys.set(textValue(records, rule.key, rec, 'key') || id, file);
        return { kind, ...common, definitionPath: file, file };
      }
      case 'link':
        return { kind, ...common, url: url() };
      case 'tool':
        return { kind, ...common, url: url(), description: this.words(rule, rec) };
      case 'assignment':
      case 'discussion':
        return { kind, ...common, text: text() };
      case 'quiz':
      case 'bank':
        return { kind, ...common, questions: await this.questions.read(rule.questions ?? [], rec, this.places) };
      case 'foreign':
        return { kind, ...common, type: this.description.id, files: [] };
      default: {
        // Lines of a table, as the kind reads them.
        const fields = kindOf({ kind }).fromRows?.(await this.rows(rule, rec));
        return Item.parse({ kind, ...common, text: text(), ...fields });
      }
    }
  }

  private words(rule: Rule, rec: Rec): string {
    return rule.text ? textValue(this.records, { as: 'words', ...rule.text }, rec, 'text') : '';
  }

  private page(rule: Rule, rec: Rec, id: string, title: string): string {
    const { records } = this;
    const wantedPath = clean(textValue(records, rule.page, rec, 'page'));
    const path = wantedPath === '' ? `${id.replace(/[^\w.-]+/g, '-')}.html` : wantedPath;
    const up = '../'.repeat(path.split('/').length - 1);
    const body = richValue(records, rule.text, rec, 'text', this.places, up);
    this.pages.push({ path, title, body: body?.text ?? '' });
    return path;
  }

  private file(rule: Rule, rec: Rec, title: string): string | null {
    const reference = rule.file ? textValue(this.records, { ...rule.file, as: 'text' }, rec, 'file') : '';
    const file = this.places.files.get(reference) ?? this.records.entryOf(reference, rec);
    if (file !== undefined) return file;
    this.notes.push(
      remark(
        'file-missing',
        `“${title}” names a file that is not in the archive.`,
        {
          item: title,
        },
        'Look for it at its source.',
      ),
    );
    return null;
  }

  private settings(rule: Rule, rec: Rec): Settings {
    const all: Parameters<typeof settingsOf>[0] = {};
    for (const [name, how] of Object.entries(rule.settings ?? {}) as [SettingName, Value | undefined][]) {
      const value = how ? valueOf(this.records, how, rec, name, this.places, '') : null;
      if (value === null) continue;
      // Dates and conditions are given in words, which the model reads as far as it understands them.
      const read = definitionOf(name).schema.safeParse(value);
      if (read.success) Object.assign(all, { [name]: read.data });
      else this.unfit(name, value, rec.rule);
    }
    return settingsOf(all);
  }

  /** Told once for each setting: a rule that is wrong is wrong for every record. */
  private unfit(name: SettingName, value: unknown, rule: string): void {
    if (this.unfitted.has(name)) return;
    this.unfitted.add(name);
    const shown = typeof value === 'string' ? value : JSON.stringify(value);
    this.notes.push(
      remark(
        'description-setting',
        `“${shown}” can’t stand for ${SETTING_LABELS[name]} (rule ${rule}), so that is not set.`,
      ),
    );
  }

  private async rows(rule: Rule, rec: Rec): Promise<string[][]> {
    if (!rule.rows) return [];
    const { find, when, cells } = rule.rows;
    const rows: string[][] = [];
    for await (const row of this.records.find(find, rec, `${rec.rule}.rows`, when)) {
      rows.push(cells.map((cell, i) => textValue(this.records, cell, row, `cell ${i + 1}`)));
    }
    return rows;
  }

  private async personal(course: Rec): Promise<ReadResult['course']['personal']> {
    const { personal } = this.description;
    if (!personal) return undefined;
    const counted = async (name: 'people' | 'submissions' | 'grades' | 'posts') => {
      const rule = personal[name];
      let count = 0;
      if (!rule) return count;
      for await (const rec of this.records.find(rule.find, course, `personal.${name}`, rule.when)) if (rec) count++;
      return count;
    };
    return {
      people: await counted('people'),
      submissions: await counted('submissions'),
      grades: await counted('grades'),
      posts: await counted('posts'),
      files: (personal.files ?? []).flatMap((pattern) => this.records.files(pattern)),
    };
  }
}

function fail(name: string): never {
  throw new RangeError(`no rule ${name}: descriptions are checked when they are read`);
}

function namedRules(description: Description): Map<string, { rule: Rule; at: string }> {
  const named = new Map<string, { rule: Rule; at: string }>();
  for (const rule of rulesOf(description)) if (rule.name !== undefined) named.set(rule.name, { rule, at: rule.name });
  return named;
}
