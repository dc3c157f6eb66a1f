import { escapeHtml as esc } from '../shared/http.ts';
import type { TEntry, TSpace } from './model.ts';
import { toolOf } from './tools.ts';

/** Tarnhall as its own people see it: a wide dark strip, units as cards side by side. */
function layout(title: string, body: string): string {
  return `<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><link rel="icon" href="data:,"><title>${esc(title)}</title><style>
body{font:15px/1.5 Verdana,sans-serif;margin:0;background:#eef0f6;color:#20243a}
header{background:#2b2f55;color:#fff;padding:1.2em 2em}header a{color:#cfd4ff}main{padding:1.5em 2em;display:flex;flex-wrap:wrap;gap:1.2em}
section{background:#fff;border-top:4px solid #7a6fd0;padding:.8em 1.2em;width:24em}h2{font-size:1.1em}ol{padding-left:1.4em}
.sort{color:#6a6f95;font-size:.85em}.heading{font-weight:bold;margin-top:.6em}img{max-width:100%}
</style></head><body><header><h1>${esc(title)}</h1><a href="/">All spaces</a> Tarnhall, Marrowick New (a stand-in)</header><main>${body}</main></body></html>`;
}

export function homePage(spaces: readonly TSpace[]): string {
  return layout(
    'Spaces',
    spaces
      .map(
        (s) =>
          `<section><h2><a href="/space/${s.id}">${esc(s.title)}</a></h2><p>${esc(s.code)} ${esc(s.section)} ${esc(s.term)}</p><p class="sort">${s.units.length} units, ${s.people.length} people${s.shut ? ', shut' : ''}</p></section>`,
      )
      .join(''),
  );
}

const SORT: Record<TEntry['sort'], string> = {
  text: 'text',
  file: 'file',
  pointer: 'pointer',
  talk: 'talk',
  task: 'task',
  test: 'test',
  launcher: 'launcher',
  heading: '',
};

/** Whether a launcher starts, or somebody has to enter its keys first. */
function keysOf({ sort, url }: TEntry): string {
  if (sort !== 'launcher') return '';
  const tool = toolOf(url);
  return `<p class="sort">${tool ? `started as ${esc(tool.name)}` : 'not connected: its keys have to be entered'}</p>`;
}

const veil = ({ hidden }: { hidden?: boolean | undefined }) =>
  hidden ? ' <span class="sort">hidden from learners</span>' : '';

export function spacePage(space: TSpace): string {
  const units = space.units.map(
    (u) =>
      `<section><h2>${esc(u.title)}${veil(u)}</h2><ol>${u.entries
        .map((e) =>
          e.sort === 'heading'
            ? `<li class="heading">${esc(e.title)}</li>`
            : `<li><a href="/space/${space.id}/entry/${e.id}">${esc(e.title)}</a>${veil(e)} <span class="sort">${SORT[e.sort]}${e.questions.length > 0 ? `, ${e.questions.length} questions` : ''}${e.marks === null ? '' : `, ${e.marks} marks`}</span></li>`,
        )
        .join('')}</ol></section>`,
  );
  const pools = `<section><h2>Pools</h2><ol>${space.pools.map((p) => `<li>${esc(p.title)} <span class="sort">${p.questions.length} questions</span></li>`).join('')}</ol></section>`;
  const worked = (name: string) => space.work.filter((w) => w.person === name).length;
  const people = `<section><h2>People</h2><ol>${space.people
    .map(({ name, part }) => {
      const n = worked(name);
      return `<li>${esc(name)} <span class="sort">${part}${n > 0 ? `, ${n} handed in` : ''}</span></li>`;
    })
    .join('')}</ol></section>`;
  return layout(space.title, units.join('') + pools + people);
}

export function entryPage(space: TSpace, entry: TEntry): string {
  const held = (html: string) =>
    html.replace(/held:(f\d+)/g, `/space/${space.id}/file/$1`).replace(/entry:(e\d+)/g, `/space/${space.id}/entry/$1`);
  const files = [...entry.files, ...(entry.file === null ? [] : [entry.file])]
    .map((id) => space.files.find((f) => f.id === id))
    .flatMap((f) => (f ? [`<li><a href="/space/${space.id}/file/${f.id}">${esc(f.path)}</a></li>`] : []));
  const questions = entry.questions.map(
    (q) =>
      `<li>${held(q.ask)}<ul>${q.options.map((o) => `<li>${esc(o.text)}${o.right ? ' (right)' : ''}</li>`).join('')}</ul></li>`,
  );
  return layout(
    entry.title,
    `<section style="width:60em">${held(entry.body)}${entry.url === '' ? '' : `<p><a href="${esc(entry.url)}">${esc(entry.url)}</a></p>`}${keysOf(entry)}<ul>${files.join('')}</ul><ol>${questions.join('')}</ol></section>`,
  );
}
