import type { QueryInterface, Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import * as m0001 from './migrations/0001-begin.ts';
import * as m0002 from './migrations/0002-files.ts';
import * as m0003 from './migrations/0003-platforms.ts';
import * as m0004 from './migrations/0004-mail.ts';
import * as m0005 from './migrations/0005-descriptions.ts';
import * as m0006 from './migrations/0006-carried-as.ts';
import * as m0007 from './migrations/0007-tidy.ts';

/** In order. A list rather than a folder read at run time, so that a bundle holds them too. */
const MIGRATIONS: Record<string, { up(q: QueryInterface): Promise<void>; down(q: QueryInterface): Promise<void> }> = {
  '0001-begin': m0001,
  '0002-files': m0002,
  '0003-platforms': m0003,
  '0004-mail': m0004,
  '0005-descriptions': m0005,
  '0006-carried-as': m0006,
  '0007-tidy': m0007,
};

export function migrations(sequelize: Sequelize): Umzug<QueryInterface> {
  return new Umzug<QueryInterface>({
    migrations: Object.entries(MIGRATIONS).map(([name, m]) => ({
      name,
      up: ({ context }) => m.up(context),
      down: ({ context }) => m.down(context),
    })),
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });
}
