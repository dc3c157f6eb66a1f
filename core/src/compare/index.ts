export * from './align.ts';
export * from './beside.ts';
export * from './compare.ts';
export * from './joint.ts';
export * from './landing.ts';
export * from './marks.ts';
export * from './since.ts';
