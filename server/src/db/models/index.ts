import type { Sequelize } from 'sequelize';
import { bindPeople } from './people.ts';
import { bindPlatforms } from './platforms.ts';
import { bindCourses } from './courses.ts';
import { bindMoves } from './moves.ts';
import { bindJobs } from './jobs.ts';
import { bindSettings } from './settings.ts';

/** Binds the models to a connection. The tables themselves are made by the migrations. */
export function bindModels(sequelize: Sequelize): void {
  bindPeople(sequelize);
  bindPlatforms(sequelize);
  bindCourses(sequelize);
  bindMoves(sequelize);
  bindJobs(sequelize);
  bindSettings(sequelize);
}

export * from './people.ts';
export * from './platforms.ts';
export * from './courses.ts';
export * from './moves.ts';
export * from './jobs.ts';
export * from './settings.ts';
