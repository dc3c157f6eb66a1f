import { existsSync } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { JsonStore } from '../shared/store.ts';
import type { Settings } from '../shared/settings.ts';
import { keepTicking } from '../shared/ticking.ts';
import { Post } from '../shared/post.ts';
import type { Failures } from '../shared/failures.ts';
import { writeArchive } from './archive.ts';
import { listFiles, writeCartridge } from './cartridge.ts';
import { chosen, filesFor } from './choose.ts';
import type { QAsk, QJob, QState } from './model.ts';

/** Quernhold's export queue: one job at a time, in the order in which they were asked for. */
export class ExportQueue {
  private building = false;
  private readonly store: JsonStore<typeof QState>;
  private readonly settings: Settings;
  private readonly failures: Failures;
  private readonly post: Post;

  constructor(store: JsonStore<typeof QState>, settings: Settings, failures: Failures) {
    this.failures = failures;
    this.store = store;
    this.settings = settings;
    this.post = new Post(settings.name, settings.smtp);
    // What was being built when the process ended is built again.
    for (const job of store.state.jobs) if (job.state === 'building') job.state = 'waiting';
    store.save();
    keepTicking(settings, () => void this.tick());
  }

  ask(course: string, ask: QAsk): QJob {
    const { state } = this.store;
    const busy = state.jobs.some((j) => j.state === 'waiting' || j.state === 'building');
    if (!busy)
      for (let i = 0; i < this.settings.othersAhead; i++) this.add(null, null, this.settings.pace * this.rush());
    const job = this.add(course, ask, this.settings.pace);
    this.store.save();
    return job;
  }

  /** In busy hours other people's exports are the long ones. */
  private rush(): number {
    const hour = new Date().getHours();
    return hour >= 8 && hour < 17 ? 1 : 0.6;
  }

  private add(course: string | null, ask: QAsk | null, takes: number): QJob {
    const { state } = this.store;
    const job: QJob = {
      id: `B${String(state.next++).padStart(5, '0')}`,
      course,
      note: ask?.note ?? 'somebody else',
      ask,
      hangs: ask !== null && this.failures.take('hang'),
      askedAt: Date.now(),
      startedAt: null,
      endedAt: null,
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
    return jobs.slice(0, jobs.indexOf(job)).filter((j) => !j.hangs && (j.state === 'waiting' || j.state === 'building'))
      .length;
  }

  percent(job: QJob): number {
    if (job.state === 'ready') return 100;
    if (job.state !== 'building' || job.startedAt === null) return 0;
    return Math.min(99, Math.floor((100 * (Date.now() - job.startedAt)) / job.takes));
  }

  file(job: QJob): string {
    return join(this.settings.folder, 'bundles', `${job.id}.${job.ask?.form === 'archive' ? 'quern' : 'imscc'}`);
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
      if (job.ask !== null && this.failures.take('break')) throw new Error('told to fail');
      if (job.hangs) return;
      job.state = 'ready';
      job.endedAt = Date.now();
      this.tell(job, 'is ready');
    } catch (error) {
      console.error(error);
      job.state = 'failed';
      this.tell(job, 'could not be built');
    } finally {
      this.building = false;
      this.store.save();
    }
  }

  /** Whoever owns the course is told, not whoever asked: Quernhold knows tokens, and no people behind them. */
  private tell(job: QJob, how: string): void {
    const course = this.store.state.courses.find((c) => c.id === job.course);
    if (!course) return;
    const size =
      job.size === null ? '' : ` It has ${job.size} bytes, and counts against the quota until it is deleted.`;
    this.post.tell(
      course.owner,
      `${course.code}: the bundle ${how}`,
      `Bundle ${job.id} of ${course.title} ${how}.${size}`,
    );
  }

  private async build(job: QJob): Promise<void> {
    const course = this.store.state.courses.find((c) => c.id === job.course);
    if (!course) return;
    await mkdir(join(this.settings.folder, 'bundles'), { recursive: true });
    const target = this.file(job);
    const ask = job.ask;
    if (!existsSync(target) && ask) {
      const folder = join(this.settings.folder, 'courses', course.id);
      const files = filesFor(await listFiles(folder), course, ask);
      if (ask.form === 'archive') await writeArchive(chosen(course, ask), folder, files, target);
      else await writeCartridge(chosen(course, ask), folder, files, target);
    }
    job.size = (await stat(target)).size;
  }
}
