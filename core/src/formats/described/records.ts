import { Minimatch } from 'minimatch';
import type { Package } from '../../container/index.ts';
import { Refusal, problem, remark, type Note } from '../../model/index.ts';
import type { Description, Find, When, Whose } from './language.ts';
import { asText, findAll, openDocument, plainOf, type Doc } from './documents.ts';
import type { Trace } from './trace.ts';
import { textValue } from './values.ts';

/** A record: a thing found in a document, and the record it was sought from. */
export interface Rec {
  doc: Doc;
  node: unknown;
  above: Rec | null;
  /** Of what rule it is; names its row in a trace. */
  rule: string;
}

/** Records that hold records that hold themselves are told by how deep they go. */
const DEPTH = 100;
const MOST = 2_000_000;

/** Finds the records of one archive. Documents are kept open as long as others of the same kind are not asked for. */
export class Records {
  readonly pkg: Package;
  readonly description: Description;
  readonly notes: Note[];
  readonly trace: Trace | null;
  /** Paths of documents that were read as such. */
  readonly documents = new Set<string>();
  course: Rec | null = null;
  private readonly opened = new Map<string, Promise<Doc>>();
  private readonly sets = new Map<string, Map<string, Rec>>();
  private count = 0;

  constructor(pkg: Package, description: Description, notes: Note[], trace: Trace | null) {
    this.pkg = pkg;
    this.description = description;
    this.notes = notes;
    this.trace = trace;
  }

  /** Reads the course's own record, from which all others are sought, and the sets in which others look things up. */
  async prepare(): Promise<void> {
    for await (const rec of this.find(this.description.course.find, null, 'course')) this.course ??= rec;
    for (const [name, set] of Object.entries(this.description.records)) {
      this.sets.set(name, new Map());
      for await (const rec of this.find(set.find, this.course, `records.${name}`, set.when)) {
        const key = textValue(this, set.key, rec, 'key');
        const keyed = this.sets.get(name);
        if (key !== '' && keyed && !keyed.has(key)) keyed.set(key, rec);
      }
    }
  }

  keyed(name: string, key: string): Rec | undefined {
    return this.sets.get(name)?.get(key);
  }

  /** Entries of the archive that a pattern names, in the order of their names. */
  files(pattern: string): string[] {
    const wanted = new Minimatch(pattern, { dot: true, nocomment: true, nonegate: true });
    return [...this.pkg.entries.keys()].filter((path) => wanted.match(path)).sort();
  }

  /**
   * The records that `find` leads to from another one.
   * @throws Refusal `description-endless`, and what documents refuse
   */
  async *find(find: Find, from: Rec | null, rule: string, when?: When): AsyncGenerator<Rec> {
    let depth = 0;
    for (let at = from; at; at = at.above) depth++;
    if (depth > DEPTH) throw endless(`Records hold one another more than ${DEPTH} deep`);
    for await (const rec of this.candidates(find, from, rule)) {
      if (++this.count > MOST) throw endless(`There are more than ${MOST} records`);
      if (!this.holds(when, rec)) continue;
      this.trace?.record(rec);
      yield rec;
    }
  }

  private async *candidates(find: Find, from: Rec | null, rule: string): AsyncGenerator<Rec> {
    if (find.look !== undefined) {
      const key = find.by && from ? textValue(this, find.by, from, 'by') : '';
      const rec = this.keyed(find.look, key);
      if (rec) yield { ...rec, above: from, rule };
      else if (key !== '') this.missing(`No record of ${find.look} has the key ${key}.`, from);
      return;
    }
    if (find.in !== undefined) {
      for (const path of this.files(find.in)) {
        const doc = await this.document(path);
        const nodes = find.at === undefined ? [{ node: doc.root, place: null }] : findAll(doc, doc.root, find.at);
        for (const { node, place } of nodes) {
          this.trace?.inFile(doc, place);
          yield* this.reached({ doc, node, above: from, rule }, find);
        }
      }
      return;
    }
    // Without a file the path is followed in the record above.
    if (!from || find.at === undefined) return;
    const seen = new Set<string>();
    for (const { node, place } of findAll(from.doc, from.node, find.at)) {
      this.trace?.used(from, place);
      const rec = { doc: from.doc, node, above: from, rule };
      if (find.follow !== undefined) {
        // What is pointed at twice is one thing.
        const path = asText(plainOf(rec.doc, node));
        if (seen.has(path)) continue;
        seen.add(path);
      }
      yield* this.reached(rec, find);
    }
  }

  private async *reached(rec: Rec, find: Find): AsyncGenerator<Rec> {
    if (find.follow === undefined) {
      yield rec;
      return;
    }
    const reference = asText(plainOf(rec.doc, rec.node));
    const path = this.entryOf(reference, rec, find.follow);
    if (path === undefined) {
      this.missing(`${reference} is pointed at and is not there.`, rec, reference);
      return;
    }
    for (let at: Rec | null = rec; at; at = at.above) {
      if (at.doc.path === path) throw endless(`${path} points at itself`);
    }
    const doc = await this.document(path);
    yield { ...rec, doc, node: doc.root };
  }

  /** The entry that a record names: from the archive's root, or beside the document that names it. */
  entryOf(reference: string, rec: Rec, from: 'root' | 'beside' = 'root'): string | undefined {
    const beside = rec.doc.path.replace(/[^/]*$/, '') + reference;
    return (from === 'root' ? [reference, beside] : [beside, reference]).find((path) => this.pkg.entries.has(path));
  }

  private document(path: string): Promise<Doc> {
    this.documents.add(path);
    const open = this.opened.get(path);
    if (open) return open;
    const doc = openDocument(this.pkg, path);
    // A crate of ten thousand documents is not held whole; those of a course in one file are few.
    if (this.opened.size >= 64) this.opened.delete(this.opened.keys().next().value ?? '');
    this.opened.set(path, doc);
    return doc;
  }

  private missing(message: string, from: Rec | null, file = from?.doc.path): void {
    this.notes.push(remark('record-missing', message, { file }));
  }

  /** The record in which a value is sought. */
  whose(rec: Rec, of: Whose | undefined): Rec | null {
    return of === undefined ? rec : of === 'above' ? rec.above : this.course;
  }

  holds(when: When | undefined, rec: Rec): boolean {
    if (!when) return true;
    const there = this.whose(rec, when.of);
    const found = there ? findAll(there.doc, there.node, when.path) : [];
    if (there) for (const { place } of found) this.trace?.used(there, place);
    const values = found.map(({ node }) => (there ? plainOf(there.doc, node) : null));
    const among = (list: readonly (string | number | boolean)[]) =>
      list.some((v) => values.some((x) => asText(x) === String(v)));
    if (when.is !== undefined && !among(when.is)) return false;
    if (when.not !== undefined && among(when.not)) return false;
    if (when.is !== undefined || when.not !== undefined) return true;
    return values.some((v) => v !== null && v !== '' && v !== false);
  }
}

function endless(message: string): Refusal {
  return new Refusal(problem('description-endless', `${message}.`));
}
