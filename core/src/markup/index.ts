export * from './blocks.ts';
export * from './decode.ts';
export * from './html.ts';
export * from './ledger.ts';
export * from './page.ts';
export * from './xml.ts';
export * from './xml-taken.ts';
export * from './xml-text.ts';
export { child, descendants, elements, textOf, type XmlElement } from './xml-tree.ts';
