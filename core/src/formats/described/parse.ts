import { LineCounter, isNode, parseDocument, type Document } from 'yaml';
import { problem, type Problem, type ProblemCode } from '../../model/index.ts';
import { Description, type Again, type Rule } from './language.ts';
import { pathProblem } from './documents.ts';

export type ReadDescription =
  { description: Description; problems?: undefined } | { description?: undefined; problems: Problem[] };

/**
 * A description from its text, YAML 1.2 or JSON; or all that is wrong with it, each with its line: `description-yaml`,
 * `description-malformed`, `description-name`, `description-path`.
 */
export function readDescription(text: string, file = 'description.yaml'): ReadDescription {
  const counter = new LineCounter();
  const doc = parseDocument(text, { lineCounter: counter, uniqueKeys: true });
  if (doc.errors.length > 0) {
    return {
      // What follows the first is mostly its doing.
      problems: doc.errors.slice(0, 1).map((error) =>
        problem('description-yaml', firstLine(error.message), {
          file,
          line: error.linePos?.[0].line,
        }),
      ),
    };
  }
  let value: unknown;
  try {
    // Aliases spare writing a rule twice; many of them are how a short document is made to say a million things.
    value = doc.toJS({ maxAliasCount: 100 });
  } catch {
    return {
      problems: [
        problem('description-yaml', 'Too much stands behind aliases.', { file }, 'Write out what they stand for.'),
      ],
    };
  }
  const read = Description.safeParse(value);
  const at = (path: readonly PropertyKey[]) => ({
    file,
    item: path.join('.') || undefined,
    line: lineOf(doc, counter, path),
  });
  if (!read.success) {
    return {
      problems: read.error.issues.flatMap((issue) => {
        const where = issue.path.join('.');
        if (issue.code !== 'unrecognized_keys') {
          const message = issue.message.endsWith('received undefined')
            ? `${where || 'The description'} is missing.`
            : `${where || 'The description'}: ${issue.message}`;
          return [problem('description-malformed', message, at(issue.path))];
        }
        return issue.keys.map((key) =>
          problem(
            'description-malformed',
            `${key} is no word ${where === '' ? 'at the top' : `of ${where}`}.`,
            at([...issue.path, key]),
          ),
        );
      }),
    };
  }
  const problems = [...wrongNames(read.data), ...wrongPaths(read.data)].map(({ path, code, message, action }) =>
    problem(code, message, at(path), action),
  );
  return problems.length > 0 ? { problems } : { description: read.data };
}

const firstLine = (text: string): string => text.split('\n')[0] ?? text;

/** Line of what stands at a path, or of the nearest thing around it. */
function lineOf(doc: Document, counter: LineCounter, path: readonly PropertyKey[]): number | undefined {
  for (let length = path.length; length >= 0; length--) {
    const node: unknown = length === 0 ? doc.contents : doc.getIn(path.slice(0, length), true);
    if (isNode(node) && node.range) return counter.linePos(node.range[0]).line;
  }
  return undefined;
}

interface Wrong {
  path: PropertyKey[];
  code: ProblemCode;
  message: string;
  action: string;
}

/** The lines in which rules stand, by the words a trace has for them; a named rule goes by its name. */
export function linesOf(text: string, rules: readonly string[]): Map<string, number> {
  const counter = new LineCounter();
  const doc = parseDocument(text, { lineCounter: counter });
  const named = new Map<string, PropertyKey[]>();
  const value: unknown = doc.errors.length > 0 ? null : doc.toJS({ maxAliasCount: 100 });
  walk(value, [], (key, name, path) => {
    if (key === 'name' && typeof name === 'string' && path.length > 1) named.set(name, path.slice(0, -1));
  });
  const lines = new Map<string, number>();
  for (const rule of rules) {
    const [first = '', ...rest] = rule.split('.');
    const steps = [...(named.get(first) ?? [first]), ...rest].map((s) => (/^\d+$/.test(String(s)) ? Number(s) : s));
    const line = lineOf(doc, counter, steps);
    if (line !== undefined) lines.set(rule, line);
  }
  return lines;
}

/** Names of records and of rules that nothing bears. */
function wrongNames(description: Description): Wrong[] {
  const wrong: Wrong[] = [];
  const records = new Set([...Object.keys(description.records), ...(description.files ? ['files'] : [])]);
  const rules = new Set(rulesOf(description).flatMap((r) => r.name ?? []));
  walk(description, [], (key, value, path) => {
    // In `texts` the word says whether files or pages are named.
    if (key === 'look' && typeof value === 'string' && path[0] !== 'texts' && !records.has(value)) {
      wrong.push({
        path,
        code: 'description-name',
        message: `There are no records named ${value}.`,
        action: records.size > 0 ? `Name one of ${[...records].join(', ')}.` : 'Add them under records.',
      });
    }
    if (key === 'again' && typeof value === 'string' && !rules.has(value)) {
      wrong.push({
        path,
        code: 'description-name',
        message: `There is no rule named ${value}.`,
        action: 'Give the rule that is to be used again that name.',
      });
    }
  });
  return wrong;
}

const PATH_KEYS = new Set(['at', 'has', 'path']);

/** Paths that are no path. */
function wrongPaths(value: Description): Wrong[] {
  const wrong: Wrong[] = [];
  walk(value, [], (key, text, path) => {
    if (typeof text !== 'string') return;
    const paths = PATH_KEYS.has(String(key)) ? [text] : key === 'fill' ? pathsIn(text) : [];
    for (const one of paths) {
      const why = pathProblem(one);
      if (why !== null)
        wrong.push({ path, code: 'description-path', message: `${one}: ${why}`, action: 'Mend the path.' });
    }
  });
  return wrong;
}

/** The paths in a text to be filled. */
export function pathsIn(fill: string): string[] {
  return [...fill.matchAll(/\{([^{}]+)\}/g)].map((m) => m[1] ?? '');
}

export function rulesOf({ outline, items }: Pick<Description, 'outline' | 'items'>): Rule[] {
  const below = (rules: readonly (Rule | Again)[]): Rule[] =>
    rules.flatMap((r) => ('again' in r ? [] : [r, ...below(r.inside ?? [])]));
  return [...below(outline), ...below(items)];
}

function walk(
  value: unknown,
  path: PropertyKey[],
  visit: (key: PropertyKey, value: unknown, path: PropertyKey[]) => void,
): void {
  if (typeof value !== 'object' || value === null) return;
  for (const [key, below] of Object.entries(value)) {
    const at = [...path, Array.isArray(value) ? Number(key) : key];
    visit(key, below, at);
    walk(below, at, visit);
  }
}
