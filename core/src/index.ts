/** The computation of Treenail: no interface, no database, no network. Runs in Node and in a web worker. */
export * from './compare/index.ts';
export * from './container/index.ts';
export * from './fit/index.ts';
export * from './formats/index.ts';
export * from './inspect/index.ts';
export * from './markup/index.ts';
export * from './model/index.ts';
export * from './report/index.ts';
export * from './reshape/index.ts';
