export type { Surveyed } from './apply.ts';
export { beforeAfter, type BeforeAfter } from './before-after.ts';
export * from './dates/index.ts';
export * from './decisions.ts';
export * from './mends/index.ts';
export * from './merge.ts';
export * from './parts/index.ts';
export * from './select.ts';
export * from './working.ts';
