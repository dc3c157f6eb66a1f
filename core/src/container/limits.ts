import { Refusal, problem } from '../model/index.ts';

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
  nameLength: number;
  /** Addresses of one text that are followed up. */
  linksPerText: number;
  /** Findings that are told of one text, and of one course. */
  findingsPerText: number;
  findings: number;
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
  nameLength: 1024,
  linksPerText: 5000,
  findingsPerText: 1000,
  findings: 50_000,
};

/**
 * Limits as a person or an administrator sets them: `ratio=500,totalBytes=107374182400`.
 * @throws Refusal `limit-unknown`
 */
export function readLimits(text: string): Partial<Limits> {
  const limits: Partial<Limits> = {};
  for (const part of text.split(/[\s,]+/).filter(Boolean)) {
    const [name = '', value = ''] = part.split('=');
    if (!(name in DEFAULT_LIMITS) || !/^[1-9]\d{0,15}$/.test(value)) {
      throw new Refusal(
        problem(
          'limit-unknown',
          `${part} sets no limit.`,
          {},
          `Write name=number; the names are ${Object.keys(DEFAULT_LIMITS).join(', ')}.`,
        ),
      );
    }
    limits[name as keyof Limits] = Number(value);
  }
  return limits;
}
