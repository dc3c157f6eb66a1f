import type { LogLine } from '../contract.ts';

/** What Tarnhall's log lines mean, as far as it has been found out. `$1` is the identifier in the package. */
const MEANINGS: [pattern: RegExp, words: string, hasItem: boolean][] = [
  [/^T-100 MNF ok r=(\d+) n=(\d+)$/, 'The package was read: $1 resources, $2 entries.', false],
  [/^T-100 CRT ok u=(\d+) n=(\d+)$/, 'The crate was read: $1 units, $2 entries and pools.', false],
  [/^T-001/, 'No manifest was found in the package.', false],
  [/^T-210 FLT (\S+) d>1$/, 'A folder below the first level became a heading.', true],
  [/^T-310 RSC (\S+) nil$/, 'An outline entry has no resource and was left out.', true],
  [/^T-320 FIL (\S+) 0$/, 'A file was not found in the package and was left out.', true],
  [/^T-321 FIL (\S+) >\d+$/, 'A file is over the size limit and was left out.', true],
  [/^T-322 FIL (\S+) cp\?$/, 'A file was left out because of characters in its name.', true],
  [/^T-325 FIL (\S+) thr\?$/, 'A file that should stand there already was not found; what shows it has none.', false],
  [
    /^T-326 ENT (\S+) thr\?$/,
    'An entry that should stand there already was not found; links to it lead nowhere.',
    true,
  ],
  [/^T-399 TYP (.*)$/, 'A part of a kind that is not known was left out: $1.', false],
  [/^T-410 LTI (\S+) par drop$/, 'The parameters of an external tool were dropped.', true],
  [
    /^T-520 POL (\S+) q=(\d+) cat drop$/,
    'A question bank became a pool; the categories of its $2 questions were dropped.',
    true,
  ],
  [/^T-430 SCO n=(\d+) trk drop$/, 'The $1 objects report nothing any more: they were taken in as plain texts.', false],
  [/^T-521 POL q=(\d+)$/, 'The $1 questions became one pool.', false],
  [/^T-530 ITM (\S+) frm\?$/, 'A question of a form that Tarnhall has not was left out.', true],
  [/^T-900 END e=(\d+) f=(\d+)$/, 'Finished: $1 entries, $2 files.', false],
];

export function explainLog(line: string): LogLine {
  for (const [pattern, words, hasItem] of MEANINGS) {
    const match = pattern.exec(line);
    if (!match) continue;
    return {
      line,
      words: singular(words.replace(/\$(\d)/g, (_whole, n: string) => match[Number(n)] ?? '')),
      item: hasItem ? (match[1] ?? null) : null,
    };
  }
  return { line, words: null, item: null };
}

/** Of one thing nobody says that there are several. */
function singular(words: string): string {
  return words
    .replace(/\b1 entries\b/g, '1 entry')
    .replace(/\b1 (unit|resource|file|question|object|pool)s\b/g, '1 $1')
    .replace('The 1 object report ', 'The 1 object reports ');
}
