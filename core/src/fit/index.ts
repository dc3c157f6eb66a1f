export * from './forecast.ts';
export * from './outcome.ts';
