import { createHash, randomUUID } from 'node:crypto';
import { Refusal, courseName, problem } from '@treenail/core';
import { Op } from 'sequelize';
import type {
  CostsAnswer,
  EstimateAnswer,
  FetchOptions,
  FetchRequest,
  JobSummary,
  PartsAnswer,
  Person,
} from '../contract/index.ts';
import { CourseRow, Instance, Job } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { PlatformTrouble, type Estimate, type ExportForm, type SourceSide } from '../platforms/index.ts';
import type { Services } from './context.ts';
import { connectorOf } from './instances.ts';
import { asJobSummary } from './jobs.ts';
import { audit, mustBe } from './people.ts';

/**
 * What a move fetches: the package that keeps the most. It is read here, and written in whatever the destination takes.
 */
/** The form that is asked for, or the one that leaves out the least where the platform has no such form. */
export function formOf(sourceSide: SourceSide, asked: FetchOptions['form']): ExportForm {
  const [least] = [...sourceSide.forms].sort((a, b) => a.lacks.length - b.lacks.length);
  const form = sourceSide.forms.find((f) => f.id === asked) ?? least;
  if (!form) throw new RangeError('a platform that gives nothing is no source');
  return form;
}

async function sourceSideOf(
  services: Services,
  courseId: number,
): Promise<{ course: CourseRow; instance: Instance; sourceSide: SourceSide }> {
  const course = await CourseRow.findByPk(courseId);
  const instance = course ? await Instance.findByPk(course.instanceId) : null;
  if (!course || !instance) {
    throw new Refusal(problem('not-found', 'There is no such course.'));
  }
  const sourceSide = connectorOf(services.config.secret, instance).source;
  if (!sourceSide) {
    throw new Refusal(problem('can-not-fetch', `Courses can't be fetched from ${instance.name}.`));
  }
  return { course, instance, sourceSide };
}

/** A platform that does not answer is told to the person who asks, rather than tried again behind their back. */
async function answered<T>(name: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof PlatformTrouble)) throw error;
    throw new Refusal(
      problem('platform-silent', `${name} does not answer.`, {}, 'Look whether it is up; then try again.'),
      { cause: error },
    );
  }
}

export async function partsOf(services: Services, courseId: number): Promise<PartsAnswer> {
  const { course, instance, sourceSide } = await sourceSideOf(services, courseId);
  const parts = await answered(instance.name, () => sourceSide.parts(course.remoteId));
  return { parts, forms: sourceSide.forms.map((f) => ({ ...f, lacks: [...f.lacks] })) };
}

export async function estimateOf(services: Services, courseId: number, options: FetchOptions): Promise<EstimateAnswer> {
  const { course, instance, sourceSide } = await sourceSideOf(services, courseId);
  return answered(instance.name, () => sourceSide.estimate(course.remoteId, options));
}

/** Courses whose cost is asked for at one time of one instance. */
const AT_ONCE = 4;

/**
 * What the fetch of these courses will cost, summed by instance and form. The platform makes one after the other, so that
 * the last is ready once all of them are made.
 */
export async function costsOf(
  services: Services,
  courseIds: readonly number[],
  options: Omit<FetchOptions, 'form'>,
): Promise<CostsAnswer> {
  const byInstance = new Map<number, { instance: Instance; sourceSide: SourceSide; courses: CourseRow[] }>();
  for (const id of new Set(courseIds)) {
    const { course, instance, sourceSide } = await sourceSideOf(services, id);
    const of = byInstance.get(instance.id) ?? { instance, sourceSide, courses: [] };
    of.courses.push(course);
    byInstance.set(instance.id, of);
  }
  return Promise.all(
    [...byInstance.values()].map(async ({ instance, sourceSide, courses }) => {
      const where = { instance: instance.name, courses: courses.length };
      try {
        const forms = [];
        for (const form of sourceSide.forms) {
          const each = await estimates(sourceSide, courses, { ...options, form: form.id });
          forms.push({ ...form, lacks: [...form.lacks], ...summed(each) });
        }
        return { ...where, trouble: null, forms };
      } catch (error) {
        if (!(error instanceof PlatformTrouble) && !(error instanceof Refusal)) throw error;
        const trouble = error instanceof Refusal ? error.problem.message : `${instance.name} does not answer.`;
        return { ...where, trouble, forms: [] };
      }
    }),
  );
}

async function estimates(
  sourceSide: SourceSide,
  courses: readonly CourseRow[],
  options: FetchOptions,
): Promise<Estimate[]> {
  const queue = [...courses];
  const each: Estimate[] = [];
  const one = async () => {
    for (let course = queue.shift(); course; course = queue.shift())
      each.push(await sourceSide.estimate(course.remoteId, options));
  };
  await Promise.all(Array.from({ length: AT_ONCE }, one));
  return each;
}

function summed(each: readonly Estimate[]) {
  const sum = (of: (one: Estimate) => number | null) => each.reduce((total, one) => total + (of(one) ?? 0), 0);
  const known = (of: (one: Estimate) => number | null) => each.every((one) => of(one) !== null);
  const [first] = each;
  const seconds = first?.seconds ?? null;
  // Of what the first takes, the share that is not waiting for others is what each of the rest takes too.
  const own = seconds === null ? null : seconds / ((first?.ahead ?? 0) + 1);
  return {
    bytes: sum((e) => e.bytes),
    unsized: each.filter((e) => e.bytes === null).length,
    items: known((e) => e.items) ? sum((e) => e.items) : null,
    ahead: first?.ahead ?? null,
    seconds: seconds === null || own === null ? null : Math.round(seconds + own * (each.length - 1)),
  };
}

/**
 * Asks for fetches. While one of the same course and the same options is not over, asking again gives that one; once it
 * is, a new one begins.
 */
export async function startFetches(services: Services, person: Person, asked: FetchRequest): Promise<JobSummary[]> {
  mustBe(person, 'administrator');
  const { courseIds, options } = asked;
  if (options.parts !== null && courseIds.length > 1) {
    throw new Refusal(problem('parts-of-one', 'Parts can be chosen of one course only.'));
  }
  const jobs: JobSummary[] = [];
  const batch = courseIds.length > 1 ? randomUUID() : null;
  for (const courseId of new Set(courseIds)) {
    const { course, instance } = await sourceSideOf(services, courseId);
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
      batch,
      input: { round: 0, options },
      of: instance.name,
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
