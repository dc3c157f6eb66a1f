import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Router } from 'express';
import * as z from 'zod';
import { HttpTrouble } from '../shared/http.ts';
import type { Settings } from '../shared/settings.ts';
import type { JsonStore } from '../shared/store.ts';
import { input, find } from './asked.ts';
import type { TSpace, TState } from './model.ts';
import { touched } from './space.ts';

const Clear = z.object({ remark: z.string().min(1).max(300) });
const Without = z.object({ parts: z.array(z.string()) });
const NewWork = z.object({ entry: z.string(), person: z.string() });

/** @throws HttpTrouble where a space can't be changed, or not with the house's key */
export function mayChange({ shut, sealed }: TSpace): void {
  if (shut) throw new HttpTrouble(423, 'SPC shut');
  if (sealed) throw new HttpTrouble(403, 'SPC sealed: its keeper alone');
}

/** Who is in a space and what they did in it, and the ways to take things out of it. People stay whatever goes. */
export function mountInhabited(api: Router, store: JsonStore<typeof TState>, settings: Settings): void {
  const { state } = store;
  const folderOf = (space: TSpace) => join(settings.folder, 'spaces', space.id);
  const toChange = (id: unknown): TSpace => {
    const space = find(state.spaces, id, 'SPC');
    mayChange(space);
    if (state.runs.some((r) => r.space === space.id && (r.state === 'standing' || r.state === 'unpacking')))
      throw new HttpTrouble(409, 'SPC busy: a run is on its way into it');
    return space;
  };

  api.get('/spaces/:id/people', (req, res) => {
    const { people, work, shut, sealed, turn } = find(state.spaces, req.params.id, 'SPC');
    res.json({ people, work, shut, turn, may: sealed ? 'read' : 'change' });
  });
  /** As a learner hands something in. */
  api.post('/spaces/:id/work', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    const { entry, person } = input(NewWork, req.body);
    find(
      space.units.flatMap((u) => u.entries),
      entry,
      'ENT',
    );
    const done = { id: `w${state.next++}`, entry, person, at: new Date().toISOString() };
    space.work.push(done);
    if (!space.people.some((p) => p.name === person)) space.people.push({ name: person, part: 'learner' });
    store.save();
    res.status(201).json(done);
  });
  /** Everything in it goes, what learners did with it; name, code and people stay. */
  api.post('/spaces/:id/clear', async (req, res) => {
    const { remark } = input(Clear, req.body);
    const before = find(state.spaces, req.params.id, 'SPC');
    if (!before.cleared.includes(remark)) {
      const space = toChange(req.params.id);
      await rm(folderOf(space), { recursive: true, force: true });
      Object.assign(space, { units: [], pools: [], files: [], work: [], about: null });
      space.cleared.push(remark);
      touched(space);
      store.save();
    }
    res.status(204).end();
  });
  /** Takes out what is named: units, entries, pools and files. What learners worked in stays, and so does all the rest. */
  api.post('/spaces/:id/without', async (req, res) => {
    const space = toChange(req.params.id);
    const parts = new Set(input(Without, req.body).parts);
    const used = space.work.find((w) => parts.has(w.entry));
    if (used) throw new HttpTrouble(409, `ENT used ${used.entry}`);
    for (const unit of space.units) unit.entries = unit.entries.filter((e) => !parts.has(e.id));
    // A unit that something else was put into since stays with it.
    space.units = space.units.filter((u) => !parts.has(u.id) || u.entries.length > 0);
    space.pools = space.pools.filter((p) => !parts.has(p.id));
    for (const file of space.files) if (parts.has(file.id)) await rm(join(folderOf(space), file.id), { force: true });
    space.files = space.files.filter((f) => !parts.has(f.id));
    touched(space);
    store.save();
    res.status(204).end();
  });
  /** A space goes with all that is in it; one that learners worked in does not. */
  api.delete('/spaces/:id', async (req, res) => {
    const gone = !state.spaces.some((s) => s.id === req.params.id);
    if (!gone) {
      const space = toChange(req.params.id);
      if (space.work.length > 0) throw new HttpTrouble(409, `SPC used ${space.work.length}`);
      state.spaces.splice(state.spaces.indexOf(space), 1);
      store.save();
      await rm(folderOf(space), { recursive: true, force: true });
    }
    res.status(204).end();
  });
}
