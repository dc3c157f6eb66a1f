import { existsSync } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { JsonStore } from '../shared/store.ts';
import type { Settings } from '../shared/settings.ts';
import { writeCartridge } from './cartridge.ts';
import type { QJob, QState } from './model.ts';

/** Quernhold's export queue: one job at a time, in the order in which they were asked for. */
export class ExportQueue {
  private building = false;
  private readonly store: JsonStore<typeof QState>;
  private readonly settings: Settings;

  constructor(store: JsonStore<typeof QState>, settings: Settings) {
    this.store = store;
    this.settings = settings;
    // What was being built when the process ended is built again.
    for (const job of store.state.jobs) if (job.state === 'building') job.state = 'waiting';
    store.save();
    setInterval(() => void this.tick(), Math.max(20, settings.pace / 20)).unref();
  }

  ask(course: string, note: string): QJob {
    const { state } = this.store;
    const busy = state.jobs.some((j) => j.state === 'waiting' || j.state === 'building');
    if (!busy) for (let i = 0; i < this.settings.othersAhead; i++) this.add(null, 'somebody else', this.settings.pace);
    const job = this.add(course, note, this.settings.pace);
    this.store.save();
    return job;
  }

  private add(course: string | null, note: string, takes: number): QJob {
    const { state } = this.store;
    const job: QJob = {
      id: `B${String(state.next++).padStart(5, '0')}`,
      course,
      note,
      askedAt: Date.now(),
      startedAt: null,
      takes,
      state: 'waiting',
      size: null,
    };
    state.jobs.push(job);
    return job;
  }

  /** Jobs before this one that are not done. */
  ahead(job: QJob): number {
    const { jobs } = this.store.state;
    return jobs.slice(0, jobs.indexOf(job)).filter((j) => j.state === 'waiting' || j.state === 'building').length;
  }

  percent(job: QJob): number {
    if (job.state === 'ready') return 100;
    if (job.state !== 'building' || job.startedAt === null) return 0;
    return Math.min(99, Math.floor((100 * (Date.now() - job.startedAt)) / job.takes));
  }

  file(job: QJob): string {
    return join(this.settings.folder, 'bundles', `${job.id}.imscc`);
  }

  async remove(job: QJob): Promise<void> {
    const { state } = this.store;
    state.jobs.splice(state.jobs.indexOf(job), 1);
    this.store.save();
    await rm(this.file(job), { force: true });
  }

  private async tick(): Promise<void> {
    if (this.building) return;
    const job = this.store.state.jobs.find((j) => j.state === 'waiting');
    if (!job) return;
    this.building = true;
    try {
      job.state = 'building';
      job.startedAt = Date.now();
      this.store.save();
      await Promise.all([this.build(job), new Promise((done) => setTimeout(done, job.takes))]);
      job.state = 'ready';
    } catch (error) {
      console.error(error);
      job.state = 'failed';
    } finally {
      this.building = false;
      this.store.save();
    }
  }

  private async build(job: QJob): Promise<void> {
    const course = this.store.state.courses.find((c) => c.id === job.course);
    if (!course) return;
    await mkdir(join(this.settings.folder, 'bundles'), { recursive: true });
    const target = this.file(job);
    if (!existsSync(target)) await writeCartridge(course, join(this.settings.folder, 'courses', course.id), target);
    job.size = (await stat(target)).size;
  }
}
