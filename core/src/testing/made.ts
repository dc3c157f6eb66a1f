import {
  mediaTypeOf,
  partsOf,
  questionOf,
  type Course,
  type Item,
  type Question,
  type QuestionCommon,
  type QuestionParts,
  type QuestionType,
} from '../model/index.ts';
import type { Files } from './packages.ts';

/** Courses made by hand, for specs that speak of one thing. */
export const text = (html: string) => ({ format: 'html' as const, text: html });

/** What every item has; its title is its identifier unless another is given. */
export const common = (id: string, title = id) => ({ id, title, definitionPath: null, settings: {} });

export const page = (id: string, file = `${id}.html`): Item => ({
  ...common(id),
  kind: 'page',
  file,
  definitionPath: file,
});

/** A choice of one that is right, unless another type is asked for. */
export const question = (
  id: string,
  { type = 'choice', ...more }: Partial<QuestionCommon & QuestionParts> & { type?: QuestionType } = {},
): Question =>
  questionOf(
    type,
    { id, title: id, prompt: text(`<p>Ask ${id}</p>`), points: 1, feedback: {}, files: [], ...more },
    { choices: [{ id: `${id}a`, text: text('A'), correct: true }], ...more },
  );

/** A question with all parts that any has, so that a spec can ask for those it expects. */
export const withParts = (q: Question): Question & QuestionParts => ({ ...partsOf(q), ...q });

export function courseOf(items: Item[], files: Files, more: Partial<Course> = {}): Course {
  return {
    title: 'T',
    origin: { format: 't', version: '1', untouched: true },
    metadata: { keywords: [] },
    outline: [],
    items,
    files: Object.entries(files).map(([path, body]) => ({
      path,
      size: typeof body === 'string' ? Buffer.byteLength(body) : body.length,
      mediaType: mediaTypeOf(path),
      role: 'content',
    })),
    ...more,
  };
}
