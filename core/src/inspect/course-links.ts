import type { Engine, Package } from '../container/index.ts';
import { textsOf, type Course } from '../model/index.ts';
import type { CourseLink, KnownAddresses } from './links.ts';
import { FileReader } from './reading.ts';

export interface LinksRead {
  links: CourseLink[];
  /** Package paths of texts that could not be read. */
  unread: string[];
}

/** The links of all texts of a course: only texts are read, however long its films are. */
export async function readLinks(
  pkg: Package,
  course: Course,
  options: { engine: Engine; known: KnownAddresses },
): Promise<LinksRead> {
  const reader = new FileReader(pkg, course, options.engine, { known: options.known, texts: false });
  const read: LinksRead = { links: [], unread: [] };
  for (const file of course.files.filter((f) => reader.hasText(f))) {
    const { refused, passage } = await reader.run(file, 'telling');
    if (refused) read.unread.push(file.path);
    else if (passage) read.links.push(...passage.links);
  }
  for (const item of course.items) {
    for (const { part, text } of textsOf(item)) read.links.push(...(reader.text(item, part, text)?.links ?? []));
  }
  return read;
}
