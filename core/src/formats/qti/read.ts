import type { Package } from '../../container/index.ts';
import {
  descendants,
  elements,
  fold,
  saysAgainIn,
  withChildren,
  type Unread,
  type XmlElement,
} from '../../markup/index.ts';
import {
  Refusal,
  baseName,
  folderOf,
  outlineOf,
  sectionsWorth,
  timesPoints,
  warning,
  type Item,
  type ItemOf,
  type Note,
  type Question,
  type Section,
  type Settings,
} from '../../model/index.ts';
import type { ReadResult } from '../format.ts';
import { ManifestReader, readManifest, type Resource } from '../imscp/manifest.ts';
import { metadataOf } from '../qti12/material.ts';
import { withMaterial } from '../qti12/material-refs.ts';
import { readAssessment, readQuestions, renameDraws } from '../qti12/read.ts';
import { QTI_VERSIONS, attributeOf, isNamed, kid, kids, nameOf, type QtiVersion } from '../qti2/names.ts';
import { versionOfRoot, versionsFor } from './exchange.ts';
import { innerHtml } from '../qti2/html.ts';
import { readItem } from '../qti2/item.ts';
import { sectionOf, settingsOfTest, unwrapped, branching } from '../qti2/read-test.ts';
import { isQti, leading, qtiVersionOf, freeId } from './resources.ts';
import { rebased, rebasedQuestion, resolveReference } from '../references.ts';

/** The quizzes and banks of a package, whatever else is in it. */
export interface Questions {
  items: Item[];
  /** The item that the outline leads to, by the identifier of its resource. */
  itemOf: ReadonlyMap<string, string>;
  definitions: ReadonlySet<string>;
}

export function readQuestionsIn(pkg: Package, root: XmlElement, manifest: ManifestReader): Promise<Questions> {
  return new QtiPackageReader(pkg, qtiVersionOf(root) ?? '2.1', manifest).found();
}

/** Reads a package of questions: quizzes, banks, and questions that belong to neither. */
export async function readQtiPackage(pkg: Package): Promise<ReadResult> {
  const { root } = await readManifest(pkg);
  return new QtiPackageReader(pkg, qtiVersionOf(root) ?? '2.1', new ManifestReader(pkg, root)).read();
}

class QtiPackageReader {
  private readonly notes: Note[];
  private readonly definitions = new Set<string>();
  private readonly pkg: Package;
  private readonly manifest: ManifestReader;
  private readonly version: string;
  private readonly items: Item[] = [];
  private readonly itemOf = new Map<string, string>();
  /** Questions of QTI 2 and 3 by the path of their file. */
  private readonly questions = new Map<string, { question: Question; used: boolean; unread: readonly Unread[] }>();
  /** What was not read of the questions that were taken since the last quiz or bank. */
  private readonly ofQuestions: Unread[] = [];
  private versions: readonly QtiVersion[] = QTI_VERSIONS;
  /** Files of the questions of banks that stand for themselves, by the identifier of their section. */
  private readonly banks = new Map<string, ReadonlySet<string>>();

  constructor(pkg: Package, version: string, manifest: ManifestReader) {
    this.pkg = pkg;
    this.manifest = manifest;
    this.notes = this.manifest.notes;
    this.version = version;
  }

  async read(): Promise<ReadResult> {
    const outline = this.manifest.outline();
    await this.found();
    return {
      course: this.manifest.withUnread({
        title: this.manifest.title() || 'Questions without a title',
        origin: { format: 'qti', version: this.version, untouched: true, ...this.alsoAs() },
        metadata: this.manifest.metadata(),
        ...this.manifest.settings(),
        outline: outlineOf(leading(outline, this.itemOf), new Set(this.items.map((i) => i.id))),
        items: this.items,
        files: this.manifest.files(this.definitions),
      }),
      notes: this.notes,
    };
  }

  async found(): Promise<Questions> {
    const resources = [...this.manifest.resources.values()];
    const kind = (r: Resource) => /^imsqti_(?:apip)?(item|test|section|assessment)?/.exec(r.type)?.[1] ?? '';
    const qti = resources.filter((r) => isQti(r.type));
    for (const resource of qti.filter((r) => kind(r) === 'item')) await this.item(resource);
    // Sections first: tests draw from them.
    for (const resource of qti.filter((r) => kind(r) === 'section')) await this.container(resource);
    for (const resource of qti.filter((r) => kind(r) !== 'item' && kind(r) !== 'section')) {
      await this.container(resource);
    }
    // Sections are asked for by their place, banks by what they are called.
    const bankAt = new Map(
      this.items.flatMap((i) => (i.kind === 'bank' && i.definitionPath !== null ? [[i.definitionPath, i.id]] : [])),
    );
    for (const item of this.items) renameDraws(item, bankAt);
    const left = [...this.questions].filter(([, q]) => !q.used);
    const loose = left.map(([path, q]) => this.placed(q.question, path, null));
    const unread = left.flatMap(([, q]) => q.unread);
    const settings = unread.length > 0 ? { unread } : {};
    if (loose.length > 0) this.bank('loose-questions', 'Questions outside every quiz', null, loose, settings);
    return { items: this.items, itemOf: this.itemOf, definitions: this.definitions };
  }

  /** The versions in whose words every file of it can be said. */
  private alsoAs(): { alsoAs?: string[] } {
    const others = this.versions.filter((v) => v !== this.version);
    return this.version === '1.2' || others.length === 0 ? {} : { alsoAs: others };
  }

  /** A definition, and what it says of the versions that can say it. */
  private async define(path: string): Promise<XmlElement> {
    const root = await this.manifest.parse(path);
    const own = versionOfRoot(root) === null ? [] : versionsFor(root);
    this.versions = this.versions.filter((v) => own.includes(v));
    return root;
  }

  private resolver(place: string): (reference: string) => string | null {
    return (reference) => resolveReference((path) => this.pkg.entries.has(path), place, reference);
  }

  private async parse(resource: Resource): Promise<{ place: string; root: XmlElement } | null> {
    const [place] = resource.files;
    if (place === undefined) return null;
    try {
      const root = await this.define(place);
      this.definitions.add(place);
      return { place, root };
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      // One unreadable file must not cost the rest; but it can't be said in other words.
      this.versions = [];
      this.notes.push({ ...error.problem, item: resource.id, weight: 'warning' });
      this.foreign(resource, place);
      return null;
    }
  }

  private foreign({ id, type, files }: Resource, place: string): void {
    this.items.push({ kind: 'foreign', id, title: baseName(place), definitionPath: place, settings: {}, type, files });
  }

  private async item(resource: Resource): Promise<void> {
    const parsed = await this.parse(resource);
    if (!parsed) return;
    const { root, place } = parsed;
    const question = readItem(root, place, this.resolver(place));
    const whole = await this.withStimuli(question, root, place);
    this.questions.set(place, { question: whole, used: false, unread: this.manifest.ledger.takeOf(place) });
  }

  /** What several questions are asked about stands in files of its own (QTI 2.2 and 3.0): here it is part of each. */
  private async withStimuli(question: Question, root: XmlElement, place: string): Promise<Question> {
    const before: string[] = [];
    const files: string[] = [];
    for (const ref of kids(root, 'assessmentStimulusRef')) {
      const href = attributeOf(ref, 'href') ?? '';
      const path = this.manifest.find(folderOf(place), href);
      if (path === null) {
        this.missing(place, href, ref.line);
        continue;
      }
      const stimulus = await this.stimulus(path);
      if (stimulus === null) continue;
      const resolve = this.resolver(path);
      before.push(
        rebased(
          stimulus,
          (reference) => {
            const found = resolve(reference);
            if (found !== null) files.push(found);
            return found;
          },
          place,
        ),
      );
    }
    if (before.length === 0) return question;
    const prompt = { ...question.prompt, text: [...before, question.prompt.text].join('\n') };
    return { ...question, prompt, files: [...new Set([...question.files, ...files])] };
  }

  private async stimulus(path: string): Promise<string | null> {
    try {
      const root = await this.define(path);
      const body = kid(root, 'stimulusBody');
      return body ? `<div>${innerHtml(body).trim()}</div>` : null;
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      this.versions = [];
      this.notes.push({ ...error.problem, weight: 'warning' });
      return null;
    }
  }

  private async container(resource: Resource): Promise<void> {
    const before = this.items.length;
    await this.take(resource);
    const made = this.items.slice(before);
    this.tellUnread(resource, made);
    const meant = made.find((i) => i.kind === 'quiz') ?? made[0];
    if (meant) this.itemOf.set(resource.id, meant.id);
  }

  /** What was not read of a file, and of the questions that were used first by it, is told with the quiz or bank. */
  private tellUnread(resource: Resource, made: readonly Item[]): void {
    const holder = made.find((i) => i.kind === 'quiz') ?? made[0];
    if (!holder || holder.kind === 'foreign') return;
    const [place] = resource.files;
    const unread = [...(place === undefined ? [] : this.manifest.ledger.takeOf(place)), ...this.ofQuestions.splice(0)];
    if (unread.length > 0) holder.settings.unread = unread;
  }

  private async take(resource: Resource): Promise<void> {
    const parsed = await this.parse(resource);
    if (!parsed) return;
    const { root, place } = parsed;
    switch (nameOf(root)) {
      case 'questestinterop':
        return this.takeAsi(withMaterial(root), place, resource);
      case 'assessmentTest':
      case 'assessmentSection':
        return this.takeTest(root, place);
      case 'assessmentStimulus':
        // It came with the questions that are asked about it.
        return;
      default:
        // Rules and declarations that items share: carried as they are.
        this.definitions.delete(place);
        this.manifest.ledger.takeOf(place);
        this.foreign(resource, place);
    }
  }

  /** QTI 1.2: assessments, banks, and items that stand outside both. */
  private takeAsi(root: XmlElement, place: string, resource: Resource): void {
    const resolve = this.resolver(place);
    for (const element of elements(root)) {
      if (!['assessment', 'objectbank'].includes(element.name)) continue;
      const ident = element.attrs['ident'] ?? resource.id;
      if (element.name === 'assessment') {
        const title = fold(element.attrs['title'] ?? '') || baseName(place);
        const { questions, settings, banks } = readAssessment(element, place, title, resolve, (section) =>
          freeId(`${ident}-${section}`, [...this.items, { id: ident }]),
        );
        this.items.push({ kind: 'quiz', id: ident, title, definitionPath: place, settings, questions });
        this.items.push(...banks);
      } else {
        const title = metadataOf(element)['qmd_title'] ?? element.attrs['title'] ?? '';
        this.bank(
          ident,
          fold(title) || baseName(place).replace(/\.xml$/i, ''),
          place,
          readQuestions(element, place, resolve),
        );
      }
    }
    const outside = elements(root).filter((e) => e.name === 'item' || e.name === 'section');
    if (outside.length === 0) return;
    const holder = withChildren(root, outside);
    this.bank(resource.id, baseName(place).replace(/\.xml$/i, ''), place, readQuestions(holder, place, resolve));
  }

  /** QTI 2 and 3: a test is a quiz, a section that stands for itself is a bank. */
  private takeTest(root: XmlElement, place: string): void {
    const id = attributeOf(root, 'identifier') ?? place;
    const title = fold(attributeOf(root, 'title') ?? '') || baseName(place);
    if (isNamed(root, 'assessmentSection')) {
      this.bank(id, title, place, this.asked(root, place, place));
      this.banks.set(id, new Set(this.pathsIn(root, place)));
      return;
    }
    const draws: Record<string, string> = {};
    const questions: Question[] = [];
    const walk = (element: XmlElement): Section['parts'] =>
      elements(element).flatMap((part): Section['parts'] => {
        const name = nameOf(part);
        if (name === 'assessmentItemRef') {
          const found = this.question(part, place, place);
          questions.push(...found);
          return found.map((q) => q.id);
        }
        if (name === 'assessmentSectionRef') Object.assign(draws, this.sectionRef(part, place, 'all'));
        if (isNamed(part, 'testPart')) return walk(part);
        if (name !== 'assessmentSection') return [];
        const drawn = this.drawn(part, place, { id, title });
        if (drawn) Object.assign(draws, drawn);
        if (drawn) {
          // A section that only draws is called as its bank is.
          const names = [...Object.keys(drawn), ...this.items.flatMap((i) => (i.kind === 'bank' ? [i.title] : []))];
          names.some((name) => saysAgainIn(part, 'title', name));
          return [];
        }
        const inside = walk(part);
        // One that only draws says no more by its title than the quiz, if it is called so.
        if (inside.length === 0) saysAgainIn(part, 'title', title);
        return sectionOf(part, inside);
      });
    const sections = unwrapped(walk(root).filter((part) => typeof part !== 'string'));
    this.notes.push(...branching(root, place));
    const settings = {
      ...settingsOfTest(root, sections),
      ...sectionsWorth(sections, title),
      ...(Object.keys(draws).length > 0 ? { draws } : {}),
    };
    this.items.push({ kind: 'quiz', id, title, definitionPath: place, settings, questions });
  }

  /** What is asked for anywhere inside an element of the file `from`, as it reads from `to`. */
  private asked(element: XmlElement, from: string, to: string | null): Question[] {
    const refs = descendants(element).filter((e) => isNamed(e, 'assessmentItemRef'));
    return refs.flatMap((ref) => this.question(ref, from, to));
  }

  private pathsIn(element: XmlElement, from: string): string[] {
    return descendants(element)
      .filter((e) => isNamed(e, 'assessmentItemRef'))
      .flatMap((ref) => this.manifest.find(folderOf(from), attributeOf(ref, 'href') ?? '') ?? []);
  }

  private question(ref: XmlElement, from: string, to: string | null): Question[] {
    const href = attributeOf(ref, 'href') ?? '';
    const path = this.manifest.find(folderOf(from), href);
    const found = path === null ? undefined : this.questions.get(path);
    if (path === null || !found) {
      this.missing(from, href, ref.line);
      return [];
    }
    if (!found.used) this.ofQuestions.push(...found.unread);
    found.used = true;
    const weight = Number(attributeOf(kid(ref, 'weight') ?? ref, 'value') ?? 1);
    const question = this.placed(found.question, path, to);
    return [Number.isFinite(weight) && weight !== 1 ? timesPoints(question, weight) : question];
  }

  /** A question's texts name files as seen from its own file; its quiz or bank lies elsewhere. */
  private placed(question: Question, from: string, to: string | null): Question {
    return folderOf(from) === folderOf(to ?? '') ? question : rebasedQuestion(question, this.resolver(from), to);
  }

  private missing(place: string, href: string, line: number | undefined): void {
    this.notes.push(
      warning('question-missing', `${place} asks for ${href}, which is not in the package.`, { file: place, line }),
    );
  }

  private sectionRef(ref: XmlElement, place: string, many: string): Record<string, string> {
    const path = this.manifest.find(folderOf(place), attributeOf(ref, 'href') ?? '');
    return { [path ?? attributeOf(ref, 'identifier') ?? '']: many };
  }

  /** A section some of whose questions are drawn: what it draws from is a bank. `null` where it asks for all it has. */
  private drawn(
    section: XmlElement,
    place: string,
    quiz: { id: string; title: string },
  ): Record<string, string> | null {
    const many = Number(attributeOf(kid(section, 'selection') ?? section, 'select') ?? Number.NaN);
    if (!(many > 0)) return null;
    const own = attributeOf(section, 'identifier') ?? '';
    const refs = descendants(section).filter((e) => isNamed(e, 'assessmentItemRef'));
    const sections = kids(section, 'assessmentSectionRef');
    if (refs.length === 0) {
      const [only, ...more] = sections;
      if (!only) return { [own]: String(many) };
      return more.length === 0 ? this.sectionRef(only, place, String(many)) : null;
    }
    const bank = this.banks.get(own);
    if (bank && this.pathsIn(section, place).every((path) => bank.has(path))) return { [own]: String(many) };
    if (many >= refs.length || sections.length > 0) return null;
    const id = freeId(own, [...this.items, quiz]);
    const title = fold(attributeOf(section, 'title') ?? '') || `Questions of ${quiz.title}`;
    this.bank(id, title, null, this.asked(section, place, null));
    return { [id]: String(many) };
  }

  private bank(id: string, title: string, place: string | null, questions: Question[], settings: Settings = {}): void {
    const bank: ItemOf<'bank'> = { kind: 'bank', id, title, definitionPath: place, settings, questions };
    this.items.push(bank);
  }
}
