import type { Services } from '../services/context.ts';
import type { Handlers } from '../jobs/worker.ts';
import { build } from './build.ts';
import { check } from './check.ts';
import { deliverCourse } from './deliver.ts';
import { fetchCourse } from './fetch.ts';
import { mail } from './mail.ts';
import { intake } from './intake.ts';
import { lookInside } from './look.ts';
import { askOutside } from './outside.ts';
import { register } from './register.ts';
import { tidy } from './tidy.ts';

export function handlersOf(services: Services): Handlers {
  return {
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
  };
}
