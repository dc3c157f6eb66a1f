import { Refusal, problem } from './problem.ts';

/** What a course is called by in an institution. */
export interface Named {
  code: string;
  section: string;
  term: string;
  title: string;
}

/** What people call a course: code and section, as far as it has them. Known from a file it may have neither. */
export function courseName({ code, section }: Pick<Named, 'code' | 'section'>): string {
  return [code, section].filter(Boolean).join('-');
}

/** Code and section, term, first words of the title, date. */
export const NAMING_RULE = '{code}-{section}_{term}_{title:4}_{date}';

const FIELD = /\{(\w+)(?::(\d{1,2}))?\}/g;

/** "Autumn 2026" sorts badly among files; "2026-Autumn" does not. */
function termForFiles(term: string): string {
  const match = /^(\p{L}+) (\d{4})$/u.exec(term);
  return match ? `${match[2]}-${match[1]}` : term;
}

const FIELDS: Record<string, (course: Named, date: Date, words: number) => string> = {
  code: (c) => c.code.replaceAll(' ', ''),
  section: (c) => c.section.replaceAll(' ', ''),
  term: (c) => termForFiles(c.term),
  title: (c, _date, words) => c.title.trim().split(/\s+/).slice(0, words).join('-'),
  date: (_c, date) => date.toISOString().slice(0, 10),
};

/**
 * Judges a naming rule: plain characters and the fields `{code}`, `{section}`, `{term}`, `{title}` or `{title:4}` (so
 * many words of it) and `{date}`.
 * @throws Refusal `naming-rule`
 */
export function checkNamingRule(rule: string): string {
  const refuse = (why: string) =>
    new Refusal(
      problem('naming-rule', why, {}, `Use the fields {${Object.keys(FIELDS).join('}, {')}}; {title:4} is four words.`),
    );
  for (const [field, name = ''] of rule.matchAll(FIELD)) {
    if (!Object.hasOwn(FIELDS, name)) throw refuse(`${field} is no field of a name.`);
  }
  if (/[{}]/.test(rule.replace(FIELD, ''))) throw refuse('A brace is open, or stands alone.');
  if (!FIELD.test(rule)) throw refuse('The rule has no field, so every copy would have one name.');
  FIELD.lastIndex = 0;
  return rule;
}

/** Of a file's name, bytes in UTF-8: file systems take 255, and an extension and a number have to fit too. */
const NAME_BYTES = 200;

/** As much of a text as so many bytes of UTF-8 hold, no sign cut in two. */
function cutTo(text: string, bytes: number): string {
  const encoder = new TextEncoder();
  let left = bytes;
  let kept = '';
  for (const sign of text) {
    left -= encoder.encode(sign).length;
    if (left < 0) break;
    kept += sign;
  }
  return kept;
}

/** The name of a file by rule. Safe on every file system; nothing of an empty field remains. */
export function nameByRule(course: Named, date: Date, extension: string, rule = NAMING_RULE): string {
  const name = rule
    .replace(FIELD, (_all, field: string, words: string | undefined) => {
      const value = FIELDS[field]?.(course, date, words === undefined ? 99 : Number(words)) ?? '';
      // A separator of the rule within a field would make the parts of the name run together.
      return value.replaceAll('_', '-');
    })
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}_.-]+/gu, '-')
    .replace(/\.{2,}/g, '.')
    .replace(/-{2,}/g, '-')
    .replace(/-*_[-_]*/g, '_')
    .replace(/^[._-]+/, '');
  return `${cutTo(name, NAME_BYTES).replace(/[._-]+$/, '') || 'course'}.${extension}`;
}

/**
 * A name with what tells the file from others of the same course and day: chosen parts only, personal data in it, where it is
 * for. Where there is such a name already, a number is put behind it.
 */
export function toldApart(
  name: string,
  marks: readonly string[],
  isTaken: (name: string) => boolean = () => false,
): string {
  const [, stem = name, ending = ''] = /^(.*?)(\.(?:tar\.gz|[A-Za-z0-9]{1,8}))?$/s.exec(name) ?? [];
  const marked = [stem, ...marks.map((m) => m.replace(/[^\p{L}\p{N}.-]+/gu, '-').replace(/^-+|-+$/g, ''))].join('_');
  let marker = marked + ending;
  for (let n = 2; isTaken(marker); n++) marker = `${marked}-${n}${ending}`;
  return marker;
}

/** What a file's name and the title within say of the course, as far as they follow a rule; empty where they do not. */
export function guessNamed(fileName: string, title: string): Named {
  const byRule = /^([A-Z]{2,5})(\d{2,4}[A-Z]?)(?:-([A-Z0-9]{1,4}))?_(\d{4})-(\p{L}+)_/u.exec(fileName);
  const inTitle = /^([A-Z]{2,5})[ -]?(\d{2,4}[A-Z]?)(?:-([A-Z0-9]{1,4}))?[ :,]+(.+)$/u.exec(title.trim());
  const found = byRule ?? inTitle;
  return {
    code: found ? `${found[1]} ${found[2]}` : '',
    section: found?.[3] ?? '',
    term: byRule ? `${byRule[5]} ${byRule[4]}` : '',
    title: inTitle?.[4] ?? title.trim(),
  };
}
