export * from './csv.ts';
export * from './transfer-report.ts';
export * from './words.ts';
