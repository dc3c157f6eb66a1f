import type { Judged, Part } from './quiz.ts';

/**
 * What pages of a played course run: it finds the platform's runtime interface (SCORM 1.2 RTE 3.2, SCORM 2004 RTE 3.1),
 * says that the page was seen, judges quizzes and reports the score. Without a platform it only judges.
 * It is written into packages as the text of this function, so it may use nothing but what a browser has.
 */
export function play(): void {
  interface Platform {
    set(name: 'status' | 'raw' | 'min' | 'max' | 'scaled' | 'success' | 'time', value: string): void;
    status(): string;
    /** Share of the points that it takes to pass, or `null` where the platform does not say. */
    passMark(): number | null;
    commit(): void;
    finish(): void;
  }
  type Call = (...args: string[]) => string;
  type Api = Record<string, Call | undefined>;

  const findApi = (name: string): Api | null => {
    const looked: (Window | null)[] = [];
    const up = (from: Window | null): Api | null => {
      let at = from;
      for (let depth = 0; at && depth < 20; depth++) {
        looked.push(at);
        try {
          const found = (at as unknown as Record<string, Api | undefined>)[name];
          if (found) return found;
        } catch {
          // Another origin: not ours to look into.
          return null;
        }
        if (at.parent === at) break;
        at = at.parent;
      }
      return null;
    };
    return up(window) ?? up(window.opener as Window | null);
  };

  const names12 = {
    status: 'cmi.core.lesson_status',
    raw: 'cmi.core.score.raw',
    min: 'cmi.core.score.min',
    max: 'cmi.core.score.max',
    time: 'cmi.core.session_time',
  } as const;
  const names2004 = {
    status: 'cmi.completion_status',
    success: 'cmi.success_status',
    raw: 'cmi.score.raw',
    min: 'cmi.score.min',
    max: 'cmi.score.max',
    scaled: 'cmi.score.scaled',
    time: 'cmi.session_time',
  } as const;

  const connect = (): Platform | null => {
    const later = findApi('API_1484_11');
    const earlier = later ? null : findApi('API');
    const api = later ?? earlier;
    if (!api) return null;
    const call = (name: string, ...args: string[]): string => String(api[name]?.(...args) ?? '');
    const prefix = later ? '' : 'LMS';
    if (call(later ? 'Initialize' : 'LMSInitialize', '') !== 'true') return null;
    const names: Partial<Record<string, string>> = later ? names2004 : names12;
    return {
      set(name, value) {
        const key = names[name];
        if (key !== undefined) call(`${prefix}SetValue`, key, value);
      },
      status: () => call(`${prefix}GetValue`, names['status'] ?? ''),
      passMark() {
        const told = call(`${prefix}GetValue`, later ? 'cmi.scaled_passing_score' : 'cmi.student_data.mastery_score');
        const n = Number(told);
        return told === '' || !Number.isFinite(n) ? null : later ? n : n / 100;
      },
      commit: () => void call(`${prefix}Commit`, ''),
      finish: () => void call(later ? 'Terminate' : 'LMSFinish', ''),
    };
  };

  const began = Date.now();
  const platform = connect();
  const is2004 = findApi('API_1484_11') !== null;
  let done = false;

  const duration = (): string => {
    const seconds = Math.round((Date.now() - began) / 1000);
    if (is2004) return `PT${seconds}S`;
    const two = (n: number) => String(n).padStart(2, '0');
    return `${String(Math.floor(seconds / 3600)).padStart(4, '0')}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
  };

  const seen = (): void => {
    if (done || !platform) return;
    done = true;
    platform.set('status', 'completed');
    platform.commit();
  };

  const chosen = (form: HTMLFormElement, name: string): string[] =>
    [...form.elements]
      .filter((e): e is HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement => 'name' in e && e.name === name)
      .filter((e) => !(e instanceof HTMLInputElement && /radio|checkbox/.test(e.type)) || e.checked)
      .map((e) => e.value.trim())
      .filter((v) => v !== '');

  /** What a part gives, and whether it is right. */
  const judgePart = (part: Part, values: readonly string[]): { score: number; right: boolean } => {
    const fits = (accept: Part['accept'][number], value: string): boolean => {
      if (part.rule === 'number') {
        const n = Number(value.replace(',', '.'));
        return value !== '' && n >= (accept.low ?? 0) && n <= (accept.high ?? 0);
      }
      if (part.rule === 'values') return accept.value === value;
      const [a, b] = accept.caseSensitive ? [accept.value, value] : [accept.value.toLowerCase(), value.toLowerCase()];
      return accept.within ? b.includes(a) : a === b;
    };
    if (part.all) {
      const right = values.length === part.accept.length && part.accept.every((a) => values.some((v) => fits(a, v)));
      return { score: right ? (part.accept[0]?.score ?? 0) : 0, right };
    }
    const hits = values.flatMap((v) => part.accept.filter((a) => fits(a, v)).slice(0, 1));
    return { score: hits.reduce((sum, a) => sum + a.score, 0), right: hits.length > 0 };
  };

  const judge = (form: HTMLFormElement, key: readonly Judged[]): void => {
    let raw = 0;
    let max = 0;
    key.forEach((question, i) => {
      const parts = question.parts.filter((p) => p.rule !== 'none');
      const given = question.parts.flatMap((p) => chosen(form, p.name));
      const results = parts.map((p) => judgePart(p, chosen(form, p.name)));
      const all = parts.length > 0 && results.every((r) => r.right);
      const sum = results.reduce((n, r) => n + r.score, 0);
      const score = Math.max(0, Math.min(question.points, question.whole ? (all ? question.points : 0) : sum));
      if (parts.length > 0) {
        raw += score;
        max += question.points;
      }
      const reply = form.querySelector(`[data-question="${i}"] .reply`);
      if (!reply) return;
      const right = all && score > 0;
      const verdict =
        parts.length === 0 ? 'A person will read this.' : right ? 'Right' : score > 0 ? 'Partly right' : 'Not right';
      const texts = [
        question.feedback.general,
        parts.length === 0 ? undefined : right ? question.feedback.correct : question.feedback.incorrect,
        ...given.map((v) => question.replies[v]),
      ];
      reply.innerHTML = `<strong></strong>${texts.filter((t) => t !== undefined).join('')}`;
      const strong = reply.querySelector('strong');
      if (strong) strong.textContent = parts.length === 0 ? verdict : `${verdict}, ${score} of ${question.points}`;
    });
    const output = form.querySelector('.score');
    if (output) output.textContent = `${raw} of ${max}`;
    if (!platform) return;
    const share = max === 0 ? 1 : raw / max;
    platform.set('raw', String(Math.round(share * 10_000) / 100));
    platform.set('min', '0');
    platform.set('max', '100');
    platform.set('scaled', String(Math.round(share * 10_000) / 10_000));
    done = true;
    // Passed or failed only where the platform says what it takes; a pass mark of our own would be made up.
    const mark = platform.passMark();
    const verdict = mark === null ? null : share >= mark ? 'passed' : 'failed';
    if (verdict) platform.set('success', verdict);
    platform.set('status', is2004 ? 'completed' : (verdict ?? 'completed'));
    platform.commit();
  };

  /** A picture with places on it can be touched; the list below it says the same to a keyboard. */
  const touch = (form: HTMLFormElement, image: HTMLImageElement): void => {
    const name = image.dataset['spots'] ?? '';
    image.addEventListener('click', (event) => {
      const scale = image.naturalWidth > 0 ? image.naturalWidth / image.clientWidth : 1;
      const [x, y] = [event.offsetX * scale, event.offsetY * scale];
      for (const input of form.querySelectorAll<HTMLInputElement>(`input[name="${name}"]`)) {
        const c = (input.dataset['coords'] ?? '').split(',').map(Number);
        const [a = 0, b = 0, r = 0, s = 0] = c;
        const shape = input.dataset['shape'];
        const inside =
          shape === 'circle'
            ? Math.hypot(x - a, y - b) <= r
            : shape === 'rect'
              ? x >= a && x <= r && y >= b && y <= s
              : false;
        if (inside) input.checked = !input.checked;
      }
    });
  };

  const start = (): void => {
    if (platform && /^(not attempted|unknown|)$/.test(platform.status())) platform.set('status', 'incomplete');
    const form = document.querySelector<HTMLFormElement>('form.quiz');
    const data = document.getElementById('quiz-key');
    if (form && data) {
      const key = JSON.parse(data.textContent ?? '[]') as Judged[];
      form.addEventListener('submit', (event) => {
        event.preventDefault();
        judge(form, key);
      });
      form.querySelectorAll<HTMLImageElement>('img[data-spots]').forEach((image) => touch(form, image));
      return;
    }
    // A page is done with when its end has been in view.
    const end = document.createElement('div');
    document.body.append(end);
    new IntersectionObserver((entries) => {
      if (entries.some((e) => e.isIntersecting)) seen();
    }).observe(end);
  };

  if (document.readyState === 'loading') document.addEventListener('DOMContentLoaded', start);
  else start();
  addEventListener('pagehide', () => {
    if (!platform) return;
    platform.set('time', duration());
    platform.commit();
    platform.finish();
  });
}

/** The function as a script. Some compilers put names back by a helper, which a page does not have. */
export function playScript(): string {
  return `(function () {\n  var __name = function (f) { return f; };\n  (${play.toString()})();\n})();\n`;
}
