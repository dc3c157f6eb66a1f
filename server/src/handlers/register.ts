import { Refusal } from '@treenail/core';
import { Instance } from '../db/models/index.ts';
import { PlatformTrouble } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { connectorOf } from '../services/instances.ts';
import { healthOf } from '../services/platforms.ts';
import { writeListing } from '../services/register.ts';
import type { Handler } from '../jobs/worker.ts';

/** Lists one instance's courses into the register. */
export const register = ({ config }: Services): Handler<'register'> => ({
  run: async (_context, { instanceId }) => {
    const instance = await Instance.findByPk(instanceId, { rejectOnEmpty: true });
    const connector = connectorOf(config.secret, instance);
    await instance.update({ health: await healthOf(connector) });
    try {
      await writeListing(instance.id, await connector.listCourses());
    } catch (error) {
      const why =
        error instanceof Refusal ? error.problem.message : error instanceof Error ? error.message : String(error);
      await instance.update({ trouble: why.slice(0, 900) });
      if (!(error instanceof PlatformTrouble)) throw error;
      // The next listing is due soon anyway; this one need not be repeated.
    }
  },
});
