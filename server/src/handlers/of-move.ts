import { Refusal, problem } from '@treenail/core';
import { Instance, type CourseRow, type Job, type WholeMove } from '../db/models/index.ts';
import type { Connector } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { connectorOf } from '../services/instances.ts';
import { courseOf, moveById } from '../services/moves.ts';

export interface OfMove {
  move: WholeMove;
  course: CourseRow;
  source: Instance;
  destination: Instance;
  from: Connector;
  to: Connector;
}

/** What every job of a move works on. */
export async function ofMove(services: Services, job: Job): Promise<OfMove> {
  if (job.moveId === null) throw new RangeError(`job ${job.id} has no move`);
  const move = await moveById(job.moveId);
  const course = await courseOf(move);
  const [source, destination] = await Promise.all([
    Instance.findByPk(course.instanceId, { rejectOnEmpty: true }),
    Instance.findByPk(move.destinationId, { rejectOnEmpty: true }),
  ]);
  const { secret } = services.config;
  return {
    move,
    course,
    source,
    destination,
    from: connectorOf(secret, source),
    to: connectorOf(secret, destination),
  };
}

export function cannot(what: string, instance: Instance): Refusal {
  return new Refusal(problem('platform-cannot', `${instance.name} can not ${what}.`));
}
