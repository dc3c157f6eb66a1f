/** What a package may cost before it is refused. Every limit is settable; the defaults are stated in docs/formats.md. */
export interface Limits {
  entries: number;
  /** Bytes of the directory of a zip. */
  directoryBytes: number;
  /** Sum of declared sizes, bytes. */
  totalBytes: number;
  /** Bytes that may be held in memory where something must be written anew before it is read. */
  memoryBytes: number;
  /** Declared size over compressed size of an entry of more than `ratioFrom` bytes. */
  ratio: number;
  ratioFrom: number;
  /** Text that a reader must parse in one piece, bytes. */
  textBytes: number;
  xmlDepth: number;
  outlineDepth: number;
  nameLength: number;
}

export const DEFAULT_LIMITS: Limits = {
  entries: 200_000,
  directoryBytes: 256 * 2 ** 20,
  totalBytes: 64 * 2 ** 30,
  memoryBytes: 512 * 2 ** 20,
  ratio: 200,
  ratioFrom: 10 * 2 ** 20,
  textBytes: 64 * 2 ** 20,
  xmlDepth: 256,
  outlineDepth: 64,
  nameLength: 1024,
};
