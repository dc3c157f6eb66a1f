import {
  conditionWords,
  listIn,
  type Condition,
  type Course,
  type SettingName,
  type Settings,
  type Subject,
} from '../model/index.ts';

/** Settings that are told as sentences, not as a name with a value. */
export const RULE_SETTINGS: readonly SettingName[] = [
  'visibleWhen',
  'doneWhen',
  'onlyFor',
  'prerequisites',
  'sequencing',
];

/**
 * The rules of an item, or of a place, as sentences: when it is shown, to whom, when it counts as done, and for an automation what it
 * does. Identifiers of items are said as their titles.
 */
export function ruleSentences(of: Pick<Subject, 'kind' | 'settings'>, course: Course): string[] {
  const titles = new Map(course.items.map((i) => [i.id, `“${i.title}”`]));
  const name = (id: string) => titles.get(id) ?? id;
  const { settings } = of;
  const conditions = settings.visibleWhen ?? [];
  if (of.kind === 'automation') {
    const whom = settings.audience === 'tutor' ? 'the tutor' : 'the learner';
    return conditions.map((c) => sentence(`Mails ${whom} when ${conditionWords(c, name)}`));
  }
  return [
    ...shown(conditions, name),
    ...one(settings.onlyFor, (group) => `Only for the group “${group}”`),
    ...one(settings.doneWhen, (done) => `Counts as done when ${DONE[done] ?? done}`),
    ...one(settings.prerequisites, (words) => `Open once ${prerequisites(words, name)}`),
    ...list(settings.sequencing).map((rule) => sentence(sequencing(rule))),
  ];
}

const DONE: Record<string, string> = {
  viewed: 'it was opened',
  'handed in': 'something was handed in',
  passed: 'it is passed',
  posted: 'something was posted',
};

function shown(conditions: readonly Condition[], name: (id: string) => string): string[] {
  return conditions.map((condition) => {
    if (condition.is !== 'score') return sentence(`Visible when ${conditionWords(condition, name)}`);
    const { item, side, percent } = condition;
    const reach = side === 'below' ? `less than ${percent} %` : percent === 0 ? 'any score' : `${percent} % or more`;
    return sentence(`Visible after ${name(item)}, ${reach}`);
  });
}

/** The script of SCORM 1.2 (`aicc_script`): identifiers joined by `&`, `|` and `~`, a status after `=`. */
function prerequisites(script: string, name: (id: string) => string): string {
  return script
    .split(/([&|~()])/)
    .map((part) => {
      const word = part.trim();
      if (word === '&') return ' and ';
      if (word === '|') return ' or ';
      if (word === '~') return 'not ';
      const [, id = '', status] = /^([^=<>]+?)\s*=\s*"?(\w[\w ]*)"?$/.exec(word) ?? ['', word];
      return /^[()]?$/.test(word) ? word : `${name(id)} is ${STATUS[status ?? ''] ?? status ?? 'completed'}`;
    })
    .join('');
}

const STATUS: Record<string, string> = {
  p: 'passed',
  c: 'completed',
  f: 'failed',
  i: 'begun',
  b: 'looked through',
  n: 'not begun',
};

/** `preConditionRule: skip if satisfied`, of SCORM 2004 SN 3.4.2 and SN 4.6. */
function sequencing(rule: string): string {
  const [, kind = '', action = '', conditions = ''] = /^(\w+): (\w*) if (.*)$/.exec(rule) ?? [];
  const did = ACTIONS[action];
  if (did === undefined) return rule;
  const when = conditions
    .split(', ')
    .map((c) => CONDITIONS[c] ?? c.replace(/([A-Z])/g, ' $1').toLowerCase())
    .join(', ');
  if (kind === 'rollupRule') return `${did} when enough of what is in it ${when}`;
  const moment = kind === 'postConditionRule' ? ' afterwards' : kind === 'exitConditionRule' ? ' while it is open' : '';
  return `${did}${moment}${conditions === 'always' ? '' : ` when it ${when}`}`;
}

const ACTIONS: Record<string, string> = {
  skip: 'Skipped',
  disabled: 'Can’t be opened',
  hiddenFromChoice: 'Not offered to choose',
  stopForwardTraversal: 'Nothing after it is reached',
  exit: 'Left',
  exitParent: 'Left, with what it is in',
  exitAll: 'Everything is left',
  retry: 'Begun anew',
  retryAll: 'Everything is begun anew',
  continue: 'Goes on to the next',
  previous: 'Goes back to the one before',
  satisfied: 'Satisfied',
  notSatisfied: 'Not satisfied',
  completed: 'Completed',
  incomplete: 'Not completed',
};

const CONDITIONS: Record<string, string> = {
  satisfied: 'is satisfied',
  completed: 'is completed',
  attempted: 'was attempted',
  attemptLimitExceeded: 'was attempted as often as allowed',
  timeLimitExceeded: 'took longer than allowed',
  outsideAvailableTimeRange: 'is outside its time',
  objectiveStatusKnown: 'has a status',
  objectiveMeasureKnown: 'has a score',
  objectiveMeasureGreaterThan: 'has more than the score named',
  objectiveMeasureLessThan: 'has less than the score named',
  activityProgressKnown: 'was gone through in part',
};

function sentence(words: string): string {
  return /[.!?]$/.test(words) ? words : `${words}.`;
}

function list(value: Settings['sequencing']): string[] {
  return typeof value === 'string' ? [value] : listIn(value);
}

function one(value: Settings[SettingName], words: (value: string) => string): string[] {
  return typeof value === 'string' ? [sentence(words(value))] : [];
}
