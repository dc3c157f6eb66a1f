/** The words of the language of descriptions, for whoever writes one. */
export interface DescriptionWord {
  /** Where it stands: `the top`, `a rule`, `a value`… */
  at: string;
  word: string;
  means: string;
}

const of = (at: string, words: Record<string, string>): DescriptionWord[] =>
  Object.entries(words).map(([word, means]) => ({ at, word, means }));

export const DESCRIPTION_WORDS: readonly DescriptionWord[] = [
  ...of('the top', {
    description: '1, the version of this language',
    'id, name, version': 'what the archive is called, and the version of its format',
    fits: 'file: a pattern that its archives have a file of; has: a path that finds something in it',
    container: 'files (a zip or tar), or document: the name to read one document by, with begins: what it begins with',
    records: 'sets by name in which others are looked up: each has find and key',
    files: 'find, key, and held (the entry with the bytes) or base64 (the bytes themselves); path: what to call it',
    texts: 'how texts name files or pages: begins, then a key, to ends; look: files or pages',
    course: 'find, title; code, about, keywords, rights, language',
    outline: 'rules, in order; what is found at no file is sought in the record of the course',
    items: 'rules for what has no place in the outline',
    personal: 'people, submissions, grades, posts: each has find; files: patterns',
    ignore: 'patterns of files that hold nothing of the course',
  }),
  ...of('find', {
    in: 'a file pattern: one record a document, or those at the path in it',
    at: 'a path in the record above: $.units[*] in JSON and YAML, unit or @id in XML (names without prefixes)',
    follow: 'true (from the root of the archive) or beside: what is found is the path of a document to go to',
    'look, by': 'the record of a set that has this key',
  }),
  ...of('a rule', {
    find: 'where its records stand',
    when: 'only records where a path finds something; or where it is, or is not, one of some values',
    kind: 'folder, heading, nothing (what is inside stands in its place), page, file, link, tool, assignment, discussion, quiz, bank, announcement, event, checklist, automation, attendance, rubric, groups, category, column',
    id: 'a value, or several: the first that nothing else has taken',
    'title, text, url, file': 'values; the text of a page becomes a file of its own',
    page: 'where that file is to stand',
    key: 'by what texts name the page, if not its id',
    settings: 'values by the name of the setting: points, due, attempts, timeLimit, hidden, password, attachments…',
    questions:
      'rules with id, type, prompt, points, choices, answers, numbers, targets, pairs, order, blanks, feedback',
    rows: 'find and cells: the lines of a checklist, rubric, register or glossary',
    inside: 'rules for what this record holds; again: the name of a rule to use once more',
    name: 'for again',
  }),
  ...of('a value', {
    path: 'what the path finds first; a path alone may be written as it is',
    is: 'a word or number as it stands',
    fill: "a text with paths in braces: 'part {$.n}'",
    '[…]': 'the first of several that is given',
    of: 'above or course: in another record than its own',
    'look, then': 'the value is a key of that set; then is taken in the record found',
    table: 'its words for ours: { hw: assignment }',
    'times, divide': 'a number in another unit',
    as: 'text, words, html, markdown, inside (the mark-up of an element), number, yes, list, file, files, date',
  }),
];
