export { inAddress } from './address';
export type { ListColumn } from './column';
export { List, type ListKey } from './list';
export { ListCell } from './list-cell';
export { Table } from './table';
export type { ListAsked, ListPage, ListSource } from './rows';
