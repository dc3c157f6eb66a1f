import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Settings } from '../shared/settings.ts';
import { keepTicking } from '../shared/ticking.ts';
import type { JsonStore } from '../shared/store.ts';
import { unpack } from './importer.ts';
import type { TRun, TState } from './model.ts';
import { touched } from './space.ts';

/** Tarnhall unpacks one upload at a time, behind whoever came before. */
export class RunQueue {
  private working = false;
  private readonly store: JsonStore<typeof TState>;
  private readonly settings: Settings;

  constructor(store: JsonStore<typeof TState>, settings: Settings) {
    this.store = store;
    this.settings = settings;
    for (const run of store.state.runs) if (run.state === 'unpacking') run.state = 'standing';
    store.save();
    keepTicking(settings, () => void this.tick());
  }

  ask(space: string, drop: string, remark: string, mode: TRun['mode']): TRun {
    const { runs } = this.store.state;
    const busy = runs.some((r) => r.state === 'standing' || r.state === 'unpacking');
    if (!busy && this.settings.othersAhead > 0) this.add(null, null, 'somebody else', 'beside');
    const run = this.add(space, drop, remark, mode);
    this.store.save();
    return run;
  }

  private add(space: string | null, drop: string | null, remark: string, mode: TRun['mode']): TRun {
    const { state } = this.store;
    const run: TRun = {
      id: `r${state.next++}`,
      space,
      drop,
      remark,
      mode,
      state: 'standing',
      takes: this.settings.pace,
      done: 0,
      total: 0,
      log: [],
      before: null,
    };
    state.runs.push(run);
    return run;
  }

  ahead(run: TRun): number {
    const { runs } = this.store.state;
    return runs.slice(0, runs.indexOf(run)).filter((r) => r.state === 'standing' || r.state === 'unpacking').length;
  }

  private async tick(): Promise<void> {
    if (this.working) return;
    const run = this.store.state.runs.find((r) => r.state === 'standing');
    if (!run) return;
    this.working = true;
    try {
      run.state = 'unpacking';
      this.store.save();
      if (run.space === null || run.drop === null) await pause(run.takes);
      else await this.unpack(run, run.space, run.drop);
      run.state = 'ended';
    } catch (error) {
      run.log.push(`T-999 ${error instanceof Error ? error.message : String(error)}`);
      run.state = 'broken';
    } finally {
      this.working = false;
      this.store.save();
    }
  }

  private async unpack(run: TRun, spaceId: string, drop: string): Promise<void> {
    const { state } = this.store;
    const space = state.spaces.find((s) => s.id === spaceId);
    if (!space) throw new Error('SPC nil');
    const files = join(this.settings.folder, 'spaces', space.id);
    if (run.mode === 'replace') {
      Object.assign(space, { units: [], pools: [], files: [] });
      await rm(files, { recursive: true, force: true });
    } else if (run.before) {
      // A run that the process's end cut short begins anew, beside what stood there then.
      Object.assign(space, structuredClone(run.before));
    }
    const { units, pools, files: held } = space;
    run.before = structuredClone({ units, pools, files: held });
    run.done = 0;
    run.log = [];
    const { settings, store } = this;
    await unpack(join(settings.folder, 'drops', drop), space, files, (kind) => `${kind}${state.next++}`, {
      started(total) {
        run.total = total;
      },
      async step() {
        run.done++;
        store.save();
        await pause(settings.pace / Math.max(20, run.total / 2));
      },
      log: (line) => run.log.push(line),
    });
    const stood = run.before.units.reduce((n, unit) => n + unit.entries.length, 0);
    // Habit: what is found by its words is looked for anew in all of a space, and nobody is told why that took so long.
    if (stood > 0) run.log.push(`T-611 IDX s=${stood} anew`);
    run.before = null;
    touched(space);
  }
}

function pause(ms: number): Promise<void> {
  return new Promise((done) => setTimeout(done, ms));
}
