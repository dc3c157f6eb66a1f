export * from './blocks.ts';
export * from './decode.ts';
export * from './html.ts';
export * from './ledger.ts';
export * from './page.ts';
export * from './xml.ts';
