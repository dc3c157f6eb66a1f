import { healthOfAll } from '../../services/health.ts';
import { mailChoice, setMailChoice } from '../../services/mail.ts';
import { personOf, sessionKey, signIn, signOut } from '../../services/people.ts';
import type { JobEvents } from '../events.ts';
import { describeApi } from '../openapi.ts';
import type { Answers } from '../serve.ts';
import { COOKIE, tokenOf } from '../session.ts';

type Names = 'health' | 'signIn' | 'signOut' | 'session' | 'mailChoice' | 'setMailChoice' | 'apiDescription' | 'events';

/** Who is signed in, and what they are told. */
export function sessionAnswers(events: JobEvents): Answers<Names> {
  return {
    health: async ({ res }) => {
      const health = await healthOfAll();
      res.status(health.ok ? 200 : 503);
      return health;
    },
    signIn: async ({ body, req, res }) => {
      const { person, token, expiresAt } = await signIn(body.email, body.password);
      res.cookie(COOKIE, token, {
        httpOnly: true,
        sameSite: 'strict',
        secure: req.secure,
        expires: expiresAt,
        path: '/',
      });
      return person;
    },
    signOut: async ({ req, res }) => {
      const token = tokenOf(req);
      if (token !== null) {
        await signOut(token);
        events.endFor(sessionKey(token));
      }
      res.clearCookie(COOKIE, { path: '/' });
    },
    session: async ({ req }) => {
      const token = tokenOf(req);
      return token === null ? null : personOf(token);
    },
    mailChoice: ({ person }) => mailChoice(person),
    setMailChoice: ({ person, body }) => setMailChoice(person, body),
    apiDescription: () => describeApi(),
    events: ({ req, res }) => events.listen(res, sessionKey(tokenOf(req) ?? '')),
  };
}
