export * from './changes.ts';
export * from './forecast.ts';
export * from './outcome.ts';
export * from './passage.ts';
