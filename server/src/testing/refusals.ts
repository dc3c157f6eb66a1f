import { Refusal } from '@treenail/core';

/** The code of the refusal that a call ends with; `done` where it ends well, and what was said where it is no refusal. */
export function codeOf(work: Promise<unknown>): Promise<string> {
  return work.then(
    () => 'done',
    (error: unknown) => (error instanceof Refusal ? error.problem.code : String(error)),
  );
}
