import type { Router } from 'express';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import * as z from 'zod';
import { HttpTrouble } from '../shared/http.ts';
import type { QCourse, QNode } from './model.ts';

const Edit = z.object({ title: z.string().optional(), text: z.string().optional() });

/** Things of a course changed and taken away one by one, as its tutors do. `text` is that of a page, a talk or a task. */
export function mountEdits(
  api: Router,
  courseOf: (id: unknown) => QCourse,
  folderOf: (course: QCourse) => string,
  save: () => void,
): void {
  const changed = (course: QCourse) => {
    course.changedAt = new Date().toISOString();
    course.turn++;
    save();
  };
  api.put('/courses/:id/nodes/:ref', async (req, res) => {
    const course = courseOf(req.params.id);
    const [node] = found(course.nodes, req.params.ref);
    const edit = Edit.safeParse(req.body);
    if (!node) throw new HttpTrouble(404, 'no such part');
    if (!edit.success) throw new HttpTrouble(400, z.prettifyError(edit.error));
    const { title, text } = edit.data;
    if (title !== undefined) node.title = title;
    if (text !== undefined) {
      if (node.kind === 'page') await writeFile(join(folderOf(course), node.path), text);
      else if (node.kind === 'talk' || node.kind === 'task') node.text = text;
      else throw new HttpTrouble(409, 'that has no text of its own');
    }
    changed(course);
    res.json({ ref: node.ref, title: node.title });
  });
  api.delete('/courses/:id/nodes/:ref', (req, res) => {
    const course = courseOf(req.params.id);
    const [node, among] = found(course.nodes, req.params.ref);
    if (!node) throw new HttpTrouble(404, 'no such part');
    among.splice(among.indexOf(node), 1);
    changed(course);
    res.status(204).end();
  });
}

/** A part with those that it stands among. */
function found(nodes: QNode[], ref: string): [QNode | undefined, QNode[]] {
  for (const node of nodes) {
    if (node.ref === ref) return [node, nodes];
    const below = node.kind === 'folder' ? found(node.inside, ref) : ([undefined, nodes] as const);
    if (below[0]) return [below[0], below[1]];
  }
  return [undefined, nodes];
}
