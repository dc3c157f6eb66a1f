import type { Package } from '../../container/index.ts';
import { decodeText, readHtml } from '../../markup/index.ts';
import {
  Refusal,
  problem,
  remark,
  type Item,
  type Note,
  type OutlineNode,
  questionOf,
  type Question as ModelQuestion,
  type Settings,
  conditionOfWords,
  momentOf,
  type Condition,
} from '../../model/index.ts';
import { filesIn, html, plain, settingsOf } from '../archive/parts.ts';
import type { ReadResult } from '../format.ts';
import { resolveReference } from '../references.ts';
import { Head, Node, Thing, type Question, type ThingOf } from './records.ts';
import { RECORDS } from './unpack.ts';

/** Reads what Quernhold's archive holds: all that the platform knows of a course. */
export async function readQuernhold(pkg: Package): Promise<ReadResult> {
  const records = JSON.parse(decodeText(await pkg.bytes(RECORDS))) as unknown[];
  return new Reader(pkg, records).read();
}

class Reader {
  private readonly notes: Note[];
  private readonly nodes: Node[] = [];
  private readonly things: Thing[] = [];
  private readonly head: ReturnType<typeof Head.parse>;
  /** What is set of items and folders, by their references. */
  private readonly rules: ReadonlyMap<string, Settings>;
  private readonly pkg: Package;

  constructor(pkg: Package, records: readonly unknown[]) {
    this.pkg = pkg;
    this.notes = [...pkg.notes];
    const head = Head.safeParse(records[0]);
    if (!head.success) {
      throw new Refusal(
        problem('archive-damaged', 'The archive does not say what course it is of.', {}, 'Export it again.'),
      );
    }
    this.head = head.data;
    for (const [i, record] of records.slice(1).entries()) this.take(record, i + 2);
    this.rules = new Map(this.all('rules').map((r) => [r.has.item, this.ruled(r.has)]));
  }

  private take(record: unknown, number: number): void {
    const node = Node.safeParse(record);
    if (node.success) {
      this.nodes.push(node.data);
      return;
    }
    const thing = Thing.safeParse(record);
    if (thing.success) {
      this.things.push(thing.data);
      return;
    }
    const kind = typeof record === 'object' && record !== null && 'k' in record ? String(record.k) : '?';
    this.notes.push(
      remark('foreign-record', `Record ${number} of the archive (${kind}) is not understood.`, {
        file: RECORDS,
      }),
    );
  }

  private all<K extends Thing['k']>(k: K): ThingOf<K>[] {
    return this.things.filter((t): t is ThingOf<K> => t.k === k);
  }

  read(): ReadResult {
    const { head } = this;
    const items = [...this.nodes.flatMap((n) => this.item(n)), ...this.others()];
    for (const item of items) Object.assign(item.settings, this.rules.get(item.id));
    const work = this.all('work').length;
    const people = this.all('people').length;
    const personalFiles = [...this.pkg.entries.keys()].filter((p) => p.startsWith('people/'));
    const holds = people + work + personalFiles.length > 0;
    return {
      course: {
        title: head.ttl,
        origin: { format: 'quernhold', version: '4', untouched: true },
        identity: { id: head.id, code: head.code, section: head.sec, term: head.term },
        metadata: {
          keywords: head.kw,
          ...(head.abt === '' ? {} : { description: head.abt }),
          ...(head.code === '' ? {} : { catalogEntry: head.code }),
          ...(head.rights === undefined ? {} : { rights: head.rights }),
          ...(head.lang === undefined ? {} : { language: head.lang }),
        },
        outline: this.outline(null, new Set()),
        items,
        files: filesIn(this.pkg, (path) => path === RECORDS),
        ...(holds ? { personal: { people, submissions: work, grades: work, posts: 0, files: personalFiles } } : {}),
      },
      notes: this.notes,
    };
  }

  private outline(up: string | null, above: ReadonlySet<string>): OutlineNode[] {
    return this.nodes
      .filter((n) => n.up === up && !above.has(n.ref))
      .sort((a, b) => a.place - b.place)
      .map((n) =>
        n.sort === 'folder' ? this.folder(n, above) : { id: `i-${n.ref}`, title: n.ttl, item: n.ref, children: [] },
      );
  }

  private folder(
    { ref, was, ttl: title, abt }: Extract<Node, { sort: 'folder' }>,
    above: ReadonlySet<string>,
  ): OutlineNode {
    const settings: Settings = { ...(abt === '' ? {} : { description: abt }), ...this.rules.get(ref) };
    return {
      id: was ?? `i-${ref}`,
      title,
      ...(Object.keys(settings).length > 0 ? { settings } : {}),
      children: this.outline(ref, new Set([...above, ref])),
    };
  }

  private item(node: Node): Item[] {
    const common = { id: node.ref, title: node.ttl, definitionPath: null };
    switch (node.sort) {
      case 'folder':
        return [];
      case 'page': {
        const { path, tutorsOnly, use, shownTo } = node.has;
        const settings = settingsOf({ audience: tutorsOnly ? 'Instructor' : shownTo, intendedUse: use });
        return [{ kind: 'page', ...common, definitionPath: path, file: path, settings }];
      }
      case 'file': {
        const { path } = node.has;
        const repository = this.all('linked')[0]?.has[path];
        return [{ kind: 'file', ...common, definitionPath: path, file: path, settings: settingsOf({ repository }) }];
      }
      case 'link':
        return [
          {
            kind: 'link',
            ...common,
            url: node.has.url,
            settings: settingsOf({ linkTarget: node.has.newWindow ? '_blank' : node.has.window }),
          },
        ];
      case 'talk':
        return [
          {
            kind: 'discussion',
            ...common,
            text: html(placed(node.has.text, node.ref)),
            settings: settingsOf({ attachments: node.has.attached }),
          },
        ];
      case 'task': {
        const { text, points, ways, notes, attached } = node.has;
        const settings = settingsOf({ points, submissionFormats: ways, instructorNotes: notes, attachments: attached });
        return [{ kind: 'assignment', ...common, text: html(placed(text, node.ref)), settings }];
      }
      case 'tool': {
        const { url, about, parameters } = node.has;
        const custom = Object.keys(parameters).length > 0 ? parameters : null;
        return [
          { kind: 'tool', ...common, url, description: about, settings: settingsOf({ customParameters: custom }) },
        ];
      }
      case 'words': {
        const { about, words } = node.has;
        const entries = words.map(({ word, means, pictures }) => {
          return { term: word, definition: html(placed(means, node.ref)), pictures };
        });
        return [{ kind: 'glossary', ...common, text: html(placed(about, node.ref)), entries, settings: {} }];
      }
      case 'quiz': {
        const { intro, tries, minutes, questions } = node.has;
        const instructions = intro === '' ? null : placed(intro, node.ref);
        const settings = settingsOf({ attempts: tries, timeLimit: minutes, instructions });
        return [{ kind: 'quiz', ...common, settings, questions: questions.map((q) => this.question(q, node.ref)) }];
      }
    }
  }

  private question(q: Question, holder: string): ModelQuestion {
    const prompt = placed(q.prompt, holder);
    const type = TYPES[q.type];
    const markedText = (text: string) => html(q.marked ? text : `<p>${escaped(text)}</p>`);
    const common = {
      id: q.ref,
      title: q.title,
      prompt: html(prompt),
      points: q.points,
      feedback: {
        ...(q.feedback === null ? {} : { general: markedText(q.feedback) }),
        ...(q.model === null ? {} : { solution: markedText(q.model) }),
      },
      ...(q.topic === null ? {} : { category: q.topic }),
      files: this.shown(q.marked ? [prompt, ...q.choices.map((c) => c.text)] : [prompt]),
    };
    return questionOf(type, common, {
      choices: q.choices.map((c, i) => ({
        id: `${q.ref}-${'ABCDEFGH'[i] ?? i}`,
        text: html(q.marked ? c.text : escaped(c.text)),
        correct: c.right,
      })),
      answers: q.answers.map((text, i) => ({
        text,
        caseSensitive: q.exact.includes(i + 1),
        match: type === 'pattern' ? 'substring' : 'equal',
      })),
    });
  }

  /** Files that texts show. */
  private shown(texts: readonly string[]): string[] {
    const has = (path: string) => this.pkg.entries.has(path);
    const links = texts.flatMap((text) => readHtml(text).links);
    return [...new Set(links.flatMap(({ value }) => resolveReference(has, '', value) ?? []))];
  }

  /** What stands in no folder. */
  private others(): Item[] {
    const items: Item[] = this.all('bank').map(({ ref, ttl, has }) => ({
      kind: 'bank',
      id: ref,
      title: ttl,
      definitionPath: null,
      settings: {},
      questions: has.questions.map((q) => this.question(q, ref)),
    }));
    const none = plain('');
    const base = ({ ref, title }: { ref: string; title: string }, settings: Settings = {}) => ({
      id: ref,
      title,
      definitionPath: null,
      settings,
    });
    for (const { has } of this.all('notices')) {
      const settings = settingsOf({ posted: date(has.posted) });
      items.push({ kind: 'announcement', ...base(has, settings), text: html(has.text) });
    }
    for (const { has } of this.all('events')) {
      const settings = settingsOf({ opens: date(has.from), closes: date(has.to) });
      items.push({ kind: 'event', ...base(has, settings), text: plain(has.text) });
    }
    for (const { has } of this.all('checklists'))
      items.push({ kind: 'checklist', ...base(has), text: none, steps: has.steps });
    for (const { has } of this.all('automations')) {
      const settings = settingsOf({ visibleWhen: [automationRule(has)], audience: has.mailTo });
      items.push({ kind: 'automation', ...base(has, settings), text: plain(has.text) });
    }
    for (const { has } of this.all('attendance')) {
      const marks = has.marks.map(({ code, label, share }) => ({ code, label, percent: share }));
      const settings = settingsOf({ sessions: has.sessions.map(momentOf) });
      items.push({ kind: 'attendance', ...base(has, settings), text: none, marks });
    }
    for (const { has } of this.all('rubrics')) {
      const criteria = has.rows.map(({ title, cells }) => ({ title, levels: cells }));
      items.push({ kind: 'rubric', ...base(has), text: none, criteria });
    }
    for (const { has } of this.all('groups'))
      items.push({ kind: 'groups', ...base(has), text: none, names: has.names });
    for (const { has } of this.all('ledger')) {
      for (const c of has.categories) {
        const settings = settingsOf({ weight: c.weight, dropLowest: c.dropLowest || null, equalPoints: c.equal });
        items.push({ kind: 'category', ...base(c, settings), text: none });
      }
      for (const c of has.columns) {
        const settings = settingsOf({ points: c.points, category: c.category, gradesItem: c.item, bonus: c.bonus });
        items.push({ kind: 'column', ...base(c, settings), text: none });
      }
    }
    return items;
  }

  private ruled(rule: ThingOf<'rules'>['has']): Settings {
    return settingsOf({
      opens: date(rule.opens),
      due: date(rule.due),
      closes: date(rule.closes),
      visibleWhen: [...(rule.after ? [atLeast(rule.after)] : []), ...rule.also.map(conditionOfWords)],
      doneWhen: rule.done,
      password: rule.password,
      lockdown: rule.lockdown,
      originality: rule.originality,
      onlyFor: rule.group,
      usesRubric: rule.rubric,
      starterPost: rule.starter,
    });
  }
}

const date = (written: string | null) => (written === null || written === '' ? null : momentOf(written));

function atLeast({ item, score }: { item: string; score: number }): Condition {
  return { is: 'score', item, side: 'at least', percent: score };
}

function automationRule({ when, item, value, said }: ThingOf<'automations'>['has']): Condition {
  if (when === 'said') return { is: 'unread', words: said ?? '' };
  if (when === 'absent') return { is: 'absent', times: value };
  if (when === 'not-opened') return { is: 'not visited', item: item ?? '', days: value };
  return { is: 'score', item: item ?? '', side: 'below', percent: value };
}

const TYPES: Record<Question['type'], ModelQuestion['type']> = {
  choice: 'choice',
  several: 'multiple response',
  truth: 'true/false',
  blank: 'short answer',
  pattern: 'pattern',
  essay: 'essay',
};

/** Texts name the files of their own holder by a placeholder. */
function placed(text: string, ref: string): string {
  return text.replaceAll('$PLACE$', `q/${ref}/`);
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
}
