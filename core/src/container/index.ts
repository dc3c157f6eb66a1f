export * from './byte-source.ts';
export * from './engine.ts';
export * from './folder.ts';
export * from './limits.ts';
export * from './open.ts';
export * from './once.ts';
export * from './package.ts';
export * from './zip-writer.ts';
export { documentOf } from './document.ts';
