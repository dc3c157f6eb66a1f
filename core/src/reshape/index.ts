export * from './decisions.ts';
export * from './mends/index.ts';
export * from './merge.ts';
export * from './select.ts';
export * from './working.ts';
