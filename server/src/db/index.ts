export * from './connect.ts';
export * from './migrate.ts';
export * from './models/index.ts';
