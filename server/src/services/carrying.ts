import {
  Refusal,
  forecast,
  keepsMore,
  problem,
  profileOn,
  targetById,
  type Course,
  type Forecast,
  type Profile,
} from '@treenail/core';
import type { FormChoice, MoveSummary, Person } from '../contract/index.ts';
import { Instance, planOf, type WholeMove } from '../db/models/index.ts';
import type { TakenForm, DestinationSide } from '../platforms/index.ts';
import type { Services } from './context.ts';
import { writeDocument } from './documents.ts';
import { connectorOf } from './instances.ts';
import { moveById, noteStep } from './move-rows.ts';
import { moveSummary } from './moves.ts';
import { audit, mustBe } from './people.ts';
import { profileOf } from './platforms.ts';
import { carriedAs, stepOf } from './move-steps.ts';
import { decidedAnew } from './tidy.ts';
import { courseDecided } from './working.ts';

/**
 * The format that keeps the most of a course, with its forecast: of those that keep as much, one that is not translated
 * on arrival.
 */
async function richest(
  course: Course,
  destination: Instance,
  destinationSide: DestinationSide,
): Promise<{ form: TakenForm; foretold: Forecast }> {
  const ways = [];
  for (const form of destinationSide.takes)
    ways.push({ form, foretold: await foretell(course, form, destination, destinationSide) });
  const [first] = ways.sort(
    (a, b) => keepsMore(b.foretold.totals, a.foretold.totals) || Number(b.form.own) - Number(a.form.own),
  );
  if (!first) throw new RangeError('a platform that takes nothing is no destination');
  return first;
}

/** Settles what a move is carried in, unless a person chose, and writes down what will become of it then. */
export async function settle(
  move: WholeMove,
  course: Course,
  destination: Instance,
  destinationSide: DestinationSide,
): Promise<Forecast> {
  const chosen = planOf(move).formChosen ? carriedAs(move, destinationSide) : null;
  const { form, foretold } = chosen
    ? { form: chosen, foretold: await foretell(course, chosen, destination, destinationSide) }
    : await richest(course, destination, destinationSide);
  // A look that is done once more after its worker died changes nothing of a fit that was accepted meanwhile.
  await planOf(move).reload();
  if (planOf(move).acceptedAt !== null) return foretold;
  await writeDocument(move.id, 'forecast', foretold);
  await planOf(move).update({ carriedAs: form.target });
  await noteStep(move.id, 'fit', 'ahead', fitWords(foretold));
  return foretold;
}

/**
 * What a course passes through on its way in a format: the format's profile, unless the package goes on as it came; and
 * the destination's, for what is not its own.
 */
async function profilesOf(
  course: Course,
  form: TakenForm,
  destination: Instance,
  destinationSide: DestinationSide,
): Promise<Profile[]> {
  const own = profileOn(course, targetById(form.target).target);
  return [
    ...(own ? [own] : []),
    ...(form.own || !destinationSide.profile ? [] : [await profileOf(destination, destinationSide.profile)]),
  ];
}

export async function foretell(
  course: Course,
  form: TakenForm,
  destination: Instance,
  destinationSide: DestinationSide,
): Promise<Forecast> {
  return forecast(course, await profilesOf(course, form, destination, destinationSide));
}

/** Words for what a forecast comes to. */
export function fitWords({ totals }: Forecast): string {
  return `${totals.reworked ?? 0} reworked, ${totals['left behind'] ?? 0} left behind`;
}

/** The formats that a move could be carried in, with what each would bring. */
export async function formsOf(services: Services, moveId: number): Promise<FormChoice[]> {
  const { move, destination, destinationSide } = await destinationSideOf(services, moveId);
  if (!destinationSide) return [];
  const course = await courseDecided(moveId);
  const own = carriedAs(move, destinationSide);
  const choices: FormChoice[] = [];
  for (const form of destinationSide.takes) {
    const { totals } = await foretell(course, form, destination, destinationSide);
    choices.push({
      target: form.target,
      label: targetById(form.target).target.label,
      totals,
      own: form.own,
      chosen: form === own,
    });
  }
  return choices;
}

/** Carries a move in another format, as long as its fit is not accepted: the forecast is made anew. */
export async function carryAs(
  services: Services,
  person: Person,
  moveId: number,
  target: string,
): Promise<MoveSummary> {
  mustBe(person, 'administrator');
  const { move, destination, destinationSide } = await destinationSideOf(services, moveId);
  const form = destinationSide?.takes.find((t) => t.target === target);
  if (!destinationSide || !form) {
    throw new Refusal(problem('format-not-taken', `${destination.name} does not take that format.`));
  }
  if (stepOf(move) !== 'fit') {
    throw new Refusal(
      problem('wrong-step', 'The fit is accepted already.', {}, 'Go on with the move, or start another.'),
    );
  }
  const course = await courseDecided(moveId);
  const foretold = await foretell(course, form, destination, destinationSide);
  await writeDocument(moveId, 'forecast', foretold);
  await planOf(move).update({ carriedAs: target, formChosen: true });
  await noteStep(moveId, 'fit', 'ahead', fitWords(foretold), person.id);
  // What of a further part has to come again hangs on the form.
  if (planOf(move).further !== null) await decidedAnew(move);
  await audit(person, 'format of the move chosen', `move ${moveId}`, { target });
  return moveSummary(await moveById(moveId));
}

async function destinationSideOf(services: Services, moveId: number) {
  const move = await moveById(moveId);
  const destination = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  return { move, destination, destinationSide: connectorOf(services.config.secret, destination).destination };
}
