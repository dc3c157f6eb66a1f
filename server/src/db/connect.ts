import { Sequelize } from 'sequelize';
import type { Config } from '../config.ts';

/** Connects to MariaDB. All times are UTC with milliseconds. */
export function connect(config: Config['db']): Sequelize {
  const sequelize = new Sequelize(config.name, config.user, config.password, {
    dialect: 'mariadb',
    host: config.host,
    port: config.port,
    logging: false,
    timezone: '+00:00',
    pool: { max: 8, acquire: 20_000 },
    // The driver gives up after a second, which a busy machine may need to shake hands.
    dialectOptions: { connectTimeout: 10_000 },
    define: { underscored: true, timestamps: false },
  });
  // Sequelize knows SKIP LOCKED but does not list MariaDB (10.6 and later) among those that have it, and would drop it.
  (sequelize as unknown as { dialect: { supports: { skipLocked?: boolean } } }).dialect.supports.skipLocked = true;
  return sequelize;
}
