import {
  KIND_LABELS,
  SETTING_LABELS,
  SubjectKind,
  type KindRule,
  type Profile,
  type QuestionRule,
  type SettingName,
} from '../model/index.ts';

/** One thing that a profile says something of: what becomes of it, and why. */
interface Topic {
  of: string;
  what: string;
  why: string;
}

/** Things that are said of alike. What a profile does not mention has one word for all of them. */
interface Chapter {
  unsaid: string;
  topics: (profile: Profile) => Topic[];
}

type LimitName = keyof Profile['limits'];

export const LIMIT_LABELS: Record<LimitName, string> = {
  folderDepth: 'of folder depth',
  fileBytes: 'of bytes a file',
  titleLength: 'of characters a title',
  nameCharacters: 'of characters that names may not have',
  belowItems: 'of what hangs below items',
};

const LIMITS = Object.keys(LIMIT_LABELS) as LimitName[];

const CHAPTERS: readonly Chapter[] = [
  {
    unsaid: 'carried whole',
    topics: ({ kinds }) => said(kinds).map(([kind, rule]) => ({ of: KIND_LABELS[kind], ...kindWords(rule) })),
  },
  {
    unsaid: 'kept',
    topics: ({ settings }) =>
      said(settings).flatMap(([kind, lost]) =>
        said(lost).map(([name, why]) => ({ of: `${KIND_LABELS[kind]}, ${SETTING_LABELS[name]}`, what: 'lost', why })),
      ),
  },
  {
    unsaid: 'kept',
    topics: ({ keeps }) =>
      !keeps
        ? []
        : SubjectKind.options.map((kind) => {
            const kept = settingWords(keeps[kind] ?? []);
            const what = kept === '' ? 'lost' : `lost but for ${kept}`;
            return { of: `${KIND_LABELS[kind]}, other settings`, what, why: '' };
          }),
  },
  {
    unsaid: 'kept',
    topics: ({ untitled = {} }) =>
      said(untitled).map(([kind, why]) => ({
        of: `${KIND_LABELS[kind]}, its title outside the outline`,
        what: 'lost',
        why,
      })),
  },
  {
    unsaid: 'carried whole',
    topics: ({ questions }) => said(questions).map(([type, rule]) => ({ of: `question, ${type}`, ...ruleWords(rule) })),
  },
  {
    unsaid: 'kept',
    topics: ({ questionParts }) =>
      said(questionParts).map(([part, why]) => ({ of: `of questions, ${part}`, what: 'lost', why })),
  },
  {
    unsaid: 'none',
    topics: (profile) =>
      LIMITS.flatMap((name) =>
        limitWords(profile, name).map((words) => ({ of: `limit ${LIMIT_LABELS[name]}`, ...words })),
      ),
  },
  {
    unsaid: 'shown as they are',
    topics: ({ html }) => [
      ...(html?.embeds
        ? [
            {
              of: 'frames of other sites',
              what: html.embeds.hosts.length === 0 ? 'not shown' : `shown only of ${list(html.embeds.hosts)}`,
              why: html.embeds.reason,
            },
          ]
        : []),
      ...(html?.scripts === undefined ? [] : [{ of: 'scripts in pages', what: 'not run', why: html.scripts }]),
      ...(html?.deadClasses ?? []).map(({ prefix, reason }) => ({
        of: `classes that begin with ${prefix}`,
        what: 'without their style sheet',
        why: reason,
      })),
    ],
  },
];

/** What is different in a newer version of a profile, as sentences: none only where nothing is. */
export function profileChanges(before: Profile, after: Profile): string[] {
  return CHAPTERS.flatMap(({ unsaid, topics }) => {
    const [was, is] = [byName(topics(before)), byName(topics(after))];
    return [...new Set([...was.keys(), ...is.keys()])].sort().flatMap((of) => {
      const [old, now] = [was.get(of) ?? { what: unsaid, why: '' }, is.get(of) ?? { what: unsaid, why: '' }];
      if (old.what !== now.what) return [`${of}: ${old.what} before, ${now.what} now`];
      return old.why === now.why ? [] : [`${of}, why: “${old.why}” before, “${now.why}” now`];
    });
  });
}

function byName(topics: readonly Topic[]): Map<string, Topic> {
  return new Map(topics.map((topic) => [topic.of, topic]));
}

/** What of a record is there, with its names as they are typed. */
function said<T extends string, V>(record: Partial<Record<T, V>>): [T, NonNullable<V>][] {
  return Object.entries(record).filter((e): e is [T, NonNullable<V>] => e[1] !== undefined && e[1] !== null);
}

function limitWords({ limits }: Profile, name: LimitName): Pick<Topic, 'what' | 'why'>[] {
  const limit = limits[name];
  if (!limit) return [];
  const what = 'at' in limit ? String(limit.at) : 'not' in limit ? limit.not : 'stands after them';
  return [{ what, why: limit.reason }];
}

function kindWords(rule: KindRule): Pick<Topic, 'what' | 'why'> {
  if (rule.carry === 'never') return { what: 'left behind', why: rule.reason };
  const ways = rule.ways.map(({ as, drops }) =>
    drops.length === 0 ? KIND_LABELS[as] : `${KIND_LABELS[as]} without ${settingWords(drops)}`,
  );
  return { what: `carried as ${ways.join(' or ')}`, why: rule.ways.map((way) => way.reason).join(' or ') };
}

function ruleWords(rule: QuestionRule): Pick<Topic, 'what' | 'why'> {
  return { what: rule.carry === 'never' ? 'left behind' : `carried as ${rule.as}`, why: rule.reason };
}

function settingWords(names: readonly SettingName[]): string {
  return list(names.map((name) => SETTING_LABELS[name]));
}

/** In one order, whichever they stand in. */
function list(words: readonly string[]): string {
  return [...new Set(words)].sort().join(', ');
}
