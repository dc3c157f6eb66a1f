import { unbased, escapeXml } from '../../markup/index.ts';
import { mediaTypeOf, type CourseFile, type RichText, type Settings } from '../../model/index.ts';
import type { Package } from '../../container/index.ts';

/** What the readers of platforms' archives have in common. */

export const html = (text: string): RichText => ({ format: 'html', text });
export const plain = (text: string): RichText => ({ format: 'plain', text });

/** Settings without those that are not set. */
export function settingsOf(all: { [K in keyof Settings]?: Settings[K] | null | false | undefined }): Settings {
  return Object.fromEntries(
    Object.entries(all).filter(
      ([, v]) => v !== null && v !== undefined && v !== false && !(Array.isArray(v) && v.length === 0),
    ),
  );
}

/** What is shown of a page, with the style sheets that its head names. */
export function bodyOf(whole: string): string {
  // The head that says from where it names things stays behind.
  const page = unbased(whole);
  const opened = /<body[^>]*>/i.exec(page);
  if (!opened) return page;
  const head = page.slice(0, opened.index);
  const styles = head.match(/<link\b[^>]*>|<style\b[^>]*>[\s\S]*?<\/style>/gi) ?? [];
  const rest = page.slice(opened.index + opened[0].length);
  return styles.join('') + rest.replace(/<\/body>[\s\S]*$/i, '');
}

/** A page of a text that stood inside a record. */
export function pageOf(title: string, body: string): string {
  return `<!DOCTYPE html>\n<html><head><meta charset="utf-8"><title>${escapeXml(title)}</title></head><body>\n${body}\n</body></html>\n`;
}

/** The files of an archive; `records` are those that describe the course. */
export function filesIn(pkg: Package, isRecord: (path: string) => boolean): CourseFile[] {
  return [...pkg.entries.values()].map(({ path, size }) => ({
    path,
    size,
    mediaType: mediaTypeOf(path),
    role: isRecord(path) ? 'definition' : 'content',
  }));
}
