import { escapeXml } from '../../markup/index.ts';
import { PLAYER_MARK } from '../../markup/player.ts';
import { relativePath, type Course, type OutlineNode } from '../../model/index.ts';
import { encodePath } from '../references.ts';
import { asScript, type Connect } from './platform.ts';

/** A course as one page that shows all others beside its outline, and reports for all of them. */

/** One line of the outline: a place to go, or only a name. */
interface Stop {
  title: string;
  depth: number;
  href?: string;
  /** Judged, and so part of the score. */
  quiz?: boolean;
  /** A page says by itself when it was seen; a file is seen once it is opened. */
  page?: boolean;
}

const STYLE = `*{box-sizing:border-box}body{margin:0;height:100vh;display:grid;grid-template:auto 1fr auto/minmax(220px,300px) 1fr;font:16px/1.5 system-ui,sans-serif;color:#1c2a2e;background:#f3f5f4}
header{grid-column:1/-1;display:flex;gap:16px;align-items:center;padding:10px 16px;border-bottom:1px solid #d5dbd8;background:#fff}h1{font-size:19px;margin:0;flex:1}
nav{overflow:auto;padding:12px 8px;border-right:1px solid #d5dbd8}nav ol{list-style:none;margin:0;padding:0}nav b,nav a{display:block;padding:6px 8px;border-radius:4px}
nav a{color:#1f5d4c}nav a[aria-current]{background:#ddebe5;color:#1c2a2e;text-decoration:none}nav a span{float:right}
iframe{width:100%;height:100%;border:0;background:#fff}footer{grid-column:1/-1;display:flex;justify-content:space-between;gap:12px;padding:8px 16px;border-top:1px solid #d5dbd8;background:#fff}
button{font:inherit;min-height:44px;padding:0 18px;border:1px solid #c3cbc7;border-radius:4px;background:#fff;color:#1c2a2e}button[disabled]{opacity:.5}:focus-visible{outline:3px solid #1f5d4c;outline-offset:1px}#list{display:none}
@media(max-width:700px){body{grid-template-columns:1fr}nav{display:none;grid-row:2;grid-column:1;z-index:1;background:#f3f5f4}nav.open{display:block}iframe{grid-row:2;grid-column:1}#list{display:block}}`;

/** The page, and the script it runs, for items at their addresses. `path` is where the page will stand. */
export function wholePage(course: Course, path: string, script: string, address: ReadonlyMap<string, string>): string {
  const stops: Stop[] = [];
  const placed = new Set<string>();
  const items = new Map(course.items.map((i) => [i.id, i]));
  const add = (node: OutlineNode, depth: number): void => {
    const to = node.item === undefined ? undefined : address.get(node.item);
    const item = node.item === undefined ? undefined : items.get(node.item);
    if (node.item !== undefined) placed.add(node.item);
    if (to !== undefined && item) {
      const href = encodePath(relativePath(path, to));
      stops.push({ title: node.title, depth, href, quiz: item.kind === 'quiz', page: item.kind !== 'file' });
    } else if (node.item === undefined || node.children.length > 0) stops.push({ title: node.title, depth });
    for (const child of node.children) add(child, depth + 1);
  };
  for (const node of course.outline) add(node, 0);
  for (const item of course.items) {
    if (!placed.has(item.id) && address.has(item.id)) {
      add({ id: item.id, title: item.title, item: item.id, children: [] }, 0);
    }
  }
  const language = escapeXml(course.metadata.language ?? 'en');
  const title = escapeXml(course.title);
  return `<!DOCTYPE html>
<html lang="${language}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${title}</title><style>${STYLE}</style></head>
<body><header><button type="button" id="list" aria-expanded="false">Contents</button><h1>${title}</h1><span id="progress" role="status"></span></header>
<nav aria-label="Contents"><ol></ol></nav><iframe title="${title}"></iframe>
<footer><button type="button" id="back">Back</button><button type="button" id="on">Go on</button></footer>
<script type="application/json" id="stops">${JSON.stringify(stops).replaceAll('<', '\\u003c')}</script><script src="${escapeXml(encodePath(relativePath(path, script)))}" ${PLAYER_MARK}="player"></script></body></html>
`;
}

/** Runs in that page. Those it shows find in it a runtime interface like a platform's, so they are the same as alone. */
export function playWhole(connect: Connect): void {
  const outer = window.parent === window ? null : window.parent;
  const opener = window.opener as Window | null;
  const platform = outer || opener ? connect(outer, opener) : null;
  const stops = JSON.parse(document.getElementById('stops')?.textContent ?? '[]') as {
    title: string;
    depth: number;
    href?: string;
    quiz?: boolean;
    page?: boolean;
  }[];
  const places = stops.filter((s) => s.href !== undefined);
  const seen = places.map(() => false);
  const scores: (number | null)[] = places.map(() => null);
  let at = -1;
  let over = false;

  const nav = document.querySelector('nav');
  const list = document.querySelector('nav ol');
  const frame = document.querySelector('iframe');
  const button = (id: string) => document.getElementById(id) as HTMLButtonElement | null;
  const links: HTMLAnchorElement[] = [];

  /** Where the person was, what was seen (four places a digit), and what was scored: within 4,096 characters. */
  const remember = (): string => {
    let bits = '';
    for (let i = 0; i < seen.length; i += 4) {
      bits += [0, 1, 2, 3].reduce((n, k) => n + (seen[i + k] ? 1 << k : 0), 0).toString(16);
    }
    const marks = scores.flatMap((s, i) => (s === null ? [] : [`${i}:${Math.round(s * 1000)}`]));
    return `${at};${bits};${marks.join(',')}`;
  };
  const recall = (text: string): void => {
    const [where = '', bits = '', marks = ''] = text.split(';');
    seen.forEach((_s, i) => (seen[i] = ((parseInt(bits[i >> 2] ?? '0', 16) >> (i & 3)) & 1) === 1));
    for (const mark of marks.split(',').filter(Boolean)) {
      const [i = -1, score = 0] = mark.split(':').map(Number);
      if (i >= 0 && i < scores.length) scores[i] = score / 1000;
    }
    at = Number(where) || 0;
  };

  const report = (): void => {
    const done = seen.filter(Boolean).length;
    const text = document.getElementById('progress');
    if (text) text.textContent = `${done} of ${places.length} done`;
    links.forEach((link, i) => {
      const mark = link.querySelector('span');
      if (mark) mark.textContent = seen[i] ? '✓' : '';
      link.setAttribute('aria-label', `${places[i]?.title ?? ''}${seen[i] ? ', done' : ''}`);
    });
    if (!platform) return;
    platform.set('suspend', remember());
    platform.set('location', String(at));
    const quizzes = places.map((p, i) => (p.quiz ? scores[i] : undefined)).filter((s) => s !== undefined);
    const handed = quizzes.filter((s) => s !== null);
    const share = quizzes.length === 0 ? 0 : handed.reduce((sum, s) => sum + s, 0) / quizzes.length;
    if (handed.length > 0) {
      platform.set('raw', String(Math.round(share * 10_000) / 100));
      platform.set('min', '0');
      platform.set('max', '100');
      platform.set('scaled', String(Math.round(share * 10_000) / 10_000));
    }
    if (done === places.length) {
      over = true;
      const mark = quizzes.length > 0 ? platform.passMark() : null;
      const verdict = mark === null ? null : share >= mark ? 'passed' : 'failed';
      if (verdict) platform.set('success', verdict);
      platform.set('status', platform.is2004 ? 'completed' : (verdict ?? 'completed'));
    }
    platform.commit();
  };

  const finished = (): void => {
    if (at < 0 || seen[at]) return;
    seen[at] = true;
    report();
  };

  const go = (to: number): void => {
    const place = places[to];
    if (!place || !frame) return;
    at = to;
    frame.src = place.href ?? '';
    frame.title = place.title;
    links.forEach((link, i) =>
      i === to ? link.setAttribute('aria-current', 'page') : link.removeAttribute('aria-current'),
    );
    nav?.classList.remove('open');
    button('list')?.setAttribute('aria-expanded', 'false');
    const [back, on] = [button('back'), button('on')];
    if (back) back.disabled = to === 0;
    if (on) on.disabled = to === places.length - 1;
    if (place.page) report();
    else finished();
  };

  const yes = () => 'true';
  const shared = window as unknown as Record<string, unknown>;
  // Packages within the course may speak either tongue.
  shared['API'] = {
    LMSInitialize: yes,
    LMSFinish: yes,
    LMSCommit: yes,
    LMSGetLastError: () => '0',
    LMSGetErrorString: () => '',
    LMSGetDiagnostic: () => '',
    LMSGetValue: (name: string) =>
      name === 'cmi.core.lesson_status' ? (seen[at] ? 'completed' : 'not attempted') : '',
    LMSSetValue(name: string, value: string) {
      if (name === 'cmi.core.score.raw' && places[at]?.quiz) scores[at] = Number(value) / 100;
      if (name === 'cmi.core.lesson_status' && /^(completed|passed|failed)$/.test(value)) finished();
      return 'true';
    },
  };
  /** Questions of all quizzes go to the platform, numbered through. */
  const told: Record<string, Record<string, string>> = {};
  const answered = (name: string, value: string): void => {
    const [, n = '', key = ''] = /^cmi\.interactions\.(\d+)\.(\w+)$/.exec(name) ?? [];
    if (key === '') return;
    const place = `${at}.${n}`;
    const one = (told[place] ??= {});
    one[key] = value;
    // It is the last that is said of one.
    if (key !== 'result') return;
    platform?.interaction(Object.keys(told).indexOf(place), {
      id: one['id'] ?? place,
      type: one['type'] === 'choice' || one['type'] === 'numeric' ? one['type'] : 'fill-in',
      responses: (one['learner_response'] ?? '').split('[,]'),
      right: value === 'neutral' ? null : value === 'correct',
      points: Number(one['weighting'] ?? 0),
    });
  };
  shared['API_1484_11'] = {
    Initialize: yes,
    Terminate: yes,
    Commit: yes,
    GetLastError: () => '0',
    GetErrorString: () => '',
    GetDiagnostic: () => '',
    GetValue(name: string) {
      if (name === 'cmi.completion_status') return seen[at] ? 'completed' : 'unknown';
      const mark = name === 'cmi.scaled_passing_score' ? platform?.passMark() : null;
      return mark === null || mark === undefined ? '' : String(mark);
    },
    SetValue(name: string, value: string) {
      if (name === 'cmi.score.scaled') {
        scores[at] = Number(value);
        if (seen[at]) report();
      }
      if (name === 'cmi.completion_status' && value === 'completed') finished();
      answered(name, value);
      return 'true';
    },
  };

  for (const stop of stops) {
    const line = document.createElement('li');
    line.style.paddingLeft = `${stop.depth * 14}px`;
    if (stop.href === undefined) {
      const name = document.createElement('b');
      name.textContent = stop.title;
      line.append(name);
    } else {
      const index = links.length;
      const link = document.createElement('a');
      link.href = stop.href;
      link.textContent = stop.title;
      link.append(document.createElement('span'));
      link.addEventListener('click', (event) => {
        event.preventDefault();
        go(index);
      });
      links.push(link);
      line.append(link);
    }
    list?.append(line);
  }
  button('back')?.addEventListener('click', () => go(at - 1));
  button('on')?.addEventListener('click', () => go(at + 1));
  button('list')?.addEventListener('click', () => {
    const open = nav?.classList.toggle('open') ?? false;
    button('list')?.setAttribute('aria-expanded', String(open));
  });
  if (platform) {
    recall(platform.get('suspend'));
    if (/^(not attempted|unknown|)$/.test(platform.get('status'))) platform.set('status', 'incomplete');
  }
  go(Math.min(Math.max(at, 0), places.length - 1));
  addEventListener('pagehide', () => {
    // What is not over is gone on with at the next time; a finished course begins anew.
    platform?.set('exit', over ? (platform.is2004 ? 'normal' : '') : 'suspend');
    platform?.finish();
  });
}

export function wholeScript(): string {
  return asScript(playWhole);
}
