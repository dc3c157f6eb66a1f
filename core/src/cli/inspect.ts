import { outlineCourse, type Outlined } from '../formats/index.ts';
import { countOutline, countQuestions, inventory, kindsFound, questionNotes, type Looked } from '../inspect/index.ts';
import { plainText } from '../markup/index.ts';
import {
  count,
  holdsQuestions,
  partsOf,
  readableSize,
  walkOutline,
  type Course,
  type Note,
  type Question,
} from '../model/index.ts';
import { look, readCall, withFile, type Say } from './call.ts';

/** A question as its author sees it: texts without mark-up. */
function asPlain(q: Question, container: string) {
  const text = (t: { text: string }) => plainText(t.text);
  const parts = partsOf(q);
  return {
    id: q.id,
    container,
    type: q.type,
    title: q.title,
    prompt: text(q.prompt),
    points: q.points,
    choices: parts.choices.map((c) => ({
      id: c.id,
      text: text(c.text),
      correct: c.correct,
      score: c.score ?? null,
      feedback: c.feedback ? text(c.feedback) : null,
    })),
    answers: parts.answers,
    blanks: parts.blanks,
    numbers: parts.numbers,
    targets: parts.targets.map((t) => ({ id: t.id, text: text(t.text) })),
    pairs: parts.pairs,
    order: parts.order,
    areas: parts.areas,
    image: parts.image?.file ?? null,
    feedback: Object.fromEntries(Object.entries(q.feedback).map(([kind, t]) => [kind, text(t)])),
    category: q.category ?? null,
    asked: q.asked ?? null,
    files: q.files,
  };
}

/** What is known of a course before any page or file of it is read; `read` is it with its definitions, where those are. */
function outlined({ origin, title, metadata, ...known }: Omit<Outlined, 'notes'>, read: Course | null) {
  const { format, version } = origin;
  const kindOf = new Map(known.items.map((i) => [i.id, i.kind]));
  return {
    format,
    version,
    title,
    metadata,
    counts: {
      ...countOutline(known),
      ...(read ? { questions: Object.fromEntries(countQuestions(read).map((q) => [q.type, q.count])) } : {}),
    },
    outline: [...walkOutline(known.outline)].map(({ node, depth }) => ({
      depth,
      title: node.title,
      kind: (node.item === undefined ? undefined : kindOf.get(node.item)) ?? 'folder',
      item: node.item ?? null,
    })),
  };
}

function inspected({ course, links, notes, languages, findings }: Looked) {
  const counted = inventory(course, links, languages);
  return {
    ...outlined(course, course),
    items: course.items.map(({ id, kind, title, definitionPath: place, settings }) => ({
      id,
      kind,
      title,
      place,
      settings,
    })),
    questions: course.items.flatMap((i) => (holdsQuestions(i) ? i.questions.map((q) => asPlain(q, i.title)) : [])),
    files: course.files,
    links: links.map(({ item, use, value, line, path, state, lost }) => ({
      item,
      use,
      value,
      line,
      path,
      state,
      // The page that it leads to has no such place.
      lostAnchor: lost,
    })),
    findings: findings.map(({ kind, weight, item, title, part, file, line, evidence, groupKey }) => ({
      kind,
      weight,
      item,
      title,
      part,
      file,
      line,
      evidence,
      groupKey,
    })),
    placeholders: findings.filter((f) => f.kind === 'placeholder').map((f) => f.evidence),
    unread: counted.unread,
    unused: counted.unused,
    notes,
  };
}

function noteLine(note: Note): string {
  const where = [note.file, note.line === undefined ? undefined : `line ${note.line}`].filter((w) => w !== undefined);
  return `  ${note.code}: ${note.message}${where.length > 0 ? ` (${where.join(', ')})` : ''} ${note.action}`;
}

/** What `--outline` leaves aside, and what more where the outline stands in a manifest. */
const ASIDE = ['pages', 'links', 'findings', 'checksums', 'unused files'];
const DEFINITIONS_ASIDE = ['definitions of items (questions, settings, texts)', ...ASIDE];

export async function inspect(args: readonly string[], say: Say): Promise<void> {
  const { files, json, outline, opening } = await readCall(args, 1);
  await withFile(files[0] ?? '', opening, async (pkg) => {
    if (!outline) return told(await look(pkg, opening, { today: new Date().toISOString() }), json, say);
    const { outlined: known, read } = await outlineCourse(pkg, opening.described);
    const notes = [...known.notes, ...(read ? questionNotes(read.course) : [])];
    const found = outlined(known, read?.course ?? null);
    const aside = read ? ASIDE : DEFINITIONS_ASIDE;
    if (json) return say(JSON.stringify({ ...found, notes, notLookedAt: aside }, null, 2));
    sayOutline(found, say);
    if (notes.length > 0) say(`Notes:\n${notes.map(noteLine).join('\n')}`);
    say(`Not looked at: ${aside.join(', ')}.`);
  });
}

function sayOutline({ title, format, version, counts, outline }: ReturnType<typeof outlined>, say: Say): void {
  say(
    `${title}\n${format} ${version}, ${count(counts.items, 'item')} in ${count(counts.folders, 'folder')}, ${count(counts.files, 'file')}, ${readableSize(counts.bytes)}`,
  );
  say(
    Object.entries(counts.kinds)
      .map(([kind, n]) => `${n} ${kind}`)
      .join(', '),
  );
  for (const entry of outline) say(`${'  '.repeat(entry.depth + 1)}${entry.title}  [${entry.kind}]`);
}

function told(looked: Looked, json: boolean, say: Say): void {
  const found = inspected(looked);
  if (json) return say(JSON.stringify(found, null, 2));
  sayOutline(found, say);
  if (found.unused.length > 0) say(`Unused: ${found.unused.join(', ')}`);
  const broken = found.links.filter((l) => l.state === 'broken');
  if (broken.length > 0) say(`${count(broken.length, 'broken link')}: ${broken.map((l) => l.value).join(', ')}`);
  if (found.findings.length > 0) {
    say('Findings:');
    for (const { id, label } of kindsFound(looked.findings, null)) {
      say(`  ${looked.findings.filter((f) => f.kind === id).length} × ${label}`);
    }
  }
  if (found.unread === null) say('What is not read is not counted in archives of this kind.');
  else if (found.unread.length > 0) {
    const things = found.unread.reduce((sum, u) => sum + u.times, 0);
    say(`Not read (${count(things, 'thing')}):`);
    for (const { name, times, places } of found.unread) {
      say(`  ${times} × ${name} (${places[0]?.file ?? ''}, line ${places[0]?.line ?? 0})`);
    }
  }
  if (found.notes.length > 0) say(`Notes:\n${found.notes.map(noteLine).join('\n')}`);
}
