import type { Course, Profile } from '../../model/index.ts';
import type { CourseLink } from '../links.ts';
import type { Passage } from '../reading.ts';
import {
  scanContextOf,
  type Finding,
  type FindingKind,
  type FindingOptions,
  type FindingDraft,
  type OutsideAnswer,
  type ScanContext,
  type Weight,
} from './contract.ts';
import { announcementStale } from './announcement-stale/index.ts';
import { dateInWords } from './date-in-words/index.ts';
import { datePast } from './date-past/index.ts';
import { doubled } from './doubled/index.ts';
import { embed } from './embed/index.ts';
import { fileInRepository } from './file-in-repository/index.ts';
import { fileTellsOfPeople } from './file-tells-of-people/index.ts';
import { fileDamaged } from './file-damaged/index.ts';
import { fileTooLong } from './file-too-long/index.ts';
import { fileUnused } from './file-unused/index.ts';
import { folderEmpty } from './folder-empty/index.ts';
import { guarded } from './guarded/index.ts';
import { headingJump } from './heading-jump/index.ts';
import { hidden } from './hidden/index.ts';
import { iconFont } from './icon-font/index.ts';
import { linkBroken } from './link-broken/index.ts';
import { linkByOldAddress } from './link-by-old-address/index.ts';
import { linkLostPlace } from './link-lost-place/index.ts';
import { linkOldPlatform } from './link-old-platform/index.ts';
import { linkOtherCourse } from './link-other-course/index.ts';
import { linkOutsideGone } from './link-outside-gone/index.ts';
import { linkRepository } from './link-repository/index.ts';
import { linkFromRoot } from './link-from-root/index.ts';
import { linkOwnMachine } from './link-own-machine/index.ts';
import { linkWithoutScheme } from './link-without-scheme/index.ts';
import { linkWrittenOtherwise } from './link-written-otherwise/index.ts';
import { nameUnfit } from './name-unfit/index.ts';
import { ownPlayer } from './own-player/index.ts';
import { peopleFile } from './people-file/index.ts';
import { peopleRecords } from './people-records/index.ts';
import { personInText } from './person-in-text/index.ts';
import { pictureWithoutWords } from './picture-without-words/index.ts';
import { placeholder } from './placeholder/index.ts';
import { pointsDoNotAddUp } from './points-do-not-add-up/index.ts';
import { questionWithoutKey } from './question-without-key/index.ts';
import { quizUnused } from './quiz-unused/index.ts';
import { quizWithoutQuestions } from './quiz-without-questions/index.ts';
import { script } from './script/index.ts';
import { styleClass } from './style-class/index.ts';
import { tableWithoutHeader } from './table-without-header/index.ts';
import { tool } from './tool/index.ts';

export * from './contract.ts';
export { DATE_IN_WORDS } from './date-in-words/index.ts';
export { addressAsked } from './link-outside-gone/index.ts';

/** In the order in which they are shown within their weight. */
export const FINDING_KINDS: readonly FindingKind[] = [
  linkBroken,
  linkFromRoot,
  linkOwnMachine,
  linkWrittenOtherwise,
  linkLostPlace,
  linkByOldAddress,
  linkOtherCourse,
  linkOldPlatform,
  linkRepository,
  linkWithoutScheme,
  linkOutsideGone,
  ownPlayer,
  placeholder,
  embed,
  script,
  iconFont,
  styleClass,
  pictureWithoutWords,
  tableWithoutHeader,
  headingJump,
  quizWithoutQuestions,
  questionWithoutKey,
  fileDamaged,
  fileTooLong,
  pointsDoNotAddUp,
  guarded,
  tool,
  fileInRepository,
  nameUnfit,
  datePast,
  dateInWords,
  announcementStale,
  doubled,
  hidden,
  folderEmpty,
  quizUnused,
  fileUnused,
  peopleRecords,
  peopleFile,
  personInText,
  fileTellsOfPeople,
];

const BY_ID = new Map(FINDING_KINDS.map((kind) => [kind.id, kind]));
export function findingKind(id: string): FindingKind | undefined {
  return BY_ID.get(id);
}

/** Findings that are decided on at Tidy, and those that wait for the step Re-date. */
export function byStep(findings: readonly Finding[]): { tidy: Finding[]; redate: Finding[] } {
  const later = (f: Finding) => findingKind(f.kind)?.step === 're-date';
  return { tidy: findings.filter((f) => !later(f)), redate: findings.filter(later) };
}

/** A kind of finding as it is told to people, in words for their destination. */
export interface FindingKindWords {
  id: string;
  label: string;
  weight: Weight;
  why: string;
  mends: string[];
}

/** The kinds that there are findings of, in their order. */
export function kindsFound(findings: readonly Finding[], destination: Profile | null): FindingKindWords[] {
  const found = new Set(findings.map((f) => f.kind));
  return FINDING_KINDS.filter((k) => found.has(k.id)).map((k) => ({
    id: k.id,
    label: k.label,
    weight: k.weight,
    why: k.why(destination),
    mends: [...k.mends],
  }));
}

const IN_PASSAGES = FINDING_KINDS.filter((k) => 'inPassage' in k);

/** One find in a text, and of which kind it is. */
export interface Seen {
  kind: string;
  one: FindingDraft;
}

/** Looks at texts one by one. It knows nothing of what was seen before, so that several can look at one course. */
export class PassageScanner {
  private readonly context: ScanContext;

  constructor(course: Course, options: FindingOptions) {
    this.context = scanContextOf(course, options);
  }

  /** What is seen in a text, at most so much of each kind; and whether there was more. */
  scan(passage: Passage, most: number): { seen: Seen[]; left: boolean } {
    const seen: Seen[] = [];
    let left = false;
    for (const kind of IN_PASSAGES) {
      let found = 0;
      for (const one of kind.inPassage?.(passage, this.context) ?? []) {
        if (++found > most) {
          left = true;
          break;
        }
        seen.push({ kind: kind.id, one });
      }
    }
    return { seen, left };
  }
}

/** Collects the findings of one course: told what was seen in its texts, then the whole. */
export class FindingsCollector {
  private readonly options: FindingOptions;
  private readonly found: Finding[] = [];
  private readonly times = new Map<string, number>();
  private readonly most: number;
  /** Findings beyond the limit. */
  left = 0;

  constructor(options: FindingOptions, most = Infinity) {
    this.options = options;
    this.most = most;
  }

  take(seen: readonly Seen[]): void {
    for (const { kind: id, one } of seen) {
      const kind = findingKind(id);
      if (kind) this.add(kind, one);
    }
  }

  /** `course` is the surveyed one; `fileMarks` is what was found in files that are no texts. */
  end(
    course: Course,
    links: readonly CourseLink[],
    fileMarks: ReadonlyMap<string, readonly string[]> = new Map(),
    only?: readonly string[],
  ): Finding[] {
    const context = { ...scanContextOf(course, this.options, links), fileMarks };
    for (const kind of FINDING_KINDS) {
      if (only && !only.includes(kind.id)) continue;
      for (const one of kind.inCourse?.(context) ?? []) this.add(kind, one);
    }
    const order = new Map(FINDING_KINDS.map((k, i) => [k.id, i]));
    return this.found.sort((a, b) => (order.get(a.kind) ?? 0) - (order.get(b.kind) ?? 0));
  }

  private add(kind: FindingKind, one: FindingDraft): void {
    if (this.found.length >= this.most) {
      this.left++;
      return;
    }
    const { item = null, part = '', file = item?.definitionPath ?? null, groupKey = kind.id } = one;
    const place = `${kind.id}|${item?.id ?? one.node ?? one.title ?? file ?? ''}|${part}|${groupKey}`;
    const times = (this.times.get(place) ?? 0) + 1;
    this.times.set(place, times);
    this.found.push({
      key: times === 1 ? place : `${place}|${times}`,
      kind: kind.id,
      weight: one.weight ?? kind.weight,
      groupKey,
      item: item?.id ?? null,
      node: one.node ?? null,
      title: one.title ?? item?.title ?? file ?? '',
      part,
      file,
      line: one.line ?? null,
      evidence: one.evidence,
      spot: one.spot ?? null,
      suggestions: one.suggestions ?? [],
    });
  }
}

/** What the answers of outside addresses say of a course that was looked at before. */
export function findingsOutside(
  course: Course,
  links: readonly CourseLink[],
  outside: readonly OutsideAnswer[],
): Finding[] {
  const collector = new FindingsCollector({ today: '', outside });
  return collector.end(course, links, new Map(), ['link-outside-gone']);
}
