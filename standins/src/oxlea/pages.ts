import { escapeHtml as esc } from '../shared/http.ts';
import type { OBook, OLesson } from './model.ts';
import { asHtml } from './text.ts';

/** Oxlea as its own people see it: a shelf of books, each read lesson by lesson. */
function layout(title: string, body: string): string {
  return `<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><link rel="icon" href="data:,"><title>${esc(title)}</title><style>
body{font:17px/1.6 "Times New Roman",serif;background:#fff;color:#222;max-width:44em;margin:2em auto;padding:0 1em}
h1{font-weight:normal;border-left:.4em solid #b0413e;padding-left:.5em}a{color:#7a2320}small{color:#666}article{border-top:1px solid #ddd;padding:.5em 0}
</style></head><body><p><small>Oxlea, Fenwright Institute (a stand-in)</small></p><h1>${esc(title)}</h1>${body}</body></html>`;
}

export function shelfPage(books: readonly OBook[]): string {
  return layout(
    'The shelf',
    `<ul>${books.map((b) => `<li><a href="/book/${b.id}">${esc(b.name)}</a> <small>${esc(b.code)}, ${esc(b.year)}</small></li>`).join('')}</ul>`,
  );
}

export function bookPage(book: OBook): string {
  return layout(
    book.name,
    `<p>${esc(book.about)}</p>${book.halves
      .map(
        (h) =>
          `<h2>${esc(h.name)}</h2><ol>${h.lessons.map((l) => `<li><a href="/book/${book.id}/lesson/${l.key}">${esc(l.name)}</a> <small>from ${esc(l.from)}</small></li>`).join('')}</ol>`,
      )
      .join('')}`,
  );
}

export function lessonPage(book: OBook, lesson: OLesson): string {
  return layout(
    lesson.name,
    lesson.parts
      .map((p) => {
        const body =
          p.sort === 'handout'
            ? `<a href="/book/${book.id}/library/${encodeURIComponent(p.file)}">${esc(p.file)}</a>`
            : p.sort === 'web'
              ? `<a href="${esc(p.to)}">${esc(p.to)}</a>`
              : p.sort === 'line'
                ? '<hr>'
                : p.sort === 'test'
                  ? `A test of ${p.questions.length} questions, ${p.minutes} minutes.`
                  : p.form === 'html'
                    ? `<iframe sandbox="" srcdoc="${esc(p.text)}"></iframe>`
                    : asHtml(p.text);
        return `<article><h3>${esc(p.name)}</h3>${body}</article>`;
      })
      .join(''),
  );
}
