/** What a played page says to a platform, in whichever of the two interfaces that has. */
export interface Platform {
  readonly is2004: boolean;
  set(name: Name, value: string): void;
  get(name: Name): string;
  /** Share of the points that it takes to pass, or `null` where the platform does not say. */
  passMark(): number | null;
  /** One question as it was answered; `at` is its place among those of the page. */
  interaction(at: number, answered: Answered): void;
  commit(): void;
  /** Reports how long it took and takes leave. */
  finish(): void;
}

/** How a question was answered (SCORM 1.2 RTE 3.4.2.3; SCORM 2004 4th Edition RTE 4.2.9). */
export interface Answered {
  id: string;
  type: 'choice' | 'fill-in' | 'numeric';
  responses: readonly string[];
  /** `null` where a person has to judge. */
  right: boolean | null;
  points: number;
}

type Name = 'status' | 'raw' | 'min' | 'max' | 'scaled' | 'success' | 'time' | 'suspend' | 'location' | 'exit';

export type Connect = (from: Window | null, opener: Window | null) => Platform | null;

/**
 * Finds the platform's runtime interface (SCORM 1.2 RTE 3.2, SCORM 2004 RTE 3.1) from a window upwards. Written into
 * packages as the text of this function, so it may use nothing but what a browser has.
 */
export const connectPlatform: Connect = (from, opener) => {
  type Api = Record<string, ((...args: string[]) => string) | undefined>;

  const findApi = (name: string): Api | null => {
    const up = (start: Window | null): Api | null => {
      let at = start;
      for (let depth = 0; at && depth < 20; depth++) {
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
    return up(from) ?? up(opener);
  };

  const began = Date.now();
  const later = findApi('API_1484_11');
  const api = later ?? findApi('API');
  if (!api) return null;
  const prefix = later ? '' : 'LMS';
  const call = (name: string, ...args: string[]): string => String(api[name]?.(...args) ?? '');
  if (call(later ? 'Initialize' : 'LMSInitialize', '') !== 'true') return null;
  const names: Partial<Record<Name, string>> = later
    ? {
        status: 'cmi.completion_status',
        success: 'cmi.success_status',
        raw: 'cmi.score.raw',
        min: 'cmi.score.min',
        max: 'cmi.score.max',
        scaled: 'cmi.score.scaled',
        time: 'cmi.session_time',
        suspend: 'cmi.suspend_data',
        location: 'cmi.location',
        exit: 'cmi.exit',
      }
    : {
        status: 'cmi.core.lesson_status',
        raw: 'cmi.core.score.raw',
        min: 'cmi.core.score.min',
        max: 'cmi.core.score.max',
        time: 'cmi.core.session_time',
        suspend: 'cmi.suspend_data',
        location: 'cmi.core.lesson_location',
        exit: 'cmi.core.exit',
      };
  const set = (name: Name, value: string): void => {
    const key = names[name];
    if (key !== undefined) call(`${prefix}SetValue`, key, value);
  };
  const duration = (): string => {
    const seconds = Math.round((Date.now() - began) / 1000);
    if (later) return `PT${seconds}S`;
    const two = (n: number) => String(n).padStart(2, '0');
    return `${String(Math.floor(seconds / 3600)).padStart(4, '0')}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
  };
  return {
    is2004: later !== null,
    set,
    get: (name) => call(`${prefix}GetValue`, names[name] ?? ''),
    passMark() {
      const needed = call(`${prefix}GetValue`, later ? 'cmi.scaled_passing_score' : 'cmi.student_data.mastery_score');
      const n = Number(needed);
      return needed === '' || !Number.isFinite(n) ? null : later ? n : n / 100;
    },
    interaction(at, { id, type, responses, right, points }) {
      const put = (key: string, value: string) => call(`${prefix}SetValue`, `cmi.interactions.${at}.${key}`, value);
      put('id', id.replace(/[^\w.-]/g, '_'));
      put('type', type);
      put('weighting', String(points));
      put(later ? 'learner_response' : 'student_response', responses.join(later ? '[,]' : ',').slice(0, 250));
      put('result', right === null ? 'neutral' : right ? 'correct' : later ? 'incorrect' : 'wrong');
    },
    commit: () => void call(`${prefix}Commit`, ''),
    finish() {
      set('time', duration());
      call(`${prefix}Commit`, '');
      call(later ? 'Terminate' : 'LMSFinish', '');
    },
  };
};

/** Functions as a script. Some compilers put names back by a helper, which a page does not have. */
export function asScript<More extends readonly ((...given: never[]) => unknown)[]>(
  main: (connect: Connect, ...more: More) => void,
  ...more: More
): string {
  return `(function () {\n  var __name = function (f) { return f; };\n  (${main.toString()})(${[connectPlatform, ...more].map((part) => part.toString()).join(', ')});\n})();\n`;
}
