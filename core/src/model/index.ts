export * from './course.ts';
export * from './naming.ts';
export * from './paths.ts';
export * from './problem.ts';
export * from './question.ts';
export * from './walk.ts';
export * from './profile.ts';
export * from './words.ts';
