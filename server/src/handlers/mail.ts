import { PlatformTrouble } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { sendMail } from '../services/mail.ts';
import type { Handler } from '../jobs/worker.ts';

/** Sends one mail; a mail server that is away is tried again as a platform would be. */
export const mail = ({ config }: Services): Handler<'mail'> => ({
  run: async (_context, { jobId, userId }) => {
    try {
      await sendMail(config, jobId, userId);
    } catch (error) {
      throw new PlatformTrouble(`the mail server does not take the mail (${String(error)})`, { cause: error });
    }
  },
});
