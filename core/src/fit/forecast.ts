import * as z from 'zod';
import { emphasized } from '../markup/index.ts';
import {
  holdsQuestions,
  KIND_LABELS,
  SETTINGS,
  baseName,
  hasPartialCredit,
  partOfManner,
  partsOf,
  questionOf,
  saysNothing,
  settingOf,
  subjects,
  isLedTo,
  listIn,
  whyLost,
  type Course,
  type Item,
  type KindRule,
  type Profile,
  type Question,
  type QuestionPart,
  type SettingName,
  type Subject,
  type SubjectKind,
  type Way,
} from '../model/index.ts';
import { Line, Totals, totalsOf, type PartLine, type SettingLine } from './outcome.ts';

export const Forecast = z.object({
  /** Profiles in the order in which the course passes through them: the format's, then the destination's. */
  profiles: z.array(z.object({ id: z.string(), label: z.string(), version: z.number() })),
  lines: z.array(Line),
  totals: Totals,
});
export type Forecast = z.infer<typeof Forecast>;

/**
 * What will become of every item, folder and set setting on its way through the profiles. Each subject of the course
 * is named exactly once, and so is each of its settings.
 */
export function forecast(course: Course, profiles: readonly Profile[]): Forecast {
  const sizes = new Map(course.files.map((f) => [f.path, f.size]));
  const all = subjects(course);
  const lines = all.map((subject) => forecastSubject(subject, profiles, sizes));
  const judged = judgePlaces(judgeVariants(judgeLeads(lines)), all);
  return {
    profiles: profiles.map(({ id, label, version }) => ({ id, label, version })),
    lines: judged,
    totals: totalsOf(judged),
  };
}

/** What a format loses: the lines of the forecast against its profile (see `profileOn`) that are not whole. */
export function declaredLosses(course: Course, profile: Profile | null): Line[] {
  return forecast(course, profile ? [profile] : []).lines.filter((line) => line.outcome !== 'whole');
}

/** A link to another item comes along only where that item does, as something that is not a page. */
function judgeLeads(lines: readonly Line[]): Line[] {
  const becomes = new Map(lines.map((line) => [line.source, line.as]));
  return lines.map((line) => {
    const leads = line.settings.find((s) => s.name === 'leads' && s.outcome === 'whole');
    if (typeof leads?.was !== 'object' || leads.was === null || Array.isArray(leads.was)) return line;
    const reasons = Object.entries(leads.was).flatMap(([id, title]) => {
      const as = becomes.get(`item:${id}`) ?? null;
      if (as === null) return [`“${title}” is left behind`];
      return isLedTo({ kind: as }) ? [] : [`“${title}” is a ${KIND_LABELS[as]} there, to which the link leads`];
    });
    if (reasons.length === 0) return line;
    const lost = { ...leads, is: null, outcome: 'left behind' as const, reason: reasons.join(', ') };
    return {
      ...line,
      outcome: line.outcome === 'whole' ? 'reworked' : line.outcome,
      settings: line.settings.map((s) => (s === leads ? lost : s)),
    };
  });
}

/** Another version of an item is one only as long as it is there too. */
function judgeVariants(lines: readonly Line[]): Line[] {
  const becomes = new Map(lines.map((line) => [line.source, line.as]));
  return lines.map((line) => {
    const variants = line.settings.find((s) => s.name === 'variants' && s.outcome === 'whole');
    const was = listIn(variants?.was);
    const gone = was.filter((id) => (becomes.get(`item:${id}`) ?? null) === null);
    if (!variants || gone.length === 0) return line;
    const all = gone.length === was.length;
    const lost = {
      ...variants,
      is: all ? null : was.filter((id) => !gone.includes(id)),
      outcome: all ? ('left behind' as const) : ('reworked' as const),
      reason: 'another version of it is left behind',
    };
    return {
      ...line,
      outcome: line.outcome === 'whole' ? 'reworked' : line.outcome,
      settings: line.settings.map((s) => (s === variants ? lost : s)),
    };
  });
}

/** An item that is left behind stands nowhere. */
function judgePlaces(lines: readonly Line[], all: readonly Subject[]): Line[] {
  const becomes = new Map(lines.map((line) => [line.source, line.as]));
  return lines.map((line, i) => {
    const item = all[i]?.placed?.node.item;
    if (line.kind !== 'occurrence' || line.as === null || becomes.get(`item:${item}`) !== null) return line;
    return {
      ...line,
      as: null,
      outcome: 'left behind',
      reasons: ['the item is left behind'],
      settings: line.settings.map((s) => ({
        ...s,
        is: null,
        outcome: 'left behind',
        reason: 'the item is left behind',
      })),
    };
  });
}

function forecastSubject(subject: Subject, profiles: readonly Profile[], sizes: ReadonlyMap<string, number>): Line {
  const { item, placed } = subject;
  let as: SubjectKind | null = subject.kind;
  const reasons: string[] = [];
  const lost = new Map<SettingName, string>();
  const parts: PartLine[] = [];
  const set = SETTINGS.filter((name) => settingOf(subject, name) !== null);
  let questions = item && holdsQuestions(item) ? item.questions : [];
  for (const profile of profiles) {
    if (as === null) break;
    const rule: KindRule | undefined = profile.kinds[as];
    if (rule?.carry === 'never') {
      reasons.push(rule.reason);
      as = null;
      break;
    }
    for (const name of set) {
      const reason = whyLost(profile, as, name);
      if (reason !== undefined && !lost.has(name)) lost.set(name, reason);
    }
    const way: Way | undefined = rule?.ways[0];
    if (way) {
      reasons.push(way.reason);
      for (const name of way.drops) if (set.includes(name) && !lost.has(name)) lost.set(name, way.reason);
      as = way.as;
    }
    const { folderDepth, fileBytes, titleLength, belowItems } = profile.limits;
    if (item && as !== null && belowItems && (placed?.node.children.length ?? 0) > 0) reasons.push(belowItems.reason);
    const hangsDeep = placed && folderDepth && (placed.depth >= folderDepth.at || (placed.belowItem && belowItems));
    if (as === 'folder' && hangsDeep) {
      as = 'heading';
      reasons.push(folderDepth.reason);
    }
    if (item?.kind === 'file' && fileBytes && (sizes.get(item.file) ?? 0) > fileBytes.at) {
      as = null;
      reasons.push(fileBytes.reason);
    }
    const unfit = profile.limits.nameCharacters;
    if (item?.kind === 'file' && as !== null && unfit && isUnfit(item.file, unfit.not)) {
      as = null;
      reasons.push(`${profile.label} ${unfit.reason}`);
    }
    if (item && unfit) {
      for (const name of ['attachments', 'instructorAttachments', 'embeds'] as const) {
        const paths = item.settings[name];
        if (Array.isArray(paths) && !lost.has(name) && paths.some((path) => isUnfit(path, unfit.not)))
          lost.set(name, `${profile.label} ${unfit.reason}`);
      }
    }
    const untitled = as === null || placed ? undefined : profile.untitled?.[as];
    if (untitled !== undefined) reasons.push(untitled);
    if (titleLength && [...subject.title].length > titleLength.at) reasons.push(titleLength.reason);
    questions = questions.flatMap((question) => forecastQuestion(question, profile, parts));
  }
  keepFilesShownElsewhere(item, lost);
  const gone = as === null;
  const loses = (name: SettingName): string | undefined => {
    const value = settingOf(subject, name);
    return value === null || saysNothing(name, value, emphasized) ? undefined : lost.get(name);
  };
  const settings = set.map((name): SettingLine => {
    const was = subject.settings[name] ?? null;
    const reason = gone ? `the ${item ? 'item' : 'place'} is left behind` : loses(name);
    if (reason === undefined && name === 'sections' && parts.some((part) => part.outcome === 'left behind'))
      return { name, was, is: was, outcome: 'reworked', reason: 'without the questions that are left behind' };
    return reason === undefined
      ? { name, was, is: was, outcome: 'whole', reason: '' }
      : { name, was, is: null, outcome: 'left behind', reason };
  });
  const reworked = as !== subject.kind || reasons.length > 0 || lost.size > 0 || parts.length > 0;
  return {
    source: subject.key,
    arrived: null,
    title: subject.title,
    kind: subject.kind,
    trail: [...(placed?.trail ?? [])],
    as,
    outcome: gone ? 'left behind' : reworked ? 'reworked' : 'whole',
    reasons,
    settings,
    parts: mergeParts(parts),
  };
}

/** Whether a file's name has signs in it that a destination can not bear. */
function isUnfit(path: string, not: string): boolean {
  return [...baseName(path)].some((sign) => not.includes(sign));
}

/** A file that is attached and shown in the text comes along as either: it is lost only with both. */
function keepFilesShownElsewhere(item: Item | null, lost: Map<SettingName, string>): void {
  const files = (name: 'attachments' | 'embeds') => {
    const value = item?.settings[name];
    return Array.isArray(value) && !lost.has(name) ? value : [];
  };
  for (const [name, other] of [
    ['attachments', 'embeds'],
    ['embeds', 'attachments'],
  ] as const) {
    const own = item?.settings[name];
    if (!lost.has(name) || !Array.isArray(own)) continue;
    const there = new Set(files(other));
    if (own.every((path) => there.has(path))) lost.delete(name);
  }
}

function forecastQuestion(question: Question, profile: Profile, parts: PartLine[]): Question[] {
  const title = question.title || question.id;
  const rule = profile.questions[question.type];
  if (rule?.carry === 'never') {
    parts.push({ title, outcome: 'left behind', reason: rule.reason });
    return [];
  }
  if (rule) parts.push({ title, outcome: 'reworked', reason: rule.reason });
  for (const part of questionPartsOf(question)) {
    const reason = profile.questionParts[part];
    if (reason !== undefined) parts.push({ title, outcome: 'reworked', reason });
  }
  return [rule ? questionOf(rule.as, question, partsOf(question)) : question];
}

/** Which of the parts that a profile may name this question has. */
export function questionPartsOf(question: Question): QuestionPart[] {
  const found: QuestionPart[] = Object.keys(question.feedback) as QuestionPart[];
  const { choices, answers, numbers } = partsOf(question);
  if (choices.some((c) => c.feedback)) found.push('choice feedback');
  if ([...answers, ...numbers].some((key) => key.feedback)) found.push('answer feedback');
  if (question.category !== undefined) found.push('category');
  if (question.points !== null) found.push('points');
  if (hasPartialCredit(question)) found.push('partial credit');
  const { others, least, most } = question.scoring ?? {};
  if (others !== undefined) found.push('score of other answers');
  if (least !== undefined) found.push('least score');
  // What a question is worth is its limit by itself.
  if (most !== undefined && most !== question.points) found.push('most score');
  if (question.shuffled) found.push('shuffling');
  for (const manner of question.asked?.by ?? []) found.push(partOfManner(manner));
  if (question.scoredOtherwise) found.push('rules of scoring');
  const { subquestions } = partsOf(question);
  if (question.points !== null && subquestions.length > 1 && subquestions.every((part) => part.points === null)) {
    found.push('points given together');
  }
  return [...new Set([...found, ...subquestions.flatMap(questionPartsOf)])];
}

/** One line a question, its reasons joined. */
function mergeParts(parts: readonly PartLine[]): PartLine[] {
  const merged = new Map<string, PartLine>();
  for (const part of parts) {
    const before = merged.get(part.title);
    merged.set(
      part.title,
      before
        ? {
            title: part.title,
            outcome: before.outcome === 'left behind' ? before.outcome : part.outcome,
            reason: `${before.reason}; ${part.reason}`,
          }
        : part,
    );
  }
  return [...merged.values()];
}
