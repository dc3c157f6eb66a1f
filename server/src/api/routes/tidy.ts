import { alongFor, setAlong } from '../../services/along.ts';
import type { Services } from '../../services/context.ts';
import { findingSettings, setFindingSettings } from '../../services/settings.ts';
import { startAsking } from '../../services/outside.ts';
import type { Read } from '../../services/readings.ts';
import * as tidy from '../../services/tidy.ts';
import type { Answers } from '../serve.ts';

type Names =
  | 'tidy'
  | 'decide'
  | 'undo'
  | 'chooseToGo'
  | 'along'
  | 'setAlong'
  | 'give'
  | 'beforeAfter'
  | 'askOutside'
  | 'mendRules'
  | 'saveRule'
  | 'removeRule'
  | 'usesOfRule'
  | 'applyRule'
  | 'findingSettings'
  | 'setFindingSettings';

/** What is found in the course of a move, what is decided of it, and the rules that are kept of decisions. */
export function tidyAnswers(services: Services, read: Read): Answers<Names> {
  return {
    tidy: ({ params: [id] }) => tidy.tidyOf(services, id),
    decide: async ({ person, params: [id], body }) => {
      await tidy.decide(services, person, id, body);
      return tidy.tidyOf(services, id);
    },
    undo: async ({ person, params: [id, decision] }) => {
      await tidy.undo(person, id, decision);
      return tidy.tidyOf(services, id);
    },
    chooseToGo: async ({ person, params: [id], body }) => {
      await tidy.choose(services, person, id, body);
      return tidy.tidyOf(services, id);
    },
    along: ({ params: [id] }) => alongFor(services, id),
    setAlong: async ({ person, params: [id], body }) => {
      await setAlong(services, person, id, body);
      return alongFor(services, id);
    },
    give: ({ person, params: [id], query: { name }, req }) => tidy.give(services, person, id, name, req),
    beforeAfter: ({ params: [id], body }) => read('tryMend', id, body),
    askOutside: ({ person, params: [id] }) => startAsking(services, person, id),
    mendRules: () => tidy.listRules(),
    saveRule: ({ person, body }) => tidy.saveRule(person, body),
    removeRule: ({ person, params: [id] }) => tidy.removeRule(person, id),
    usesOfRule: ({ params: [id] }) => tidy.usesOf(id),
    applyRule: ({ person, params: [id], body: { moveIds } }) => tidy.applyRule(services, person, id, moveIds),
    findingSettings: () => findingSettings(),
    setFindingSettings: ({ person, body }) => setFindingSettings(person, body),
  };
}
