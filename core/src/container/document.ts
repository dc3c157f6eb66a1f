import { Refusal, problem } from '../model/index.ts';
import { joinBytes } from './byte-source.ts';
import type { Limits } from './limits.ts';

/** A document that must be parsed in one piece. @throws Refusal `text-too-long` */
export async function documentOf(chunks: AsyncIterable<Uint8Array>, { textBytes }: Limits): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of chunks) {
    size += chunk.length;
    if (size > textBytes) {
      throw new Refusal(
        problem(
          'text-too-long',
          `The document is larger than ${textBytes} bytes.`,
          {},
          'Ask whoever runs Treenail to raise the limit textBytes.',
        ),
      );
    }
    parts.push(chunk);
  }
  return joinBytes(parts);
}
