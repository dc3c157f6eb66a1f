import { PLATFORMS } from '../../platforms/index.ts';
import type { Services } from '../../services/context.ts';
import * as platforms from '../../services/platforms.ts';
import { refreshRegister } from '../../services/register.ts';
import type { Answers } from '../serve.ts';
import * as retries from '../../services/retries.ts';

type Names =
  | 'platformKinds'
  | 'platforms'
  | 'testPlatform'
  | 'addPlatform'
  | 'changePlatform'
  | 'checkPlatform'
  | 'retryAll'
  | 'exportsAt'
  | 'clearExports'
  | 'profile'
  | 'changeProfile';

/** Connected instances and their profiles. */
export function platformAnswers(services: Services): Answers<Names> {
  return {
    platformKinds: () => PLATFORMS.map(({ id, label }) => ({ id, label })),
    platforms: () => platforms.listPlatforms(services),
    testPlatform: ({ person, body }) => platforms.testPlatform(person, body),
    addPlatform: async ({ person, body }) => {
      const id = await platforms.addPlatform(services, person, body);
      await refreshRegister(2000);
      return { id };
    },
    changePlatform: ({ person, params: [id], body }) => platforms.changePlatform(services, person, id, body),
    checkPlatform: ({ params: [id] }) => platforms.checkPlatform(services, id),
    retryAll: async ({ person, params: [id] }) => ({ jobs: await retries.retryAllOf(person, id) }),
    exportsAt: ({ params: [id] }) => platforms.exportsAt(services, id),
    clearExports: ({ person, params: [id], body: { exports } }) =>
      platforms.clearExports(services, person, id, exports),
    profile: ({ params: [id] }) => platforms.profileAnswer(services, id),
    changeProfile: ({ person, params: [id], body }) => platforms.changeProfile(services, person, id, body),
  };
}
