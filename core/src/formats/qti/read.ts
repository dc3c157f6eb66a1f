import type { Package } from '../../container/index.ts';
import { decodeText, descendants, elements, fold, parseXml, type XmlElement } from '../../markup/index.ts';
import {
  Refusal,
  baseName,
  folderOf,
  warning,
  type Item,
  type ItemOf,
  type Note,
  type Question,
  type Settings,
} from '../../model/index.ts';
import type { ReadResult } from '../format.ts';
import { ManifestReader, readManifest, type Resource } from '../imscp/manifest.ts';
import { metadataOf, readQuestions, readQuizSettings, renameDraws } from '../qti12/read.ts';
import { attributeOf, nameOf } from '../qti2/names.ts';
import { innerHtml, readItem } from '../qti2/read.ts';
import { resolveReference } from '../references.ts';

/** The version of QTI that the resources of a manifest are of, or `null` if none is. */
export function qtiVersionOf(root: XmlElement): string | null {
  const types = descendants(root)
    .filter((e) => e.name === 'resource')
    .map((e) => e.attrs['type'] ?? '');
  const [first] = types.flatMap((t) => /^imsqti_\w*?xmlv(\d)p(\d)/.exec(t)?.slice(1, 3).join('.') ?? []);
  return first === '1.1' ? '1.2' : (first ?? null);
}

/** Reads a package of questions: quizzes, banks, and questions that belong to neither. */
export async function readQtiPackage(pkg: Package): Promise<ReadResult> {
  const { root } = await readManifest(pkg);
  return new QtiPackageReader(pkg, root, qtiVersionOf(root) ?? '2.1').read();
}

class QtiPackageReader {
  private readonly notes: Note[];
  private readonly definitions = new Set<string>();
  private readonly pkg: Package;
  private readonly manifest: ManifestReader;
  private readonly version: string;
  private readonly items: Item[] = [];
  /** Questions of QTI 2 and 3 by the path of their file. */
  private readonly questions = new Map<string, { question: Question; used: boolean }>();

  constructor(pkg: Package, root: XmlElement, version: string) {
    this.pkg = pkg;
    this.manifest = new ManifestReader(pkg, root);
    this.notes = this.manifest.notes;
    this.version = version;
  }

  async read(): Promise<ReadResult> {
    const resources = [...this.manifest.resources.values()];
    const kind = (r: Resource) => /^imsqti_(item|test|section|assessment)?/.exec(r.type)?.[1] ?? '';
    const qti = resources.filter((r) => r.type.startsWith('imsqti_'));
    for (const resource of qti.filter((r) => kind(r) === 'item')) await this.item(resource);
    for (const resource of qti.filter((r) => kind(r) !== 'item')) await this.container(resource);
    // Sections are asked for by their place, banks by what they are called.
    const bankAt = new Map(this.items.flatMap((i) => (i.kind === 'bank' && i.place !== null ? [[i.place, i.id]] : [])));
    for (const item of this.items) renameDraws(item, bankAt);
    const loose = [...this.questions.values()].filter((q) => !q.used).map((q) => q.question);
    if (loose.length > 0) this.bank('loose-questions', 'Questions outside every quiz', null, loose);
    return {
      course: {
        title: this.manifest.title() || 'Questions without a title',
        origin: { format: 'qti', version: this.version, untouched: true },
        metadata: this.manifest.metadata(),
        outline: [],
        items: this.items,
        files: this.manifest.files(this.definitions),
      },
      notes: this.notes,
    };
  }

  private resolver(place: string): (reference: string) => string | null {
    return (reference) => resolveReference((path) => this.pkg.entries.has(path), place, reference);
  }

  private async parse(resource: Resource): Promise<{ place: string; text: string; root: XmlElement } | null> {
    const [place] = resource.files;
    if (place === undefined) return null;
    try {
      const text = decodeText(await this.pkg.bytes(place));
      const root = parseXml(text, place, this.pkg.limits.xmlDepth);
      this.definitions.add(place);
      return { place, text, root };
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      // One unreadable file must not cost the rest.
      this.notes.push({ ...error.problem, item: resource.id, weight: 'warning' });
      this.items.push({
        kind: 'foreign',
        id: resource.id,
        title: baseName(place),
        place,
        settings: {},
        type: resource.type,
        files: resource.files,
      });
      return null;
    }
  }

  private async item(resource: Resource): Promise<void> {
    const parsed = await this.parse(resource);
    if (!parsed) return;
    const question = readItem(parsed.root, parsed.text, this.resolver(parsed.place));
    this.questions.set(parsed.place, { question, used: false });
  }

  private async container(resource: Resource): Promise<void> {
    const parsed = await this.parse(resource);
    if (!parsed) return;
    if (parsed.root.name === 'questestinterop') this.takeAsi(parsed.root, parsed.place, resource);
    else this.takeTest(parsed.root, parsed.place);
  }

  /** QTI 1.2: assessments, banks, and items that stand outside both. */
  private takeAsi(root: XmlElement, place: string, resource: Resource): void {
    const resolve = this.resolver(place);
    for (const element of elements(root)) {
      const ident = element.attrs['ident'] ?? resource.id;
      if (element.name === 'assessment') {
        this.items.push({
          kind: 'quiz',
          id: ident,
          title: fold(element.attrs['title'] ?? '') || baseName(place),
          place,
          settings: readQuizSettings(element),
          questions: readQuestions(element, resolve),
        });
      } else if (element.name === 'objectbank') {
        const title = metadataOf(element)['qmd_title'] ?? element.attrs['title'] ?? '';
        this.bank(ident, fold(title) || baseName(place).replace(/\.xml$/i, ''), place, readQuestions(element, resolve));
      }
    }
    const outside = elements(root).filter((e) => e.name === 'item' || e.name === 'section');
    if (outside.length === 0) return;
    const holder: XmlElement = { ...root, children: outside };
    this.bank(resource.id, baseName(place).replace(/\.xml$/i, ''), place, readQuestions(holder, resolve));
  }

  /** QTI 2 and 3: a test is a quiz, a section that stands for itself is a bank. */
  private takeTest(root: XmlElement, place: string): void {
    const questions: Question[] = [];
    for (const ref of descendants(root).filter((e) => nameOf(e) === 'assessmentItemRef')) {
      const href = attributeOf(ref, 'href') ?? '';
      const path = this.manifest.find(folderOf(place), href);
      const found = path === null ? undefined : this.questions.get(path);
      if (found) {
        found.used = true;
        questions.push(found.question);
      } else {
        this.notes.push(
          warning(
            'question-missing',
            `${place} asks for ${href}, which is not in the package.`,
            'Look for it at its source.',
            {
              file: place,
              line: ref.line,
            },
          ),
        );
      }
    }
    const draws: Record<string, string> = {};
    for (const ref of descendants(root).filter((e) => nameOf(e) === 'assessmentSectionRef')) {
      const path = this.manifest.find(folderOf(place), attributeOf(ref, 'href') ?? '');
      if (path !== null) draws[path] = 'all';
    }
    const id = attributeOf(root, 'identifier') ?? place;
    const title = fold(attributeOf(root, 'title') ?? '') || baseName(place);
    if (nameOf(root) === 'assessmentSection') this.bank(id, title, place, questions);
    else
      this.items.push({
        kind: 'quiz',
        id,
        title,
        place,
        settings: { ...settingsOf(root), ...(Object.keys(draws).length > 0 ? { draws } : {}) },
        questions,
      });
  }

  private bank(id: string, title: string, place: string | null, questions: Question[]): void {
    const bank: ItemOf<'bank'> = { kind: 'bank', id, title, place, settings: {}, questions };
    this.items.push(bank);
  }
}

/** Times are seconds there and minutes here. */
function settingsOf(test: XmlElement): Settings {
  const all = descendants(test);
  const settings: Settings = {};
  const attempts = Number(
    all.filter((e) => nameOf(e) === 'itemSessionControl').map((e) => attributeOf(e, 'maxAttempts'))[0],
  );
  if (attempts > 0) settings.attempts = attempts;
  const limits = all.find((e) => nameOf(e) === 'timeLimits');
  const seconds = Number(limits && attributeOf(limits, 'maxTime'));
  if (seconds > 0) settings.timeLimit = seconds / 60;
  const rubric = all.find((e) => nameOf(e) === 'rubricBlock');
  if (rubric) {
    const content = elements(rubric).find((e) => nameOf(e) === 'contentBody') ?? rubric;
    settings.instructions = innerHtml(content).trim();
  }
  return settings;
}
