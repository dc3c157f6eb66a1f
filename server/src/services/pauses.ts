import { JOBS, definitionOf } from '../jobs/definitions.ts';
import { Op } from 'sequelize';
import { CourseRow, Instance, Job, Move } from '../db/models/index.ts';
import { PATIENCE_MS } from '../jobs/worker.ts';
import { jobsAt } from './jobs.ts';

/** The instance that a job asks for something; `null` where it asks none. */
async function instanceAsked(job: Job): Promise<Instance | null> {
  if (job.kind === 'register') return Instance.findByPk(JOBS.register.input.parse(job.input).instanceId);
  const { asks } = definitionOf(job.kind);
  if (asks === null) return null;
  const move = job.moveId === null ? null : await Move.findByPk(job.moveId);
  if (move && asks === 'destination') return Instance.findByPk(move.destinationId);
  const course = await CourseRow.findByPk(move?.courseId ?? job.courseId ?? 0);
  return course && Instance.findByPk(course.instanceId);
}

/** How long a job waits for an instance that does not answer, in ms. */
export async function patienceMs(job: Job): Promise<number> {
  const minutes = (await instanceAsked(job))?.patienceMinutes ?? null;
  return minutes === null ? PATIENCE_MS : minutes * 60_000;
}

/** Says that the instance which a job would ask is paused. */
export async function heldBy(job: Job): Promise<string | null> {
  const instance = await instanceAsked(job);
  return instance?.pausedAt ? `${instance.name} is paused; goes on once it is no more` : null;
}

/** Pauses an instance, or lets it go on: what waited for that is due at once. */
export async function pause(instance: Instance, paused: boolean): Promise<void> {
  await instance.update({ pausedAt: paused ? (instance.pausedAt ?? new Date()) : null });
  if (paused) return;
  const waiting = (await jobsAt(instance.id)).filter((job) => job.state === 'waiting').map((job) => job.id);
  await Job.update({ runAfter: new Date() }, { where: { id: { [Op.in]: waiting } } });
}
