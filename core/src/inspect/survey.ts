import type { Engine, Limits, Package } from '../container/index.ts';
import { decodeText, readPage } from '../markup/index.ts';
import {
  kindOf,
  decodePercent,
  isLedTo,
  itemOfAddress,
  textsOf,
  titlesIn,
  warning,
  type Course,
  type CourseFile,
  type Item,
  type Note,
} from '../model/index.ts';
import { FindingsCollector, type Finding } from './findings/index.ts';
import type { CourseLink } from './links.ts';
import { readable } from './passages.ts';
import { FileReader, type ReadMode, type FileRead, type PassageRead, type ReadingOptions } from './reading.ts';
import { readAll } from './batches.ts';

export interface Survey {
  /** The course with hashes of its files, fingerprints of its items and the files their texts use. */
  course: Course;
  links: CourseLink[];
  notes: Note[];
  /** Languages that pages say they are in, with how many pages say so. */
  languages: Map<string, number>;
  /** None where `findings` was not asked for. */
  findings: Finding[];
}

export interface Kept {
  /** Not known where nobody asked for hashes. */
  sha256: string | undefined;
  /** Of pages. */
  print: string | undefined;
  links: readonly CourseLink[];
}

/** Reads files beside the thread that surveys. */
export interface FileWorker {
  read(paths: readonly string[], mode: ReadMode): Promise<FileRead[]>;
}

export interface SurveyOptions extends ReadingOptions {
  engine: Engine;
  /**
   * How much is read where no findings are waited for: all, with hashes, unless told; `unhashed` where nobody asks for them;
   * `checked` where nobody asks what texts say either, only whether files are damaged.
   */
  depth?: 'whole' | 'unhashed' | 'checked';
  onProgress?: (at: { done: number; total: number; unit: 'bytes' }) => void;
  /** What need not be read again, by package path: it is known from an earlier survey of the same bytes. */
  kept?: ReadonlyMap<string, Kept>;
  /** Told each text of an item once, as people read it, in the order of the course. */
  onText?: (item: Item, text: string) => void;
  /**
   * Told as soon as the findings are known and before the rest of the bytes is read: the findings are whole; of long files
   * the hashes are missing, and notes of their damage.
   */
  onFindings?: (known: Survey) => void;
  /** Others that read too: what is found is the same, only sooner. */
  workers?: readonly FileWorker[];
}

/**
 * Reads every file once: hashes it and, where it is a page or a style sheet, takes its text and links. Files are streamed;
 * only pages are held, one at a time. A damaged file is noted and left without a hash. Where findings are waited for, films
 * and other long files are hashed when all that findings need was read.
 */
export async function survey(pkg: Package, course: Course, options: SurveyOptions): Promise<Survey> {
  const { kept, workers = [], onFindings, onProgress, depth = 'whole' } = options;
  const reader = new FileReader(pkg, course, options.engine, options);
  const found = new SurveyBuilder(pkg, course, options);
  const total = course.files.reduce((sum, f) => sum + f.size, 0);
  let done = 0;
  const passed = (file: CourseFile) => {
    done += file.size;
    onProgress?.({ done, total, unit: 'bytes' });
  };
  const left: CourseFile[] = [];
  await readAll(course.files, onFindings ? 'with findings' : depth, { reader, workers, kept }, (file, read) => {
    found.take(file, read);
    // What is damaged at its beginning need not be read again to say so.
    if (onFindings && read?.refused === null && reader.isLeft(file)) left.push(file);
    else passed(file);
  });
  if (depth === 'checked' && !onFindings) found.leaveTexts();
  else found.readTexts(reader);
  if (!onFindings) return found.known();
  onFindings(found.known());
  await readAll(left, 'hash', { reader, workers }, (file, read) => {
    found.takeHash(file, read);
    passed(file);
  });
  return found.known();
}

/** What is known of a course while its files are read. */
class SurveyBuilder {
  private readonly pkg: Package;
  private readonly course: Course;
  private readonly options: SurveyOptions;
  private readonly collector: FindingsCollector | null;
  private readonly items: ReadonlyMap<string, Item>;
  private readonly pages = new Map<string, Item>();
  private readonly notes: Note[] = [];
  private readonly links: CourseLink[] = [];
  private readonly hashes = new Map<string, string>();
  /** What is wrong with files that can't be read. */
  private readonly damage = new Map<string, string>();
  private readonly anchors = new Map<string, ReadonlySet<string>>();
  private readonly languages = new Map<string, number>();
  private readonly marks = new Map<string, string[]>();
  private readonly prints = new Map<string, { print: string; embeds: string[]; leads: Record<string, string> }>();
  private readonly titleOf: ReturnType<typeof titlesIn>;
  private surveyed: readonly Item[] = [];
  private findings: Finding[] | null = null;

  constructor(pkg: Package, course: Course, options: SurveyOptions) {
    this.pkg = pkg;
    this.course = course;
    this.options = options;
    this.collector = options.findings ? new FindingsCollector(options.findings, pkg.limits.findings) : null;
    this.items = new Map(course.items.map((i) => [i.id, i]));
    this.titleOf = titlesIn(course);
    for (const item of course.items) if (item.kind === 'page') this.pages.set(item.file, item);
  }

  /** What one file holds; `null` where it is kept from before. */
  take(file: CourseFile, read: FileRead | null): void {
    const page = this.pages.get(file.path);
    if (!read) {
      const kept = this.options.kept?.get(file.path);
      if (!kept) throw new Error(`${file.path} was not read`);
      if (kept.sha256 !== undefined) this.hashes.set(file.path, kept.sha256);
      for (const link of kept.links) this.links.push(link);
      if (page) this.prints.set(page.id, { print: kept.print ?? '', ...this.needs(kept.links) });
      return;
    }
    this.heed(read);
    if (read.sha256 !== null) this.hashes.set(file.path, read.sha256);
    if (read.marks.length > 0) this.marks.set(file.path, read.marks);
    const { passage } = read;
    if (!passage) return;
    if (page) {
      const { language } = passage;
      if (language !== '') this.languages.set(language, (this.languages.get(language) ?? 0) + 1);
      this.anchors.set(file.path, passage.anchors);
      this.prints.set(page.id, { print: read.print ?? '', ...this.needs(passage.links) });
    }
    this.hear(passage);
  }

  /**
   * What a text needs to be whole: pictures, media, files it hands out, and items it leads to that have no page or file of
   * their own. Links to other pages are not among them, nor are style sheets and scripts: those are how a page looks, not
   * what it says.
   */
  private needs(links: readonly CourseLink[]): { embeds: string[]; leads: Record<string, string> } {
    const embeds = new Set<string>();
    const leads: Record<string, string> = {};
    for (const { use, value, path, to } of links) {
      const item = to === null ? undefined : this.items.get(to);
      const defined = item !== undefined && isLedTo(item);
      const named = itemOfAddress(value);
      if (named !== null && item === undefined) leads[named] = NOT_THERE;
      // By its address on the old platform nothing is led to anywhere else.
      if (defined && (path !== null || named !== null)) leads[item.id] = this.titleOf(item);
      else if (path !== null && use !== 'style' && use !== 'script' && !/\.x?html?$/i.test(path)) embeds.add(path);
    }
    return { embeds: [...embeds].sort(), leads };
  }

  private hear({ item, text, links, seen, unfollowed, unseen, unread }: PassageRead): void {
    for (const link of links) this.links.push(link);
    this.collector?.take(seen);
    const of = item === null ? undefined : this.items.get(item);
    if (unread > 0) this.notes.push(tooDeep(of, unread));
    if (unfollowed > 0 || unseen) this.notes.push(tooMuch(of, unfollowed, this.pkg.limits));
    if (of && text !== '') this.options.onText?.(of, text);
  }

  /** The hash of a file that was looked at before. */
  takeHash(file: CourseFile, read: FileRead | null): void {
    if (!read) return;
    this.heed(read);
    if (read.sha256 !== null) this.hashes.set(file.path, read.sha256);
  }

  /** What was wrong with a file. Another thread knows of headers that this one did not read. */
  private heed({ path, refused, otherwise }: FileRead): void {
    if (refused) this.notes.push({ ...refused, weight: 'warning' });
    if (refused?.code === 'entry-damaged') this.damage.set(path, refused.message);
    if (otherwise !== null) this.pkg.contradicts(path, otherwise);
  }

  /** Items' own texts come when every file was read; then it is known where all links lead. */
  readTexts(reader: FileReader): void {
    this.surveyed = this.course.items.map((item): Item => {
      const own = this.prints.get(item.id);
      const found = textsOf(item).flatMap(({ part, text }) => {
        const passage = reader.text(item, part, text);
        if (!passage) return [];
        this.hear(passage);
        return passage.links;
      });
      const needs = this.needs(found);
      const embeds = [...new Set([...(own?.embeds ?? []), ...needs.embeds, ...kindOf(item).shows(item)])]
        .filter((p) => p !== item.definitionPath)
        .sort();
      const leads = { ...own?.leads, ...needs.leads };
      const print = own?.print ?? (item.kind === 'file' ? undefined : this.options.engine.digest(substance(item)));
      return {
        ...item,
        settings: withNeeds(item.settings, { embeds, leads }),
        ...(print === undefined ? {} : { fingerprint: print }),
      };
    });
    this.followAnchors();
  }

  /** Of items nothing is known but what was read of their definitions. */
  leaveTexts(): void {
    this.surveyed = this.course.items;
  }

  /** Everything that is known by now. */
  known(): Survey {
    const files = this.course.files.map((file): CourseFile => {
      const sha256 = this.hashes.get(file.path);
      const damage = this.damage.get(file.path);
      return { ...file, ...(sha256 === undefined ? {} : { sha256 }), ...(damage === undefined ? {} : { damage }) };
    });
    const items = this.surveyed.map((item): Item => {
      const print = item.kind === 'file' ? this.hashes.get(item.file) : undefined;
      return print === undefined ? item : { ...item, fingerprint: print };
    });
    const course = { ...this.course, files, items };
    if (!this.findings) {
      this.findings = this.collector?.end(course, this.links, this.marks) ?? [];
      const left = this.collector?.left ?? 0;
      if (left > 0) this.notes.push(tooManyFindings(left, this.pkg.limits.findings));
    }
    return {
      course,
      links: this.links,
      notes: [...this.pkg.contradictions(), ...this.notes],
      languages: this.languages,
      findings: this.findings,
    };
  }

  /** Links to places in pages can be judged only now; those that lead nowhere are noted. */
  private followAnchors(): void {
    let told = 0;
    for (const [i, link] of this.links.entries()) {
      const known = link.path === null || link.path === link.file ? undefined : this.anchors.get(link.path);
      // Of a page that was not read again, what was known before still holds.
      if (known) this.links[i] = { ...link, lost: isLost(link, known) };
      if (link.state !== 'broken' || ++told > MOST_TOLD) continue;
      const item = link.item === null ? undefined : this.items.get(link.item);
      this.notes.push(
        warning(
          'link-broken',
          `“${item?.title ?? link.item ?? link.file ?? ''}” refers to ${link.value}, which is not in the package.`,
          {
            file: link.file ?? item?.definitionPath ?? undefined,
            item: item?.title,
            line: link.line,
          },
        ),
      );
    }
    if (told > MOST_TOLD) {
      this.notes.push(warning('links-broken', `${told - MOST_TOLD} further links lead to what is not in the package.`));
    }
  }
}

/** What is led to, where it was left out of the course. */
const NOT_THERE = 'an item that is not there';

/** Broken links that are noted one by one; all of them are findings. */
const MOST_TOLD = 500;

function tooDeep(item: Item | undefined, unread: number): Note {
  return warning(
    'text-too-deep',
    `The last ${unread} letters of “${item?.title ?? 'a text'}” were not read: elements nest deeper there than any browser shows.`,
    { item: item?.title, file: item?.definitionPath ?? undefined },
  );
}

function tooMuch(item: Item | undefined, unfollowed: number, limits: Limits): Note {
  const many = unfollowed > 0 ? `${unfollowed + limits.linksPerText} addresses` : 'more than can be told';
  return warning(
    'text-too-much',
    `“${item?.title ?? 'A text'}” has ${many}: of addresses the first ${limits.linksPerText} were followed up, and of each kind of finding the first ${limits.findingsPerText} are told.`,
    { item: item?.title, file: item?.definitionPath ?? undefined },
  );
}

function tooManyFindings(left: number, limit: number): Note {
  return warning('findings-too-many', `There are ${left} findings more than the ${limit} that are told.`);
}

/** What was said of an earlier survey does not stay. */
function withNeeds(
  settings: Item['settings'],
  needs: { embeds: string[]; leads: Record<string, string> },
): Item['settings'] {
  const after = { ...settings };
  delete after.embeds;
  delete after.leads;
  if (needs.embeds.length > 0) after.embeds = needs.embeds;
  if (Object.keys(needs.leads).length > 0) after.leads = needs.leads;
  return after;
}

/** Whether a link to another page names a place that this page does not have. */
function isLost(link: CourseLink, anchors: ReadonlySet<string>): boolean {
  const name = /#(.+)$/.exec(link.value)?.[1];
  return name !== undefined && name !== 'top' && !anchors.has(decodePercent(name));
}

/** What an item says, without mark-up and identifiers: so that it is found again after a platform renumbers it. */
export function substance(item: Item): string {
  return kindOf(item).fingerprint(item, readable);
}

/** All that an item says, as a person reads it: what the search looks through. */
export async function wordsOf(pkg: Package, item: Item): Promise<string> {
  if (item.kind === 'page') {
    if (!pkg.entries.has(item.file)) return '';
    return readPage(decodeText(await pkg.bytes(item.file))).text;
  }
  return textsOf(item)
    .map(({ text }) => readable(text))
    .filter((t) => t !== '')
    .join('\n');
}
