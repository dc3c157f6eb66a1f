export * from './decode.ts';
export * from './html.ts';
export * from './xml.ts';
