import { escapeXml } from '../../markup/index.ts';
import { relativePath } from '../../model/index.ts';
import { encodePath } from '../references.ts';

/**
 * Objects of one edition of SCORM on a platform of the other: a page holds the object in a frame and gives it the runtime
 * interface that it looks for, which says everything on to the one that the platform has (SCORM 1.2 RTE 3.2 to 3.4; SCORM
 * 2004 4th Edition RTE 3 and 4). What the platform's edition has no place for is kept as long as the page is open.
 */
export function bridgePage(title: string, page: string, object: string, script: string, language: string): string {
  const to = (path: string) => escapeXml(encodePath(relativePath(page, path)));
  return `<!DOCTYPE html>
<html lang="${escapeXml(language)}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${escapeXml(title)}</title><style>html,body,iframe{margin:0;border:0;width:100%;height:100%;display:block;overflow:hidden}</style><script src="${to(script)}"></script></head>
<body><iframe title="${escapeXml(title)}" data-object="${to(object)}" allow="fullscreen; autoplay"></iframe></body></html>
`;
}

type Call = (...args: string[]) => string;
type Api = Record<string, Call | undefined>;

/** It is written into packages as the text of this function, so it may use nothing but what a browser has. */
export function bridge(from: Window & { API?: unknown; API_1484_11?: unknown }): void {
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
    return up(from) ?? up(from.opener as Window | null);
  };

  const two = (n: number) => String(Math.floor(n)).padStart(2, '0');
  /** `HHHH:MM:SS.SS` of 1.2 as a duration of 2004. */
  const asDuration = (time: string): string => {
    const [, h = '0', m = '0', s = '0'] = /^(\d+):(\d+):([\d.]+)$/.exec(time) ?? [];
    return `PT${Number(h)}H${Number(m)}M${Number(s)}S`;
  };
  /** A duration of 2004 as `HHHH:MM:SS.SS` of 1.2. */
  const asTime = (duration: string): string => {
    const [, d = '0', h = '0', m = '0', s = '0'] =
      /^P(?:\d+Y)?(?:\d+M)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:([\d.]+)S)?)?$/.exec(duration) ?? [];
    const seconds = ((Number(d) * 24 + Number(h)) * 60 + Number(m)) * 60 + Number(s);
    const rest = Math.round((seconds % 60) * 100) / 100;
    const hours = String(Math.min(9999, Math.floor(seconds / 3600))).padStart(4, '0');
    return `${hours}:${two(Math.floor(seconds / 60) % 60)}:${two(rest)}${rest % 1 === 0 ? '' : `.${two(Math.round((rest % 1) * 100))}`}`;
  };
  const same = (value: string) => value;
  const rounded = (n: number) => String(Math.round(n * 1e7) / 1e7);
  const percent = (value: string) => (value === '' ? '' : rounded(Number(value) * 100));
  const share = (value: string) => (value === '' ? '' : rounded(Number(value) / 100));
  /** By their names in 1.2: the name in 2004, and how a value of 1.2 is said there, and the other way round. */
  const NAMES: readonly [string, string, ((v: string) => string)?, ((v: string) => string)?][] = [
    ['cmi.core.student_id', 'cmi.learner_id'],
    ['cmi.core.student_name', 'cmi.learner_name'],
    ['cmi.core.lesson_location', 'cmi.location'],
    ['cmi.core.credit', 'cmi.credit'],
    ['cmi.core.entry', 'cmi.entry'],
    ['cmi.core.lesson_mode', 'cmi.mode'],
    ['cmi.core.score', 'cmi.score'],
    ['cmi.core.total_time', 'cmi.total_time', asDuration, asTime],
    ['cmi.core.session_time', 'cmi.session_time', asDuration, asTime],
    ['cmi.core.exit', 'cmi.exit', (v) => (v === '' ? 'normal' : v), (v) => (v === 'normal' ? '' : v)],
    ['cmi.suspend_data', 'cmi.suspend_data'],
    ['cmi.launch_data', 'cmi.launch_data'],
    ['cmi.comments_from_lms', 'cmi.comments_from_lms.0.comment'],
    ['cmi.comments', 'cmi.comments_from_learner.0.comment'],
    ['cmi.student_data.mastery_score', 'cmi.scaled_passing_score', share, percent],
    ['cmi.student_data.max_time_allowed', 'cmi.max_time_allowed', asDuration, asTime],
    ['cmi.student_data.time_limit_action', 'cmi.time_limit_action'],
    ['cmi.student_preference.audio', 'cmi.learner_preference.audio_level'],
    ['cmi.student_preference.language', 'cmi.learner_preference.language'],
    ['cmi.student_preference.speed', 'cmi.learner_preference.delivery_speed'],
    ['cmi.student_preference.text', 'cmi.learner_preference.audio_captioning'],
    ['cmi.objectives', 'cmi.objectives'],
    ['cmi.interactions', 'cmi.interactions'],
  ];
  const result = (to: 'wrong' | 'incorrect') => (value: string) => (/^(wrong|incorrect)$/.test(value) ? to : value);
  /** Within an interaction, likewise. */
  const INNER: readonly [string, string, ((v: string) => string)?, ((v: string) => string)?][] = [
    ['student_response', 'learner_response', (v) => v.split(',').join('[,]'), (v) => v.split('[,]').join(',')],
    ['result', 'result', result('incorrect'), result('wrong')],
    ['latency', 'latency', asDuration, asTime],
    ['time', 'timestamp', (v) => `${new Date().toISOString().slice(0, 11)}${v}`, (v) => v.slice(11, 19)],
  ];
  const PREFIX = /^(cmi\.interactions\.\d+\.)(.+)$/;

  /** The name and the manner of values in the other edition; `null` for what that has no place for. */
  const translated = (name: string, is12: boolean): { name: string; to: Call; back: Call } | null => {
    const [mine, theirs] = is12 ? ([0, 1] as const) : ([1, 0] as const);
    const manners = (row: (typeof NAMES)[number]) => {
      const [, , later = same, earlier = same] = row;
      return is12 ? { to: later, back: earlier } : { to: earlier, back: later };
    };
    const inner = PREFIX.exec(name);
    if (inner) {
      const row = INNER.find((r) => r[mine] === inner[2]);
      return {
        name: `${inner[1] ?? ''}${row ? row[theirs] : (inner[2] ?? '')}`,
        ...(row ? manners(row) : { to: same, back: same }),
      };
    }
    const row = NAMES.find((r) => name === r[mine] || name.startsWith(`${r[mine]}.`));
    return row ? { name: row[theirs] + name.slice(row[mine].length), ...manners(row) } : null;
  };

  /** Errors by their numbers in 2004, as 1.2 has them, and the other way round. */
  const error12: Record<string, string> = {
    '102': '101',
    '103': '101',
    '104': '101',
    '111': '101',
    '122': '301',
    '123': '301',
    '132': '301',
    '133': '301',
    '142': '301',
    '143': '301',
    '301': '201',
    '351': '101',
    '391': '101',
    '402': '401',
    '403': '0',
    '404': '403',
    '405': '404',
    '406': '405',
    '407': '405',
    '408': '201',
  };
  const error2004: Record<string, string> = {
    '202': '201',
    '203': '201',
    '301': '122',
    '402': '351',
    '403': '404',
    '404': '405',
    '405': '406',
  };

  const later = findApi('API_1484_11');
  const earlier = findApi('API');
  const platform = later ?? earlier;
  if (!platform || (later && earlier)) return;
  const has2004 = later !== null;
  const call = (name: string, ...args: string[]): string =>
    String(platform[has2004 ? name : `LMS${name}`]?.(...args) ?? '');
  const kept = new Map<string, string>();

  const get = (name: string): string => {
    const there = translated(name, has2004);
    if (!there) return kept.get(name) ?? '';
    const value = call('GetValue', there.name);
    return value === '' ? (kept.get(name) ?? '') : there.back(value);
  };
  const set = (name: string, value: string): string => {
    kept.set(name, value);
    const there = translated(name, has2004);
    return there ? call('SetValue', there.name, there.to(value)) : 'true';
  };

  /** What 1.2 says in one word, 2004 says in two: whether it is done, and whether it went well. */
  const statusIn = (place: string, own: string): string => {
    const success = call('GetValue', `${place}success_status`);
    if (/^(passed|failed)$/.test(success)) return success;
    const completion = call('GetValue', `${place}completion_status`);
    return completion === 'unknown' || completion === '' ? (kept.get(own) ?? 'not attempted') : completion;
  };
  const setStatusIn = (place: string, own: string, value: string): string => {
    kept.set(own, value);
    if (/^(passed|failed)$/.test(value)) call('SetValue', `${place}success_status`, value);
    const done = value === 'passed' || value === 'failed' || value === 'browsed' ? 'completed' : value;
    return call('SetValue', `${place}completion_status`, done);
  };
  const STATUS_12 = /^cmi\.(?:core\.lesson_status|(objectives\.\d+\.)status)$/;
  const api12: Api = {
    LMSInitialize: () => call('Initialize', ''),
    LMSFinish: () => call('Terminate', ''),
    LMSCommit: () => call('Commit', ''),
    LMSGetValue: (name = '') => {
      const status = STATUS_12.exec(name);
      return status ? statusIn(`cmi.${status[1] ?? ''}`, name) : get(name);
    },
    LMSSetValue: (name = '', given = '') => {
      const value = String(given);
      const status = STATUS_12.exec(name);
      if (status) return setStatusIn(`cmi.${status[1] ?? ''}`, name, value);
      const raw = /^cmi\.(core\.|objectives\.\d+\.)score\.raw$/.exec(name);
      if (raw) {
        const place = `cmi.${raw[1] === 'core.' ? '' : (raw[1] ?? '')}score.`;
        const [low, high] = ['min', 'max'].map((end) => kept.get(name.replace(/raw$/, end)) ?? '');
        const [least, most] = [Number(low || 0), Number(high || 100)];
        const scaled = most > least ? (Number(value) - least) / (most - least) : 0;
        call('SetValue', `${place}scaled`, String(Math.max(-1, Math.min(1, Math.round(scaled * 1e7) / 1e7))));
      }
      return set(name, value);
    },
    LMSGetLastError: () => {
      const code = call('GetLastError');
      return error12[code] ?? code;
    },
    LMSGetErrorString: (code = '') => call('GetErrorString', error2004[code] ?? code),
    LMSGetDiagnostic: (code = '') => call('GetDiagnostic', error2004[code] ?? code),
  };

  const STATUS_2004 = /^cmi\.(objectives\.\d+\.)?(success_status|completion_status)$/;
  const api2004: Api = {
    Initialize: () => call('Initialize', ''),
    Terminate: () => call('Finish', ''),
    Commit: () => call('Commit', ''),
    GetValue: (name = '') => {
      const status = STATUS_2004.exec(name);
      if (status) {
        const said = call('GetValue', status[1] ? `cmi.${status[1]}status` : 'cmi.core.lesson_status');
        const isJudged = /^(passed|failed)$/.test(said);
        if (status[2] === 'success_status') return isJudged ? said : (kept.get(name) ?? 'unknown');
        if (isJudged || said === 'browsed') return kept.get(name) ?? 'completed';
        return said === '' ? (kept.get(name) ?? 'unknown') : said;
      }
      if (/^cmi\.score\.scaled$/.test(name)) {
        const raw = call('GetValue', 'cmi.core.score.raw');
        return raw === '' ? (kept.get(name) ?? '') : share(raw);
      }
      return get(name);
    },
    SetValue: (name = '', given = '') => {
      const value = String(given);
      const status = STATUS_2004.exec(name);
      if (status) {
        kept.set(name, value);
        const place = status[1] ? `cmi.${status[1]}` : 'cmi.';
        const success = kept.get(`${place}success_status`) ?? '';
        const completion = kept.get(`${place}completion_status`) ?? '';
        const word = /^(passed|failed)$/.test(success) ? success : completion;
        if (word === '' || word === 'unknown') return 'true';
        return call('SetValue', status[1] ? `${place}status` : 'cmi.core.lesson_status', word);
      }
      if (/^cmi\.score\.scaled$/.test(name)) {
        kept.set(name, value);
        // A score of 1.2 lies between 0 and 100 (RTE 3.4.2.2.2).
        return call(
          'SetValue',
          'cmi.core.score.raw',
          String(Math.max(0, Math.min(100, Math.round(Number(value) * 1e4) / 100))),
        );
      }
      // The share says the same, and in the measure that 1.2 has.
      if (/^cmi\.score\.(raw|min|max)$/.test(name) && kept.has('cmi.score.scaled')) {
        kept.set(name, value);
        return 'true';
      }
      return set(name, value);
    },
    GetLastError: () => {
      const code = call('GetLastError');
      return error2004[code] ?? code;
    },
    GetErrorString: (code = '') => call('GetErrorString', error12[code] ?? code),
    GetDiagnostic: (code = '') => call('GetDiagnostic', error12[code] ?? code),
  };
  if (has2004) from.API = api12;
  else from.API_1484_11 = api2004;
}

/** The frame is filled once the interface is there, with what the platform gave the page to open with. */
export function open(document: Document, where: Location): void {
  document.addEventListener('DOMContentLoaded', () => {
    const frame = document.querySelector<HTMLIFrameElement>('iframe[data-object]');
    if (frame) frame.src = `${frame.dataset['object'] ?? ''}${where.search}${where.hash}`;
  });
}

export function bridgeScript(): string {
  return `(function () {\n  var __name = function (f) { return f; };\n  (${bridge.toString()})(window);\n  (${open.toString()})(document, location);\n})();\n`;
}
