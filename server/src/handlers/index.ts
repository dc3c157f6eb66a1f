import type { Services } from '../services/context.ts';
import { doErrand } from '../services/errands.ts';
import { followUp } from '../services/plan.ts';
import type { Handler, Handlers } from '../jobs/worker.ts';
import { build } from './build.ts';
import { check } from './check.ts';
import { deliverCourse } from './deliver.ts';
import { fetchCourse } from './fetch.ts';
import { give } from './give.ts';
import { mail } from './mail.ts';
import { intake } from './intake.ts';
import { lookInside } from './look.ts';
import { askOutside } from './outside.ts';
import { register } from './register.ts';
import { takeBackDelivery } from './take-back.ts';
import { tidy } from './tidy.ts';

export function handlersOf(services: Services): Handlers {
  return followedUp(services, {
    register: register(services),
    mail: mail(services),
    intake: intake(services),
    fetch: fetchCourse(services),
    look: lookInside(services),
    tidy: tidy(services),
    outside: askOutside(services),
    build: build(services),
    deliver: deliverCourse(services),
    check: check(services),
    'take-back': takeBackDelivery(services),
    give: give(services),
  });
}

/** What follows a job of a move is said by the move's plan, whichever job it was. */
function followedUp(services: Services, handlers: Handlers): Handlers {
  return Object.fromEntries(
    Object.entries(handlers as Record<string, Handler>).map(([kind, handler]) => [
      kind,
      {
        ...handler,
        run: async (context, input) => {
          await handler.run(context, input);
          const { moveId } = context.job;
          if (moveId === null) return;
          await doErrand(services, moveId);
          await followUp(moveId);
        },
      } satisfies Handler,
    ]),
  ) as unknown as Handlers;
}
