import { asScript, type Answered, type Connect } from './platform.ts';
import { isInside, type Area } from '../../model/index.ts';
import { judging, type InPlace } from './judging.ts';
import type { Judged } from './quiz.ts';

/**
 * What pages of a played course run: it says to the platform that the page was seen, judges quizzes and reports the
 * score. Without a platform it only judges. It is written into packages as the text of this function, so it may use
 * nothing but what a browser has.
 */
export function play(connect: Connect, judgeBy: typeof judging, inPlace: InPlace): void {
  const judgeQuestion = judgeBy(inPlace);
  const platform = connect(window, window.opener as Window | null);
  let done = false;

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

  const rounded = (points: number): number => Math.round(points * 1e4) / 1e4;

  /** What was answered, as a platform is told it: choices by letters, in the order in which they stand. */
  const responsesIn = (form: HTMLFormElement, { id, points, parts }: Judged): Omit<Answered, 'right'> => {
    const names = parts.map((p) => p.name);
    const picks = [...form.elements].filter(
      (e): e is HTMLInputElement =>
        e instanceof HTMLInputElement && /radio|checkbox/.test(e.type) && names.includes(e.name),
    );
    const letters = picks.flatMap((e, at) => (e.checked ? [String.fromCharCode(97 + (at % 26))] : []));
    if (picks.length > 0) return { id, points, type: 'choice', responses: letters };
    const isNumber = parts.every((p) => p.rule === 'number');
    return { id, points, type: isNumber ? 'numeric' : 'fill-in', responses: names.flatMap((n) => chosen(form, n)) };
  };

  const judge = (form: HTMLFormElement, key: readonly Judged[]): void => {
    let raw = 0;
    let max = 0;
    key.forEach((question, i) => {
      const given = question.parts.flatMap((p) => chosen(form, p.name));
      const { score, right: all, open } = judgeQuestion(question, (name) => chosen(form, name));
      if (!open) {
        raw += score;
        max += question.points;
      }
      platform?.interaction(i, { ...responsesIn(form, question), right: open ? null : all });
      const reply = form.querySelector(`[data-question="${i}"] .reply`);
      if (!reply) return;
      const right = all && score > 0;
      const verdict = open ? 'A person will read this.' : right ? 'Right' : score > 0 ? 'Partly right' : 'Not right';
      const texts = [
        question.feedback.general,
        open ? undefined : right ? question.feedback.correct : question.feedback.incorrect,
        ...given.map((v) => question.replies[v]),
      ];
      reply.innerHTML = `<strong></strong>${texts.filter((t) => t !== undefined).join('')}`;
      const strong = reply.querySelector('strong');
      if (strong) strong.textContent = open ? verdict : `${verdict}, ${rounded(score)} of ${question.points}`;
    });
    const output = form.querySelector('.score');
    if (output) output.textContent = `${rounded(raw)} of ${max}`;
    if (!platform) return;
    // A platform takes what lies between nothing and all (SCORM 1.2 RTE 3.4.2.2.2; SCORM 2004 4th Edition RTE 4.2.20).
    const share = max === 0 ? 1 : Math.min(1, Math.max(0, raw / max));
    platform.set('raw', String(Math.round(share * 10_000) / 100));
    platform.set('min', '0');
    platform.set('max', '100');
    platform.set('scaled', String(Math.round(share * 10_000) / 10_000));
    done = true;
    // Passed or failed only where the platform says what it takes; a pass mark of our own would be made up.
    const mark = platform.passMark();
    const verdict = mark === null ? null : share >= mark ? 'passed' : 'failed';
    if (verdict) platform.set('success', verdict);
    platform.set('status', platform.is2004 ? 'completed' : (verdict ?? 'completed'));
    platform.commit();
  };

  /** Where a picture was touched, in its own pixels. */
  const touchedAt = (image: HTMLImageElement, event: MouseEvent): [number, number] => {
    const scale = image.naturalWidth > 0 ? image.naturalWidth / image.clientWidth : 1;
    return [Math.round(event.offsetX * scale), Math.round(event.offsetY * scale)];
  };
  const inputsOf = (form: HTMLFormElement, name: string) => [
    ...form.querySelectorAll<HTMLInputElement>(`input[name="${name}"]`),
  ];

  /** A picture with places on it can be touched; the list below it says the same to a keyboard. */
  const touch = (form: HTMLFormElement, image: HTMLImageElement): void => {
    image.addEventListener('click', (event) => {
      const [x, y] = touchedAt(image, event);
      for (const input of inputsOf(form, image.dataset['spots'] ?? '')) {
        const coords = (input.dataset['coords'] ?? '').split(',').map(Number);
        // It was written of an area of the model.
        const shape = input.dataset['shape'] as Area['shape'];
        if (inPlace({ shape, coords }, x, y)) input.checked = !input.checked;
      }
    });
  };

  /** Points stand on the picture as they are written below it. */
  const mark = (image: HTMLImageElement, fields: readonly HTMLInputElement[]): void => {
    const around = image.parentElement;
    if (!around) return;
    around.querySelectorAll('.mark').forEach((old) => old.remove());
    const scale = image.naturalWidth > 0 ? image.clientWidth / image.naturalWidth : 1;
    for (const field of fields) {
      const [x = NaN, y = NaN] = field.value.split(/[\s,;]+/).map(Number);
      if (field.value === '' || !Number.isFinite(x) || !Number.isFinite(y)) continue;
      const spot = around.appendChild(document.createElement('span'));
      spot.className = 'mark';
      spot.style.left = `${image.offsetLeft + x * scale}px`;
      spot.style.top = `${image.offsetTop + y * scale}px`;
    }
  };

  /** A point set on a picture goes into the first field that is empty, else into the last. */
  const point = (form: HTMLFormElement, image: HTMLImageElement): void => {
    const fields = inputsOf(form, image.dataset['point'] ?? '');
    image.addEventListener('click', (event) => {
      const field = fields.find((f) => f.value === '') ?? fields[fields.length - 1];
      if (field) field.value = touchedAt(image, event).join(', ');
      mark(image, fields);
    });
    for (const field of fields) field.addEventListener('input', () => mark(image, fields));
  };

  const start = (): void => {
    if (platform && /^(not attempted|unknown|)$/.test(platform.get('status'))) platform.set('status', 'incomplete');
    const form = document.querySelector<HTMLFormElement>('form.quiz');
    const data = document.getElementById('quiz-key');
    if (form && data) {
      const key = JSON.parse(data.textContent ?? '[]') as Judged[];
      form.addEventListener('submit', (event) => {
        event.preventDefault();
        judge(form, key);
      });
      form.querySelectorAll<HTMLImageElement>('img[data-spots]').forEach((image) => touch(form, image));
      form.querySelectorAll<HTMLImageElement>('img[data-point]').forEach((image) => point(form, image));
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
  addEventListener('pagehide', () => platform?.finish());
}

export function playScript(): string {
  return asScript(play, judging, isInside);
}
