export * from './csv.ts';
export * from './source.ts';
export * from './transfer-report.ts';
export * from './words.ts';
