import type { Engine, Package } from '../container/index.ts';
import { textsOf, type Course } from '../model/index.ts';
import type { CourseLink, KnownAddresses } from './links.ts';
import { FileReader, type PassageRead } from './reading.ts';

export interface LinksRead {
  links: CourseLink[];
  /** Package paths of texts (else titles of items) that could not be read, or not to their end. */
  unread: string[];
}

/** The links of all texts of a course: only texts are read, however long its films are. */
export async function readLinks(
  pkg: Package,
  course: Course,
  options: { engine: Engine; known: KnownAddresses },
): Promise<LinksRead> {
  const reader = new FileReader(pkg, course, options.engine, { known: options.known, texts: false });
  const pages = new Set(course.items.flatMap((i) => (i.kind === 'page' ? [i.file] : [])));
  const links: CourseLink[] = [];
  const unread = new Set<string>();
  const take = (passage: PassageRead | null, place: string) => {
    if (!passage) return;
    links.push(...passage.links);
    // Texts that repeat themselves without end, or nest without end, are followed to a limit.
    if (passage.unfollowed > 0 || passage.unread > 0) unread.add(place);
  };
  for (const file of course.files) {
    if (!reader.hasText(file)) {
      // Pages over the limit are not read either.
      if (pages.has(file.path)) unread.add(file.path);
      continue;
    }
    const { refused, passage } = await reader.run(file, 'with findings');
    if (refused) unread.add(file.path);
    take(passage, file.path);
  }
  for (const item of course.items) {
    for (const { part, text } of textsOf(item)) take(reader.text(item, part, text), item.definitionPath ?? item.title);
  }
  return { links, unread: [...unread] };
}
