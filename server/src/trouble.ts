import { Refusal, problem, type Problem } from '@treenail/core';

/** The database does not answer, or is too busy: worth trying again. */
export function isDatabaseTrouble(error: unknown): boolean {
  if (!(error instanceof Error)) return false;
  return (
    /^Sequelize(Connection|Timeout)/.test(error.name) || (isOfDatabase(error) && PASSING.test(codeOf(error) ?? ''))
  );
}

/** The database answers, and will not do what was asked: asking again gives the same. */
export function isDatabaseRefusal(error: unknown): boolean {
  return error instanceof Error && isOfDatabase(error) && !isDatabaseTrouble(error);
}

function isOfDatabase({ name }: Error): boolean {
  return /^Sequelize(Database|UniqueConstraint|ForeignKeyConstraint|Validation)/.test(name);
}

/** Refusals that pass: a line that broke, a lock not had in time, a server that goes down or is full of connections. */
const PASSING =
  /^(ECONN|EPIPE|ETIMEDOUT|ER_CHECKREAD)|SOCKET|CONN|SHUTDOWN|LOCK_|INTERRUPTED|GONE|CMD_NOT_EXECUTED|TIMEOUT|KILLED/;

/** What the system or the driver calls an error, wherever in its causes that stands. */
function codeOf(error: unknown): string | null {
  for (let at = error, depth = 0; at instanceof Error && depth < 5; depth++) {
    if ('code' in at && typeof at.code === 'string') return at.code;
    at = 'parent' in at && at.parent instanceof Error ? at.parent : at.cause;
  }
  return null;
}

/** There is no room, or no right to any: the disk, a quota, what may be opened at once. */
export function isDiskFull(error: unknown): boolean {
  const code = codeOf(error);
  return code === 'ENOSPC' || code === 'EDQUOT' || code === 'ER_DISK_FULL' || code === 'ER_RECORD_FILE_FULL';
}

export function diskFull(): Problem {
  return problem('disk-full', 'The disk that Treenail keeps its files on is full.');
}

export function diskFullRefusal(): Refusal {
  return new Refusal(diskFull());
}
