import { Parser } from 'htmlparser2';
import { BREAKING, UNSEEN, fold } from './html.ts';

/** Mark-up that says something beside the words, under one name each; all other is a matter of how texts are wrapped. */
const SAYS: Readonly<Record<string, string>> = {
  ...Object.fromEntries(
    'strong em u s sub sup code pre ul ol li table tr td th h1 h2 h3 h4 h5 h6 blockquote a img math svg video audio'
      .split(' ')
      .map((name) => [name, name]),
  ),
  b: 'strong',
  i: 'em',
  strike: 's',
  del: 's',
};

/** A text as its words and what of its mark-up says something: two that are the same in this say the same to a reader. */
export function emphasized(html: string): string {
  const parts: string[] = [];
  const open: string[] = [];
  let unseen = 0;
  const parser = new Parser({
    onopentag(name) {
      if (UNSEEN.has(name)) unseen++;
      else if (SAYS[name]) {
        parts.push(` <${SAYS[name]}> `);
        open.push(name);
      } else if (BREAKING.test(name)) parts.push(' ');
    },
    ontext(text) {
      if (unseen === 0) parts.push(text);
    },
    onclosetag(name) {
      // A tag that the text ends in is told as closed without ever having been opened.
      const at = open.lastIndexOf(name);
      if (at >= 0) open.splice(at, 1);
      if (UNSEEN.has(name)) unseen--;
      else if (at >= 0 && SAYS[name] && name !== 'img') parts.push(` </${SAYS[name]}> `);
      else if (BREAKING.test(name)) parts.push(' ');
    },
  });
  parser.end(html);
  return fold(parts.join(''));
}
