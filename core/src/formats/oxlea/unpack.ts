import * as z from 'zod';
import type { Unpacker } from '../../container/index.ts';
import { decodeText } from '../../markup/index.ts';
import { pageOf } from '../archive/parts.ts';
import { htmlOf, parted } from '../archive/texts.ts';

export const BOOK = 'book.yaml';
/** Where the page of a reading stands once the parcel is unpacked. */
export const readingPath = (path: string): string => path.replace(/\.md$/, '.html');

const Reading = z.looseObject({
  sort: z.literal('reading'),
  name: z.string(),
  form: z.enum(['light', 'html']).default('light'),
});

/** The texts of a parcel are CommonMark below a head in YAML: readings become pages, everything else stays as it is. */
export const oxleaUnpacker: Unpacker = {
  id: 'oxlea',
  landmark: BOOK,
  ofPackage: {
    fits: (pkg) => pkg.entries.has(BOOK),
    async unpack(pkg, writer) {
      for (const entry of pkg.entries.values()) {
        await writer.copy(entry.path, pkg, entry);
        if (!entry.path.endsWith('.md')) continue;
        const { head, body } = parted(decodeText(await pkg.bytes(entry.path)), entry.path);
        const reading = Reading.safeParse(head);
        if (!reading.success) continue;
        const { name, form } = reading.data;
        const page = pageOf(name, form === 'html' ? body : htmlOf(body));
        await writer.add(readingPath(entry.path), new TextEncoder().encode(page));
      }
    },
  },
};
