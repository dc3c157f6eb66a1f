import type { Services } from '../../services/context.ts';
import * as redate from '../../services/redate.ts';
import { closedDays, setClosedDays } from '../../services/settings.ts';
import type { Answers } from '../serve.ts';

type Names = 'redate' | 'setRedate' | 'undoRedate' | 'closedDays' | 'setClosedDays';

/** The dates of the course of a move, and the days on which the house is closed. */
export function redateAnswers(services: Services): Answers<Names> {
  return {
    redate: ({ params: [id] }) => redate.redateOf(services, id),
    setRedate: async ({ person, params: [id], body }) => {
      await redate.setRedate(person, id, body);
      return redate.redateOf(services, id);
    },
    undoRedate: async ({ person, params: [id] }) => {
      await redate.undoRedate(person, id);
      return redate.redateOf(services, id);
    },
    closedDays: () => closedDays(),
    setClosedDays: ({ person, body }) => setClosedDays(person, body),
  };
}
