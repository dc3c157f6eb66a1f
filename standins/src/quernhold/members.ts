import { existsSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Router } from 'express';
import * as z from 'zod';
import { HttpTrouble } from '../shared/http.ts';
import { listFiles } from './cartridge.ts';
import type { QCourse, QNode, QState } from './model.ts';
import { NOTHING } from './rich.ts';

const NewWork = z.object({ person: z.string(), item: z.string(), score: z.number() });
const Emptied = z.object({ note: z.string().min(1).max(300) });
const Removals = z.object({ refs: z.array(z.string()), files: z.array(z.string()) });

export interface Members {
  state: QState;
  courseOf: (id: unknown) => QCourse;
  folderOf: (course: QCourse) => string;
  save: () => void;
}

/** Who is in a course, what they did in it, all that it holds; and the ways to take things out of it. People stay whatever goes. */
export function mountMembers(api: Router, { state, courseOf, folderOf, save }: Members): void {
  const toChange = (id: unknown): QCourse => {
    const course = courseOf(id);
    if (course.closed) throw new HttpTrouble(423, `${course.code} is closed`);
    if (state.restores.some((r) => r.course === course.id && (r.state === 'waiting' || r.state === 'unpacking')))
      throw new HttpTrouble(409, 'something is on its way into it');
    return course;
  };
  const changed = (course: QCourse) => {
    course.changedAt = new Date().toISOString();
    course.turn++;
    save();
  };

  api.get('/courses/:id/members', async (req, res) => {
    const course = courseOf(req.params.id);
    const { owner, rich, closed, turn } = course;
    res.json({
      tutors: owner === '' ? [] : [owner],
      learners: rich.people.map((p) => p.number),
      work: rich.work.map((w) => w.item),
      closed,
      turn,
      refs: refsIn(course),
      files: (await listFiles(folderOf(course))).filter((path) => !path.startsWith('people/')),
    });
  });
  /** As a learner hands something in. */
  api.post('/courses/:id/work', (req, res) => {
    const course = courseOf(req.params.id);
    const done = read(NewWork, req.body);
    if (!refsIn(course).includes(done.item)) throw new HttpTrouble(404, 'no such part');
    course.rich.work.push(done);
    if (!course.rich.people.some((p) => p.number === done.person))
      course.rich.people.push({ name: done.person, mail: '', number: done.person });
    save();
    res.status(201).json(done);
  });
  /** Everything in it goes, what learners did with it; what it is called and people stay. Asked for twice by one note it is done once. */
  api.post('/courses/:id/emptied', async (req, res) => {
    const { note } = read(Emptied, req.body);
    if (!courseOf(req.params.id).emptied.includes(note)) {
      const course = toChange(req.params.id);
      for (const path of await listFiles(folderOf(course)))
        if (!path.startsWith('people/')) await rm(join(folderOf(course), path), { force: true });
      const { people } = course.rich;
      Object.assign(course, { nodes: [], banks: [], rich: { ...structuredClone(NOTHING), people } });
      course.emptied.push(note);
      changed(course);
    }
    res.status(204).end();
  });
  /** Takes out what is named. What learners worked in is refused, and so is all that was named with it. */
  api.post('/courses/:id/removals', async (req, res) => {
    const course = toChange(req.params.id);
    const { refs, files } = read(Removals, req.body);
    const gone = new Set(refs);
    const used = course.rich.work.find((w) => gone.has(w.item));
    if (used) throw new HttpTrouble(409, `somebody worked in ${used.item}`);
    course.nodes = without(course.nodes, gone);
    course.banks = course.banks.filter((b) => !gone.has(b.ref));
    const { rich } = course;
    for (const kind of ['notices', 'checklists', 'automations', 'events', 'rubrics', 'groups'] as const)
      Object.assign(rich, { [kind]: rich[kind].filter((one) => !gone.has(one.ref)) });
    if (rich.attendance && gone.has(rich.attendance.ref)) rich.attendance = null;
    rich.ledger.categories = rich.ledger.categories.filter((c) => !gone.has(c.ref));
    rich.ledger.columns = rich.ledger.columns.filter((c) => !gone.has(c.ref));
    rich.rules = rich.rules.filter((r) => !gone.has(r.item));
    const held = new Set(await listFiles(folderOf(course)));
    for (const path of files) if (held.has(path)) await rm(join(folderOf(course), path), { force: true });
    changed(course);
    res.status(204).end();
  });
  /** A course goes with all that is in it; one that somebody worked in does not. */
  api.delete('/courses/:id', async (req, res) => {
    if (state.courses.some((c) => c.id === req.params.id)) {
      const course = toChange(req.params.id);
      if (course.rich.work.length > 0) throw new HttpTrouble(409, `${course.rich.work.length} things were done in it`);
      state.courses.splice(state.courses.indexOf(course), 1);
      save();
      if (existsSync(folderOf(course))) await rm(folderOf(course), { recursive: true, force: true });
    }
    res.status(204).end();
  });
}

function read<S extends z.ZodType>(schema: S, body: unknown): z.infer<S> {
  const asked = schema.safeParse(body);
  if (!asked.success) throw new HttpTrouble(422, z.prettifyError(asked.error));
  return asked.data;
}

/** Names of all that a course holds but its files. */
function refsIn({ nodes, banks, rich }: QCourse): string[] {
  const inNodes = (among: readonly QNode[]): string[] =>
    among.flatMap((n) => (n.kind === 'folder' ? [n.ref, ...inNodes(n.inside)] : [n.ref]));
  const { notices, checklists, automations, events, rubrics, groups, attendance, ledger } = rich;
  const listed = [notices, checklists, automations, events, rubrics, groups, ledger.categories, ledger.columns];
  return [
    ...inNodes(nodes),
    ...banks.map((b) => b.ref),
    ...listed.flatMap((list) => list.map((one) => one.ref)),
    ...(attendance ? [attendance.ref] : []),
  ];
}

/** A folder that something else was put into since stays with it. */
function without(nodes: readonly QNode[], gone: ReadonlySet<string>): QNode[] {
  return nodes.flatMap((node): QNode[] => {
    if (node.kind !== 'folder') return gone.has(node.ref) ? [] : [node];
    const inside = without(node.inside, gone);
    return gone.has(node.ref) && inside.length === 0 ? [] : [{ ...node, inside }];
  });
}
