import { Marked } from 'marked';
import { parse } from 'yaml';
import { Refusal, problem } from '../../model/index.ts';

const marked = new Marked({ gfm: true, async: false });

/** A text and the head in YAML before it. @throws Refusal `yaml-malformed` */
export function parted(text: string, path: string): { head: unknown; body: string } {
  const match = /^---\r?\n([\s\S]*?)\r?\n---\r?\n([\s\S]*)$/.exec(text);
  return match ? { head: yamlOf(match[1] ?? '', path), body: match[2] ?? '' } : { head: {}, body: text };
}

/** CommonMark as HTML. */
export function htmlOf(text: string): string {
  return marked.parse(text) as string;
}

/** @throws Refusal `yaml-malformed` */
export function yamlOf(text: string, path: string): unknown {
  try {
    // Aliases are how a short document is made to say a million things.
    return parse(text, { maxAliasCount: 0, logLevel: 'error' });
  } catch (error) {
    const line =
      error instanceof Error && 'linePos' in error ? (error.linePos as { line: number }[])[0]?.line : undefined;
    throw new Refusal(problem('yaml-malformed', `${path} is not well-formed YAML.`, { file: path, line }), {
      cause: error,
    });
  }
}
