export * from './inventory.ts';
export * from './preview.ts';
export * from './questions.ts';
export * from './survey.ts';
