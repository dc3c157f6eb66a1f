export * from './inventory.ts';
export * from './preview.ts';
export * from './survey.ts';
