import { PLAYER_MARK } from '../markup/player.ts';
import { asHtml, escapeXml, htmlOf } from '../markup/index.ts';
import {
  baseName,
  kindOf,
  relativePath,
  withGaps,
  type Course,
  type Item,
  partsOf,
  type Question,
  type RichText,
} from '../model/index.ts';
import { renderQuiz } from './play/quiz.ts';
import { encodePath, movedTexts } from './references.ts';

/** Items that are no pages by themselves, as pages to be read: for formats that hold nothing else. */

const STYLE =
  'body{font:17px/1.6 system-ui,sans-serif;max-width:44em;margin:0 auto;padding:16px;color:#1c2a2e}img{max-width:100%;height:auto}fieldset{border:1px solid #d5dbd8;border-radius:4px;margin:0 0 16px}.picture{position:relative}.picture .mark{position:absolute;width:14px;height:14px;margin:-9px 0 0 -9px;border:2px solid #b23a24;border-radius:50%;box-shadow:0 0 0 1px #fff;pointer-events:none}.choices,.pairs{list-style:none;padding:0}.choices label{display:flex;gap:8px;align-items:baseline;padding:6px 0}input,select,textarea,button{font:inherit;max-width:100%;padding:4px 8px}textarea{width:100%;box-sizing:border-box}button{min-height:44px;padding:0 18px}:focus-visible{outline:3px solid #1f5d4c}';

/**
 * A page of an item. `path` is where it will stand; `runtime` the path of the script that plays it, without which quizzes
 * are to be read only.
 */
export function renderItem(course: Course, item: Item, path: string, runtime?: string): string {
  const rewrite = movedTexts(course, item)(path);
  const { attachments = [] } = item.settings;
  const files = attachments.map((file) => {
    const href = escapeXml(encodePath(relativePath(path, file)));
    return `<li><a href="${href}">${escapeXml(baseName(file))}</a></li>`;
  });
  const quiz = runtime !== undefined && item.kind === 'quiz' ? renderQuiz(item) : null;
  const body = quiz ? quiz.html : pageBlocks(item);
  const key = quiz ? `<script type="application/json" id="quiz-key">${asScriptData(quiz.key)}</script>` : '';
  const scripts = runtime === undefined ? '' : `${key}${runtimeTag(path, runtime)}`;
  const language = escapeXml(course.metadata.language ?? 'en');
  // The title is the document's, not a line of its text: the text stays what its author wrote.
  return `<!DOCTYPE html>
<html lang="${language}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escapeXml(item.title)}</title><style>${STYLE}</style></head>
<body>${rewrite(body)}${files.length > 0 ? `<ul>${files.join('')}</ul>` : ''}${scripts}</body></html>
`;
}

export function runtimeTag(path: string, runtime: string): string {
  return `<script src="${escapeXml(encodePath(relativePath(path, runtime)))}" ${PLAYER_MARK}="player"></script>`;
}

/** JSON that no text in it can end the script element of. */
function asScriptData(value: unknown): string {
  return JSON.stringify(value).replaceAll('<', '\\u003c');
}

/** What an item says to learners, as HTML; nothing where it can be no page. */
export function pageBlocks(item: Item): string {
  const blocks = kindOf(item).asPage?.(item) ?? [];
  return htmlOf(blocks, (questions) => questions.map(questionToRead).join(''));
}

/** What is asked and what there is to choose from; nothing of the key. */
function questionToRead(q: Question, index: number): string {
  const list = (parts: readonly { text: RichText }[]) =>
    parts.length === 0 ? '' : `<ul>${parts.map((p) => `<li>${asHtml(p.text)}</li>`).join('')}</ul>`;
  const { choices, targets, blanks, image: shown, subquestions } = partsOf(q);
  const picks = blanks.map((b) => list(b.choices)).join('');
  const image = shown ? `<p><img src="${escapeXml(shown.file)}" alt="${escapeXml(q.title)}"></p>` : '';
  const prompt = asHtml({ ...q.prompt, text: withGaps(q.prompt.text) });
  const inside = subquestions.map(questionToRead).join('');
  return `<fieldset><legend>${index + 1}</legend>${prompt}${image}${list(choices)}${list(targets)}${picks}${inside}</fieldset>`;
}
