import { createHash } from 'node:crypto';
import { Refusal, courseName, problem } from '@treenail/core';
import { Op } from 'sequelize';
import type { EstimateAnswer, FetchOptions, FetchRequest, JobSummary, PartsAnswer, Person } from '../api/contract.ts';
import { CourseRow, Instance, Job } from '../db/models.ts';
import { enqueue } from '../jobs/queue.ts';
import { PlatformTrouble, type Giver } from '../platforms/index.ts';
import type { Services } from './context.ts';
import { connectorOf } from './instances.ts';
import { asJobSummary } from './jobs.ts';
import { audit, mustBe } from './people.ts';

/** What a move fetches, and what is taken where nobody chose otherwise. */
export const PLAIN: FetchOptions = {
  form: 'standard',
  parts: null,
  copyLinked: true,
  personal: false,
  reason: '',
  // Nobody asked for it.
  removeAfter: false,
};

async function giverOf(
  services: Services,
  courseId: number,
): Promise<{ course: CourseRow; instance: Instance; giver: Giver }> {
  const course = await CourseRow.findByPk(courseId);
  const instance = course ? await Instance.findByPk(course.instanceId) : null;
  if (!course || !instance) {
    throw new Refusal(problem('not-found', 'There is no such course.', 'Go back to the list and choose again.'));
  }
  const giver = instance.platform === 'files' ? null : connectorOf(services.config.secret, instance).giver;
  if (!giver) {
    throw new Refusal(
      problem(
        'can-not-fetch',
        `Courses can't be fetched from ${instance.name}.`,
        'Choose courses of another instance.',
      ),
    );
  }
  return { course, instance, giver };
}

/** A platform that does not answer is told to the person who asks, rather than tried again behind their back. */
async function answered<T>(name: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof PlatformTrouble)) throw error;
    throw new Refusal(
      problem('platform-silent', `${name} does not answer.`, 'Look whether it is up; then try again.'),
      { cause: error },
    );
  }
}

export async function partsOf(services: Services, courseId: number): Promise<PartsAnswer> {
  const { course, instance, giver } = await giverOf(services, courseId);
  const parts = await answered(instance.name, () => giver.parts(course.remoteId));
  return { parts, forms: giver.forms.map((f) => ({ ...f, lacks: [...f.lacks] })) };
}

export async function estimateOf(services: Services, courseId: number, options: FetchOptions): Promise<EstimateAnswer> {
  const { course, instance, giver } = await giverOf(services, courseId);
  return answered(instance.name, () => giver.estimate(course.remoteId, options));
}

/**
 * Asks for fetches. While one of the same course and the same options is not over, asking again gives that one; once it
 * is, a new one begins.
 */
export async function startFetches(services: Services, person: Person, asked: FetchRequest): Promise<JobSummary[]> {
  mustBe(person, 'administrator');
  const { courseIds, options } = asked;
  if (options.parts !== null && courseIds.length > 1) {
    throw new Refusal(
      problem('parts-of-one', 'Parts can be chosen of one course only.', 'Fetch these courses whole, or one by one.'),
    );
  }
  const jobs: JobSummary[] = [];
  for (const courseId of new Set(courseIds)) {
    const { course, instance } = await giverOf(services, courseId);
    const key = `fetch:course-${courseId}:${digestOf(options)}`;
    const over = await Job.count({
      where: { kind: 'fetch', requestKey: { [Op.like]: `${key}:%` }, state: { [Op.in]: ['done'] } },
    });
    const job = await enqueue({
      kind: 'fetch',
      key: `${key}:${over}`,
      course: courseName(course),
      moveId: null,
      courseId,
      askedBy: person.id,
      input: { round: 0, options },
      words: `fetching at ${instance.name}`,
    });
    await audit(person, 'fetch asked for', `course ${courseId}`, options);
    jobs.push(asJobSummary(job));
  }
  return jobs;
}

function digestOf(options: FetchOptions): string {
  const { form, parts, copyLinked, personal } = options;
  const text = JSON.stringify([form, parts === null ? null : [...parts].sort(), copyLinked, personal]);
  return createHash('sha256').update(text).digest('hex').slice(0, 16);
}
