import { canStrip, type Finding } from '../../inspect/index.ts';
import {
  holdsQuestions,
  mapSections,
  walkOutline,
  type Item,
  type OutlineNode,
  type SettingName,
} from '../../model/index.ts';
import type { MendKind, Workbench } from './contract.ts';

/** Mends of items, files and settings. */

function changeSettings(
  finding: Finding,
  work: Workbench,
  change: (settings: Item['settings']) => Item['settings'],
): string | null {
  if (finding.item !== null) {
    work.change(finding.item, (item) => ({ ...item, settings: change(item.settings) }));
  } else if (finding.node !== null) work.changePlace(finding.node, change);
  else return 'it is about no item and no place';
  return null;
}

function without(settings: Item['settings'], names: readonly string[]): Item['settings'] {
  return Object.fromEntries(Object.entries(settings).filter(([name]) => !names.includes(name)));
}

/** A place goes with all that is in it; what stands elsewhere too stays there. */
function leaveOutPlace(id: string, work: Workbench): void {
  const within = new Set<OutlineNode>();
  const elsewhere = new Set<string>();
  for (const { node, parent } of walkOutline(work.course.outline)) {
    if (node.id === id || (parent && within.has(parent))) within.add(node);
    else if (node.item !== undefined) elsewhere.add(node.item);
  }
  work.leaveOut({ node: id });
  for (const { item } of within) if (item !== undefined && !elsewhere.has(item)) work.leaveOut({ item });
}

export const leaveOut: MendKind = {
  id: 'leave-out',
  label: 'Leave it out',
  params: [],
  particular: true,
  apply(finding, params, work) {
    // Findings that were kept before named an empty folder by their group.
    const node = finding.node ?? params['node'] ?? (finding.kind === 'folder-empty' ? finding.groupKey : null);
    if (node !== null) leaveOutPlace(node, work);
    else if (finding.item !== null) work.leaveOut({ item: finding.item });
    else if (finding.file !== null) work.leaveOut({ file: finding.file });
    else return 'there is nothing that could be left out';
    return null;
  },
};

const leaveOutQuestion: MendKind = {
  id: 'leave-out-question',
  label: 'Leave the question out',
  params: [],
  particular: true,
  onlySuggested: true,
  apply(finding, params, work) {
    const id = params['question'] ?? /^question (.*): /.exec(finding.part)?.[1];
    if (finding.item === null || id === undefined) return 'it is about no question';
    work.change(finding.item, (item) => {
      if (!holdsQuestions(item)) return item;
      const { sections } = item.settings;
      const left = sections && mapSections(sections, { keep: (question) => question !== id });
      return {
        ...item,
        questions: item.questions.filter((q) => q.id !== id),
        ...(left ? { settings: { ...item.settings, sections: left } } : {}),
      };
    });
    return null;
  },
};

const askBank: MendKind = {
  id: 'ask-bank',
  label: 'Put the questions of a bank into it',
  params: [{ name: 'bank', label: 'Bank', kind: 'bank' }],
  apply(finding, params, work) {
    const bank = work.items.get(params['bank'] ?? '');
    if (finding.item === null || bank?.kind !== 'bank') return 'there is no such bank';
    work.change(finding.item, (item) => {
      if (item.kind !== 'quiz') return item;
      // What is there twice must not bear one identifier.
      const questions = bank.questions.map((q) => ({ ...q, id: `${item.id}-${q.id}` }));
      return { ...item, questions, settings: without(item.settings, ['draws']) };
    });
    return null;
  },
};

const setPoints: MendKind = {
  id: 'set-points',
  label: 'Set the points',
  params: [{ name: 'points', label: 'Points', kind: 'number' }],
  particular: true,
  apply(finding, params, work) {
    const points = Number(params['points']);
    if (!Number.isFinite(points) || params['points'] === '') return 'it is not said how many points';
    return changeSettings(finding, work, (s) => ({ ...s, points }));
  },
};

const dropDates: MendKind = {
  id: 'drop-dates',
  label: 'Take the dates off',
  params: [],
  particular: true,
  apply(finding, params, work) {
    const names = params['names']?.split(',') ?? finding.groupKey.split(' ');
    return changeSettings(finding, work, (s) => without(s, names));
  },
};

const dropGuards: MendKind = {
  id: 'drop-guards',
  label: 'Do without',
  params: [],
  apply: (finding, _params, work) =>
    changeSettings(finding, work, (s) => without(s, ['password', 'lockdown', 'originality'] satisfies SettingName[])),
};

const show: MendKind = {
  id: 'show',
  label: 'Show it to students',
  params: [],
  apply: (finding, _params, work) => changeSettings(finding, work, (s) => without(s, ['hidden', 'audience'])),
};

const keepOwn: MendKind = {
  id: 'keep-own',
  label: 'Keep it as a file of this course',
  params: [],
  apply: (finding, _params, work) => changeSettings(finding, work, (s) => without(s, ['repository'])),
};

const toWebLink: MendKind = {
  id: 'to-web-link',
  label: 'Make it a web link',
  params: [],
  apply(finding, _params, work) {
    if (finding.item === null) return 'it is about no item';
    work.change(finding.item, (item) => {
      if (item.kind !== 'tool') return item;
      const { id, title, definitionPath: place, url } = item;
      return { kind: 'link', id, title, definitionPath: place, url, settings: {} };
    });
    return null;
  },
};

const rename: MendKind = {
  id: 'rename',
  label: 'Name it otherwise',
  params: [{ name: 'name', label: 'Name', kind: 'text' }],
  particular: true,
  apply(finding, params, work) {
    const name = params['name']?.trim() ?? '';
    if (name === '') return 'a name is missing';
    if (finding.groupKey === 'title' && finding.item !== null) {
      work.change(finding.item, (item) => ({ ...item, title: name }));
      return null;
    }
    if (finding.file === null) return 'it is about no file';
    if (/[/\\:*?"<>|]/.test(name) || /^\.{1,2}$/.test(name)) return 'a name has none of / \\ : * ? " < > |';
    const folder = finding.file.slice(0, finding.file.lastIndexOf('/') + 1);
    return work.rename(finding.file, folder + name);
  },
};

const mergeFile: MendKind = {
  id: 'merge-file',
  label: 'Use the other copy of the file',
  params: [],
  particular: true,
  onlySuggested: true,
  apply(finding, params, work) {
    const into = params['into'];
    if (finding.file === null || into === undefined) return 'it is about no file';
    work.merge(finding.file, into);
    return null;
  },
};

const stripMarks: MendKind = {
  id: 'strip-marks',
  label: 'Take the author and the place out of the file',
  params: [],
  apply(finding, _params, work) {
    if (finding.file === null) return 'it is about no file';
    if (!canStrip(finding.file)) return 'nothing can be taken out of files of this type';
    work.remake(finding.file, finding);
    return null;
  },
};

const stripPeople: MendKind = {
  id: 'strip-people',
  label: 'Take all records of students out',
  params: [],
  apply(_finding, _params, work) {
    work.stripPeople();
    return null;
  },
};

export const ITEM_MENDS: readonly MendKind[] = [
  leaveOut,
  leaveOutQuestion,
  askBank,
  setPoints,
  dropDates,
  dropGuards,
  show,
  keepOwn,
  toWebLink,
  rename,
  mergeFile,
  stripMarks,
  stripPeople,
];
