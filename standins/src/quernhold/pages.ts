import { escapeHtml as esc } from '../shared/http.ts';
import type { QCourse, QJob, QNode } from './model.ts';

/** Quernhold as its own people see it: plain, brown, one long page a course. */
function layout(name: string, title: string, body: string): string {
  return `<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><link rel="icon" href="data:,"><title>${esc(title)}</title><style>
body{font:16px/1.5 Georgia,serif;background:#f4efe4;color:#33291c;max-width:60em;margin:0 auto;padding:1em}
header{border-bottom:3px double #8a6f45;margin-bottom:1em}a{color:#6b3f12}li{margin:.15em 0}
.sort{font-variant:small-caps;color:#8a6f45;margin-left:.6em}table{border-collapse:collapse;width:100%}td,th{border:1px solid #cbb994;padding:.3em .6em;text-align:left}
</style></head><body><header><h1>${esc(title)}</h1><p>Quernhold, ${esc(name)} (a stand-in)</p></header>${body}</body></html>`;
}

export function homePage(name: string, courses: readonly QCourse[], jobs: readonly QJob[]): string {
  return layout(
    name,
    'Courses held here',
    `<table><tr><th>Course</th><th>Section</th><th>Title</th><th>Changed</th></tr>${courses
      .map(
        (c) =>
          `<tr><td>${esc(c.code)}</td><td>${esc(c.section)}</td><td><a href="/course/${c.id}">${esc(c.title)}</a></td><td>${esc(c.changedAt)}</td></tr>`,
      )
      .join(
        '',
      )}</table><h2>Bundle queue</h2><ol>${jobs.map((j) => `<li>${j.id} ${esc(j.course ?? 'another course')}: ${j.state}</li>`).join('')}</ol>`,
  );
}

export function coursePage(name: string, course: QCourse): string {
  const list = (nodes: readonly QNode[]): string =>
    `<ul>${nodes
      .map((n) => {
        if (n.kind === 'folder') {
          const about = n.about === undefined ? '' : `<p>${esc(n.about)}</p>`;
          return `<li><strong>${esc(n.title)}</strong>${about}${list(n.inside)}</li>`;
        }
        const to =
          n.kind === 'page' || n.kind === 'file'
            ? `/course/${course.id}/at/${n.path.split('/').map(encodeURIComponent).join('/')}`
            : n.kind === 'link'
              ? n.url
              : null;
        const title = to === null ? esc(n.title) : `<a href="${esc(to)}">${esc(n.title)}</a>`;
        const more =
          n.kind === 'quiz' ? `, ${n.questions.length} questions` : n.kind === 'task' ? `, ${n.points} points` : '';
        return `<li>${title}<span class="sort">${n.kind}${more}</span></li>`;
      })
      .join('')}</ul>`;
  return layout(
    name,
    `${course.code} ${course.title}`,
    `<p>${esc(course.about)}</p>${list(course.nodes)}<h2>Question banks</h2><ul>${course.banks.map((b) => `<li>${esc(b.title)}, ${b.questions.length} questions</li>`).join('')}</ul>${extras(course)}`,
  );
}

/** What only Quernhold itself and its own archive know. */
function extras({ rich }: QCourse): string {
  const list = (title: string, lines: readonly string[]) =>
    lines.length === 0 ? '' : `<h2>${esc(title)}</h2><ul>${lines.map((l) => `<li>${esc(l)}</li>`).join('')}</ul>`;
  return [
    list(
      'Notices',
      rich.notices.map((n) => `${n.title} (${n.posted.slice(0, 10)})`),
    ),
    list(
      'Checklists',
      rich.checklists.map((c) => `${c.title}: ${c.steps.length} steps`),
    ),
    list(
      'Automations',
      rich.automations.map((a) => a.title),
    ),
    list(
      'Ledger',
      rich.ledger.categories.map((c) => `${c.title}, ${c.weight} %`),
    ),
    list(
      'Events',
      rich.events.map((e) => `${e.title}, ${e.from}`),
    ),
    list(
      'People',
      rich.people.map((p) => p.name),
    ),
  ].join('');
}
