export * from './align.ts';
export * from './compare.ts';
export * from './joint.ts';
export * from './marks.ts';
export * from './since.ts';
